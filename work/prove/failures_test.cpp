// Failures written down, left out with a reason, and taken from labels and work orders; alarms broken down.
#include "work/prove/failures.h"

#include <nlohmann/json.hpp>

#include "store/history.h"
#include "store/judgement.h"
#include "work/label/labels.h"
#include "work/prove/breakdown.h"
#include "work/prove/lead_up_rules.h"
#include "work/prove/proving_fixture.h"

namespace jacinth {
namespace {

class Failures : public Proving {
  protected:
    std::vector<Span> all() { return study->tracks().spansOf(track_kind::kFailures); }
    AssetId kiln(int n) { return study->catalog().assetNamed("Kiln " + std::to_string(n))->id; }
    const FailureVerdict& verdictAt(const Proof& p, Instant t) {
        return *std::find_if(p.failures.begin(), p.failures.end(),
                             [&](const auto& f) { return f.time == t; });
    }
};

TEST_F(Failures, OneThatIsNotCountedIsListedWithItsReason) {
    const SpanId first = all().front().id;
    ASSERT_TRUE(setCounted(*study, {first}, false, "struck by a truck"));
    Proof p = proved(asking("@vib > 3"));
    EXPECT_EQ(p.failures.size(), 4u);
    EXPECT_EQ(p.caught, 2);
    EXPECT_EQ(p.untestable, 2);
    EXPECT_EQ(verdictAt(p, at(10 * kDay)).reason, "not counted: struck by a truck");
    EXPECT_EQ(p.falseAlarms, 2) << "the alarm before it is of nothing that counts";
    const Duration counting = p.countingTime;
    ASSERT_TRUE(setCounted(*study, {first}, true, ""));
    p = proved(asking("@vib > 3"));
    EXPECT_EQ(p.caught, 3);
    EXPECT_EQ(p.countingTime, counting) << "the stop after it did not count before either";
    EXPECT_TRUE(all().front().facts.empty());
    ASSERT_TRUE(study->history().undo());
    EXPECT_FALSE(isCounted(all().front()));
    EXPECT_FALSE(setCounted(*study, {SpanId(9999)}, false, "")) << "it is not there";
}

TEST_F(Failures, AreChosenByKind) {
    std::vector<Span> spans = all();
    spans[0].facts[kFailureKind] = "bearing", spans[1].facts[kFailureKind] = "belt";
    for (const int i : {0, 1}) ASSERT_TRUE(keepFailure(*study, spans[static_cast<std::size_t>(i)]));
    EXPECT_EQ(failureKinds(*study), (std::vector<std::string>{"bearing", "belt"}));
    ProveRequest request = asking("@vib > 3");
    request.failures = "bearing";
    EXPECT_EQ(proved(request).failures.size(), 1u);
    request.failures = "beering";
    EXPECT_NE(refusal(request).find("nearest is `bearing`"), std::string::npos) << refusal(request);
}

TEST_F(Failures, AreWrittenDownAndRemoved) {
    EXPECT_FALSE(keepFailure(*study, {{}, {}, {}, at(kDay), at(kDay), {}})) << "of no asset";
    ASSERT_TRUE(keepFailure(*study, {{}, kiln(2), {}, at(kDay), at(kDay), {}}));
    EXPECT_EQ(all().size(), 5u);
    EXPECT_EQ(all().front().start, at(kDay)) << "in order of time, however late it is written down";
    ASSERT_TRUE(removeFailures(*study, {all()[0].id, all()[1].id}));
    EXPECT_EQ(all().size(), 3u);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(all().size(), 5u);
}

TEST_F(Failures, ComeFromLabelsAndWorkOrdersOnce) {
    study->change("more", "", {}, [&] {
        LabelBook book = study->judgement().labelBook();
        book.push_back({"broken", "", "#332288", 0, false, ""});
        book.push_back({"belt off", "", "#88ccee", 0, false, "broken"});
        study->judgement().setLabelBook(book);
        const TrackId labels = labelTrack(*study),
                      orders = study->tracks().put("Orders", track_kind::kWorkOrders);
        study->tracks().addSpan(
            labels, {{}, kiln(1), {}, at(3 * kDay), at(4 * kDay), {{"kind", std::string("belt off")}}});
        study->tracks().addSpan(
            labels, {{}, kiln(1), {}, at(5 * kDay), at(6 * kDay), {{"kind", std::string("other")}}});
        study->tracks().addSpan(
            orders,
            {{}, kiln(2), {}, at(7 * kDay), at(7 * kDay), {{"text", std::string("New BEARING fitted")}}});
        study->tracks().addSpan(
            orders, {{}, {}, {}, at(8 * kDay), at(8 * kDay), {{"text", std::string("bearing ordered")}}});
    });
    const auto fromLabels = failuresFromLabels(*study, "broken", "");
    ASSERT_TRUE(fromLabels);
    EXPECT_EQ(fromLabels->added, 1u) << "also of a kind below it, not of another";
    EXPECT_EQ(factText(all().front().facts, kFailureKind), "broken");
    EXPECT_EQ(failuresFromLabels(*study, "broken", "")->known, 1u);
    EXPECT_EQ(failuresFromWorkOrders(*study, " bearing ", "bearing")->added, 1u) << "one is of no asset";
    EXPECT_FALSE(failuresFromWorkOrders(*study, "  ", ""));
    EXPECT_FALSE(failuresFromLabels(*study, "nothing", ""));
    EXPECT_EQ(all().size(), 6u);
}

TEST_F(Failures, AlarmsAreCountedByAssetMonthAndPhase) {
    const TrackId phases = study->tracks().put("Phases", track_kind::kPhases);
    study->change("phases", "", {}, [&] {
        study->tracks().addSpan(
            phases, {{}, kiln(2), {}, at(4 * kDay), at(6 * kDay), {{"phase", std::string("Cure")}}});
    });
    const Proof p = proved(asking("@vib > 3"));
    const auto byAsset = breakDown(*study, p, BreakdownBy::Asset);
    ASSERT_EQ(byAsset.size(), 2u);
    EXPECT_EQ(byAsset[0].cameTrue, 2);
    EXPECT_EQ(byAsset[1].falseAlarms, 1);
    Duration counting{};
    for (const AlarmShare& s : byAsset) counting += s.counting;
    EXPECT_EQ(counting, p.countingTime);
    const auto byMonth = breakDown(*study, p, BreakdownBy::Month);
    ASSERT_EQ(byMonth.size(), 2u) << "40 days from 1 January 1970";
    EXPECT_EQ(byMonth[0].name, "1970-01");
    int cameTrue = 0, falseAlarms = 0;
    counting = {};
    for (const AlarmShare& s : byMonth) {
        cameTrue += s.cameTrue, falseAlarms += s.falseAlarms;
        counting += s.counting;
    }
    EXPECT_EQ(std::tuple(cameTrue, falseAlarms, counting),
              std::tuple(p.cameTrue, p.falseAlarms, p.countingTime));
    const auto byKind = breakDown(*study, p, BreakdownBy::Group, "line");
    ASSERT_EQ(byKind.size(), 1u) << "no kiln has a line: one group, of those without";
    EXPECT_EQ(byKind[0].name, "without line");
    EXPECT_EQ(std::tuple(byKind[0].cameTrue, byKind[0].falseAlarms, byKind[0].counting),
              std::tuple(p.cameTrue, p.falseAlarms, p.countingTime));
    study->catalog().setAssetFacts(kiln(1), {{"line", std::string("A")}});
    study->catalog().setAssetFacts(kiln(3), {{"line", std::string("B")}});
    const auto byLine = breakDown(*study, p, BreakdownBy::Group, "line");
    ASSERT_EQ(byLine.size(), 2u) << "nothing counts on kiln 3";
    EXPECT_EQ(std::tuple(byLine[0].name, byLine[0].cameTrue, byLine[0].falseAlarms), std::tuple("A", 2, 0));
    EXPECT_EQ(std::tuple(byLine[1].name, byLine[1].cameTrue, byLine[1].falseAlarms),
              std::tuple("without line", 1, 1));
    const auto byPhase = breakDown(*study, p, BreakdownBy::Phase);
    ASSERT_EQ(byPhase.size(), 2u);
    EXPECT_EQ(byPhase[0].name, "Cure");
    EXPECT_EQ(byPhase[0].falseAlarms, 1);
    EXPECT_EQ(byPhase[1].cameTrue, 3);
}

TEST_F(Failures, OfManyTheLeadUpTakesSomeFromFirstToLast) {
    std::vector<LeadUpStretch> many;
    for (int i = 0; i < 1000; ++i) many.push_back({AssetId(1), at(i * kHour)});
    const auto some = spreadOver(many, 200);
    ASSERT_EQ(some.size(), 200u);
    EXPECT_EQ(some.front(), many.front());
    EXPECT_EQ(some.back(), many.back());
    for (std::size_t i = 1; i < some.size(); ++i) {
        const Duration step = some[i].zero - some[i - 1].zero;
        EXPECT_TRUE(step == 5 * kHour || step == 6 * kHour) << i;
    }
    EXPECT_EQ(spreadOver({many[3], many[1]}, 2), (std::vector{many[3], many[1]}));
}

TEST_F(Failures, APartOfTheLeadUpBecomesRules) {
    LeadUpPart part{"vib", 24 * kHour, 0 * kHour, {}, {}};
    for (const Span& f : all()) part.failures.push_back({f.asset, f.start});
    part.quiet = quietStretches(study->record(), part.failures, 7 * kDay, 2 * kDay, 1);
    ASSERT_FALSE(part.quiet.empty());
    std::vector<std::string> told;
    const auto rules =
        rulesFromPart(*study, asking(""), part, {}, [&](const LeadUpRule& r) { told.push_back(r.measure); });
    ASSERT_TRUE(rules) << rules.error().message;
    EXPECT_EQ(told.size(), rules->size());
    const auto mean =
        std::find_if(rules->begin(), rules->end(), [](const auto& r) { return r.measure == "mean"; });
    ASSERT_NE(mean, rules->end());
    EXPECT_EQ(mean->text, "mean(@vib over 24h) > {limit}");
    EXPECT_EQ(mean->atFailures.size(), 4u);
    EXPECT_NEAR(mean->limit, 3, 0.11) << "half way between 1 and 5";
    EXPECT_EQ(mean->tally.caught, 3);
    // What is said of it is what a proof of it says.
    ProveRequest request = asking(mean->text);
    request.settings = {{"limit", mean->bestLimit}};
    EXPECT_EQ(proved(request).caught, mean->bestTally.caught);
    EXPECT_EQ(proved(request).falseAlarms, mean->bestTally.falseAlarms);
    part.name = "steam";
    EXPECT_FALSE(rulesFromPart(*study, asking(""), part));
    part.name = "vib", part.to = part.from;
    EXPECT_EQ(rulesFromPart(*study, asking(""), part).error().message, "the part has no length");
}

}  // namespace
}  // namespace jacinth
