// Suspected steps in a study: found, taken out, judged, undone.
#include "work/mend/step_search.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/steps/steps_fixture.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/study_database.h"
#include "work/base/study_fixture.h"
#include "work/derived/derived_expressions.h"
#include "work/derived/derived_refresh.h"
#include "work/mend/mending.h"
#include "work/mend/take_out_step.h"

namespace jacinth {
namespace {

/// Two kilns; on the first, RH and Temp share a mount that is knocked for two days.
class StepSearching : public NewStudy {
  protected:
    void fill() override {
        for (const char* kiln : {"Kiln 1", "Kiln 2"}) {
            SteppedAsset asset(kiln[5] == '1' ? 7u : 8u);
            if (kiln[5] == '1') {
                SteppedAsset::shift(asset.value, kKnocked, kBack, -5);
                SteppedAsset::shift(asset.other, kKnocked, kBack, 3);
            }
            Catalog& catalog = study->catalog();
            const AssetId id = catalog.addAsset(kiln);
            const auto add = [&](const char* name, const char* unit, const Series& series) {
                const TagId tag = catalog.addTag(id, name, unit, TagKind::Continuous);
                study->samples().write(tag, series);
                catalog.setSpacing(tag, kMinute);
            };
            add("RH", "%", asset.value);
            add("RH twin", "%", asset.twin);
            add("Temp", "°C", asset.other);
            const TagId state = catalog.addTag(id, "Step", "", TagKind::State);
            for (const char* name : {"Heat", "Rest"}) catalog.addState(state, name);
            Series states;
            for (const RecurringStretch& s : asset.states) states.push(s.range.from, s.kind);
            study->samples().write(state, states);
        }
    }
    std::vector<SuspectedStep> found() { return (*findSteps(*study, {})).steps; }
    std::string path(const SuspectedStep& s) { return study->catalog().tag(s.tag)->path(); }
    static constexpr int kKnocked = SteppedAsset::day(8.1), kBack = SteppedAsset::day(10.1);
};

TEST_F(StepSearching, TwoTagsOfOneMountAreFoundAndTakenOutTogether) {
    const auto steps = found();
    ASSERT_EQ(steps.size(), 2u);
    EXPECT_EQ(path(steps[0]), "Kiln 1/RH");
    EXPECT_EQ(path(steps[1]), "Kiln 1/Temp");
    ASSERT_EQ(mountMates(steps, 0), (std::vector<std::size_t>{0, 1}));
    std::vector<Fix> fixes;
    for (const std::size_t i : mountMates(steps, 0)) fixes.push_back(fixOfStep(*study, steps[i]));
    for (Fix& f : fixes) f.why = "knocked at wash-down";
    ASSERT_TRUE(enterFixes(*study, fixes));
    const auto& fix = study->judgement().fixes(steps[0].tag).front();
    EXPECT_EQ(fix.from, at(kKnocked * kMinute));
    EXPECT_LT(fix.to, at(kBack * kMinute));
    EXPECT_GT(fix.to, at((kBack - 1) * kMinute));
    EXPECT_NEAR(std::get<ShiftFix>(fix.body).by, 5, 0.3);
    EXPECT_TRUE(isTakenOut(*study, steps[0]));
    EXPECT_TRUE(found().empty());  // what is mended is not found again
    ASSERT_TRUE(study->history().undo());
    EXPECT_FALSE(isTakenOut(*study, steps[0]));
    EXPECT_EQ(found().size(), 2u);
}

TEST_F(StepSearching, OneThatStaysIsTakenOutToTheEnd) {
    SuspectedStep step = found().front();
    step.returns.reset();
    EXPECT_EQ(fixOfStep(*study, step).to, study->record().to);
}

TEST_F(StepSearching, AVerdictIsRememberedReplacedAndTakenBack) {
    const auto steps = found();
    const Status blank = judgeStep(*study, steps[0], StepVerdict::Leave, "  ");
    ASSERT_FALSE(blank);
    EXPECT_NE(blank.error().message.find("say why"), std::string::npos);
    ASSERT_TRUE(judgeStep(*study, steps[0], StepVerdict::Leave, "known"));
    auto verdicts = verdictsOn(*study, found());
    ASSERT_TRUE(verdicts[0]);
    EXPECT_FALSE(verdicts[1]);
    EXPECT_EQ(verdicts[0]->verdict, StepVerdict::Leave);
    ASSERT_TRUE(judgeStep(*study, steps[0], StepVerdict::Process, "new probe"));
    verdicts = verdictsOn(*study, found());
    EXPECT_EQ(verdicts[0]->verdict, StepVerdict::Process);
    EXPECT_EQ(verdicts[0]->why, "new probe");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(verdictsOn(*study, found())[0]->why, "known");
    ASSERT_TRUE(forgetVerdict(*study, steps[0]));
    EXPECT_FALSE(verdictsOn(*study, found())[0]);
    EXPECT_FALSE(forgetVerdict(*study, steps[0]));
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(verdictsOn(*study, found())[0]);
    // Another step of the same tag, or one the other way, has its own.
    SuspectedStep other = steps[0];
    other.size = -other.size;
    EXPECT_FALSE(verdictsOn(*study, {other})[0]);
}

TEST_F(StepSearching, TheSentenceSaysWhatAndWhy) {
    const auto steps = found();
    const std::string rh = stepSentence(*study, steps[0]), temp = stepSentence(*study, steps[1]);
    EXPECT_NE(rh.find("Kiln 1/RH falls by"), std::string::npos) << rh;
    EXPECT_NE(rh.find("returns after 2 d"), std::string::npos) << rh;
    EXPECT_NE(rh.find("RH twin, which reads the same, did not move"), std::string::npos) << rh;
    EXPECT_NE(temp.find("RH stepped at the same moment: one mount"), std::string::npos) << temp;
}

TEST_F(StepSearching, TheSentenceNamesCompanionsThatDidNotMove) {
    SuspectedStep step = found()[0];
    step.twin = {};
    step.sharedWith.clear();
    step.companions = {study->catalog().tagAt("Kiln 1/RH twin")->id,
                       study->catalog().tagAt("Kiln 1/Temp")->id};
    const std::string says = stepSentence(*study, step);
    EXPECT_NE(says.find("RH twin and Temp, with which it usually moves, did not"), std::string::npos) << says;
}

TEST_F(StepSearching, WhatIsCalculatedHasNoStepsOfItsOwn) {
    ASSERT_TRUE(defineDerived(*study, {"Sum", "%", "@rh + @temp", ""}));
    ASSERT_TRUE(refreshDerived(*study));
    ASSERT_TRUE(
        std::isfinite(study->valueAt(*study->catalog().tagAt("Kiln 1/Sum"), at(kDay), Which::Mended)));
    EXPECT_EQ(found().size(), 2u);
}

TEST_F(StepSearching, OneAssetAloneAndAStop) {
    StepSearch search;
    search.assets = {study->catalog().assetNamed("Kiln 2")->id};
    EXPECT_TRUE((*findSteps(*study, search)).steps.empty());
    search.assets = {study->catalog().assetNamed("Kiln 1")->id};
    EXPECT_EQ((*findSteps(*study, search)).steps.size(), 2u);
    const auto stopped = findSteps(*study, {}, Progress([](double) { return false; }));
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, ErrorKind::Cancelled);
}

}  // namespace
}  // namespace jacinth
