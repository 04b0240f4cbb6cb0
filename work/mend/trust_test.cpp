// Trust and sign-off in a study: painted, cut, refused, undone, and honoured where only sound data counts.
#include "work/mend/trust.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "work/base/expression_over_time.h"
#include "work/base/study_fixture.h"
#include "work/base/study_inputs.h"
#include "work/mend/mending.h"
#include "work/settings/study_settings.h"

namespace jacinth {
namespace {

class TrustInStudy : public NewStudy {
  protected:
    void fill() override {
        asset = study->catalog().addAsset("Kiln 1");
        tag = study->catalog().addTag(asset, "RH", "%", TagKind::Continuous);
        Series s;
        for (int m = 0; m <= 600; ++m) s.push(at(m * kMinute), m < 300 ? 10 : 50);
        study->samples().write(tag, s);
        study->setWho("M. L.");
    }
    Status paint(Duration from, Duration to, const std::string& trust, const std::string& signOff = "") {
        return paintTrust(*study, {tag}, between(from, to), {trust, signOff, "seen on site"});
    }
    std::string grades() {
        std::string out;
        for (const GradedStretch& s : trustOf(*study, tag, between(0, kDay), Which::Mended))
            out += s.grade + " " + formatDuration(s.range.from - at(0)) + "–" +
                   formatDuration(s.range.to - at(0)) + "; ";
        return out;
    }
    double mean() {
        const auto expression = compileExpression("mean(@rh over 10h)", namesIn(*study, asset));
        StudyInputs inputs(*study, asset, between(10 * kHour, 10 * kHour + kMinute), expression->lookBack,
                           Which::Mended);
        const auto value = evaluate(*expression, inputs, between(10 * kHour, 10 * kHour + kMinute));
        return signalAt(std::get<Signal>(*value), at(10 * kHour));
    }
    AssetId asset;
    TagId tag;
};

TEST_F(TrustInStudy, AStretchIsPaintedOverAnotherAndUndone) {
    ASSERT_TRUE(paint(0 * kHour, 6 * kHour, "sound"));
    ASSERT_TRUE(paint(2 * kHour, 3 * kHour, "doubtful"));
    EXPECT_EQ(grades(), "sound 0s–2h; doubtful 2h–3h; sound 3h–6h; ");
    ASSERT_TRUE(paint(kHour, 4 * kHour, kNotJudged));
    EXPECT_EQ(grades(), "sound 0s–1h; sound 4h–6h; ");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(grades(), "sound 0s–2h; doubtful 2h–3h; sound 3h–6h; ");
    ASSERT_TRUE(study->history().undo());
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(grades(), "");
    EXPECT_TRUE(study->check().empty());
}

TEST_F(TrustInStudy, WhatCannotBePaintedIsRefusedAndChangesNothing) {
    const Status wrong = paint(0 * kHour, kHour, "sond");
    ASSERT_FALSE(wrong);
    EXPECT_NE(wrong.error().message.find("nearest is `sound`"), std::string::npos) << wrong.error().message;
    EXPECT_FALSE(paint(kHour, kHour, "sound")) << "no length";
    EXPECT_FALSE(paint(0 * kHour, kHour, "", "")) << "nothing to paint";
    EXPECT_FALSE(paintTrust(*study, {TagId(99)}, between(0, kHour), {"sound", "", ""}));
    TrustSettings settings;
    settings.who["sound"] = {"R. Osen"};
    ASSERT_TRUE(setTrustSettings(*study, settings));
    EXPECT_FALSE(paint(0 * kHour, kHour, "sound"));
    EXPECT_EQ(grades(), "");
    study->setWho("R. Osen");
    EXPECT_TRUE(paint(0 * kHour, kHour, "sound"));
}

TEST_F(TrustInStudy, NobodySignsWhatTheyFixed) {
    Fix fix;
    fix.tag = tag;
    fix.body = ShiftFix{2};
    fix.from = at(kHour), fix.to = at(2 * kHour);
    fix.why = "knocked";
    ASSERT_TRUE(enterFix(*study, fix));
    EXPECT_TRUE(paint(0 * kHour, 3 * kHour, "", "checked")) << "only the last grade ends the work";
    EXPECT_FALSE(paint(0 * kHour, 3 * kHour, "", "signed"));
    EXPECT_TRUE(paint(3 * kHour, 4 * kHour, "", "signed")) << "nothing of theirs is there";
    study->setWho("R. Osen");
    EXPECT_TRUE(paint(0 * kHour, 3 * kHour, "", "signed"));
    study->setWho("M. L.");
    TrustSettings settings;
    settings.ownFixes = true;
    ASSERT_TRUE(setTrustSettings(*study, settings));
    EXPECT_TRUE(paint(0 * kHour, 3 * kHour, "", "signed"));
}

TEST_F(TrustInStudy, OnlySoundDataLeavesOutWhatIsNotTrusted) {
    EXPECT_NEAR(mean(), 30, 0.5);
    ASSERT_TRUE(paint(0 * kHour, 4 * kHour, "unusable"));
    EXPECT_NEAR(mean(), 30, 0.5) << "asked for all data";
    setSoundDataOnly(*study, true);
    EXPECT_NEAR(mean(), 43, 0.7) << "an hour of 10 and five of 50";
    ASSERT_TRUE(paint(0 * kHour, 4 * kHour, "fair"));
    EXPECT_NEAR(mean(), 30, 0.5) << "fair counts";
    TrustSettings settings;
    settings.soundDownTo = "sound";
    ASSERT_TRUE(setTrustSettings(*study, settings));
    EXPECT_NEAR(mean(), 43, 0.7) << "unless the site says otherwise";
}

TEST_F(TrustInStudy, TheLanguageKnowsTheSitesGrades) {
    TrustSettings settings;
    settings.trust = {"good", "fair", "poor", "unusable"};
    ASSERT_TRUE(setTrustSettings(*study, settings));
    ASSERT_TRUE(paint(kHour, 2 * kHour, "poor"));
    const auto over = between(0, 5 * kHour);
    const auto trueIn = [&](const std::string& text) {
        const auto expression = compileExpression(text, namesIn(*study, asset));
        EXPECT_TRUE(expression) << (expression ? "" : expression.error().message);
        StudyInputs inputs(*study, asset, over, expression->lookBack, Which::Mended);
        const auto value = evaluate(*expression, inputs, over);
        const auto& c = std::get<Condition>(*value);
        return std::pair(conditionAt(c, at(30 * kMinute)), conditionAt(c, at(90 * kMinute)));
    };
    EXPECT_EQ(trueIn("trust(@rh) is \"poor\""), std::pair(Truth::False, Truth::True));
    EXPECT_EQ(trueIn("trust(@rh) is \"not judged\""), std::pair(Truth::True, Truth::False));
    EXPECT_EQ(trueIn("trust(`Kiln 1/RH`) is not \"good\" and @rh < 20"), std::pair(Truth::True, Truth::True));
    EXPECT_FALSE(compileExpression("trust(@rh) is \"sound\"", namesIn(*study, asset)));
    settings.trust = {"good", "fair", "unusable"};
    ASSERT_TRUE(setTrustSettings(*study, settings));
    EXPECT_EQ(trueIn("trust(@rh) is \"not judged\"").second, Truth::True) << "a grade that is gone is none";
}

TEST_F(TrustInStudy, TheScalesSurviveTheFileAndWhatCannotBeReadIsTheUsual) {
    TrustSettings settings;
    settings.signOff = {"open", "done"};
    settings.who["done"] = {"R. Osen", "M. L."};
    settings.filled = "";
    ASSERT_TRUE(setTrustSettings(*study, settings));
    study.reset();
    study = std::move(*Study::open(path));
    EXPECT_EQ(trustSettingsOf(*study), settings);
    EXPECT_EQ(study->history().ledger().back().what, "trust and sign-off: scales");
    study->setSetting("trust and sign-off", "{\"trust\":[\"a\",\"a\"]}");
    EXPECT_EQ(trustSettingsOf(*study), TrustSettings{});
    settings.trust.clear();
    EXPECT_FALSE(setTrustSettings(*study, settings));
}

}  // namespace
}  // namespace jacinth
