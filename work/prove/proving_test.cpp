// A rule proved against the failures of a study: which of them count, what is masked, and what is refused.
#include "work/prove/proving.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/mend/mending.h"

namespace jacinth {
namespace {

constexpr int kProvedDays = 40;

/// Two kilns with `Vib`, an hour a sample: 1, and 5 for the two days before each failure. Kiln 1 fails on
/// days 10 and 20 and stands still for a day after; kiln 2 fails on day 30. Kiln 3 has no `Vib` and fails on
/// day 15. On kiln 2 it is 5 on day 5 as well, with nothing behind it.
class Proving : public NewStudy {
  protected:
    void fill() override {
        Catalog& catalog = study->catalog();
        const TrackId failures = study->tracks().put("Failures", track_kind::kFailures),
                      stops = study->tracks().put("Stops", track_kind::kStops);
        const std::map<int, std::vector<int>> failing{{1, {10, 20}}, {2, {30}}, {3, {15}}};
        for (const auto& [kiln, days] : failing) {
            const AssetId asset = catalog.addAsset("Kiln " + std::to_string(kiln));
            for (const int day : days) {
                study->tracks().addSpan(failures, {{}, asset, {}, at(day * kDay), at(day * kDay), {}});
                study->tracks().addSpan(stops, {{}, asset, {}, at(day * kDay), at((day + 1) * kDay), {}});
            }
            if (kiln == 3) {
                catalog.addTag(asset, "Flow", "m³/h", TagKind::Continuous);
                continue;
            }
            const TagId vib = catalog.addTag(asset, "Vib", "mm/s", TagKind::Continuous);
            Series s;
            for (int h = 0; h < kProvedDays * 24; ++h) {
                bool high = kiln == 2 && h / 24 == 5;
                for (const int day : days) high = high || (h >= (day - 2) * 24 && h < day * 24);
                s.push(at(h * kHour), high ? 5 : 1);
            }
            study->samples().write(vib, s);
            catalog.setSpacing(vib, kHour);
        }
    }
    Proof proved(const ProveRequest& request) {
        auto proof = proveRule(*study, request);
        EXPECT_TRUE(proof) << proof.error().message;
        return proof ? *proof : Proof{};
    }
    std::string refusal(const ProveRequest& request) {
        const auto proof = proveRule(*study, request);
        return proof ? "it was proved" : proof.error().message;
    }
    ProveRequest asking(const std::string& rule) {
        ProveRequest request;
        request.rule = rule;
        return request;
    }
};

TEST_F(Proving, EveryFailureHasAVerdictAlsoThoseTheRuleDoesNotCover) {
    const Proof proof = proved(asking("@vib > 3"));
    EXPECT_EQ(proof.caught, 3);
    EXPECT_EQ(proof.missed, 0);
    EXPECT_EQ(proof.untestable, 1);
    ASSERT_EQ(proof.failures.size(), 4u);
    const auto uncovered = std::find_if(proof.failures.begin(), proof.failures.end(),
                                        [](const FailureVerdict& v) { return !v.testable; });
    EXPECT_EQ(uncovered->time, at(15 * kDay));
    EXPECT_NE(uncovered->reason.find("not covered by the rule"), std::string::npos) << uncovered->reason;
    EXPECT_EQ(proof.cameTrue, 3);
    EXPECT_EQ(proof.falseAlarms, 1);
    EXPECT_DOUBLE_EQ(proof.cameTrueShare.value, 0.75);
    // The line to 5 crosses 3 half an hour before the first high sample; 48 h is the most that counts.
    EXPECT_DOUBLE_EQ(proof.medianWarningHours, 48);
}

TEST_F(Proving, TimeAfterAFailureDoesNotCountUntilTheStopEnds) {
    const Proof proof = proved(asking("@vib > 3"));
    // Forty days of two kilns, less a day after each of three failures; the last sample is at 23:00.
    EXPECT_NEAR(toHours(proof.countingTime), (2 * kProvedDays - 3) * 24 - 2, 0.5);
    ProveRequest request = asking("@vib > 0");
    const Proof always = proved(request);
    // Cut at the stops: an alarm before and one after each.
    EXPECT_EQ(always.alarms.size(), 5u);
    EXPECT_EQ(always.caught, 3);
}

TEST_F(Proving, OneAssetAlone) {
    ProveRequest request = asking("@vib > 3");
    request.asset = "Kiln 2";
    const Proof proof = proved(request);
    EXPECT_EQ(proof.failures.size(), 1u);
    EXPECT_EQ(proof.caught, 1);
    EXPECT_EQ(proof.falseAlarms, 1);
    request.asset = "Kiln 9";
    EXPECT_NE(refusal(request).find("Kiln 9"), std::string::npos) << refusal(request);
}

TEST_F(Proving, TracksAreChosenByNameAndASlipIsAnsweredWithTheNearest) {
    ProveRequest request = asking("@vib > 3");
    request.failuresTrack = "Failure";
    EXPECT_EQ(refusal(request), "`Failure` is not a track of this study; nearest is `Failures`");
    request.failuresTrack = "Failures";
    request.masks = {"Stosp"};
    EXPECT_EQ(refusal(request), "`Stosp` is not a track of this study; nearest is `Stops`");
    request.masks = {"Stops", "Failures"};
    EXPECT_EQ(proved(request).caught, 3);
}

TEST_F(Proving, WhatIsNoRuleIsRefused) {
    EXPECT_NE(refusal(asking("@vib + 1")).find("a rule is a condition"), std::string::npos);
    EXPECT_NE(refusal(asking("@vib >")), "it was proved");
    EXPECT_NE(refusal(asking("")), "it was proved");
    EXPECT_NE(refusal(asking("@steam > 3")), "it was proved");
    ProveRequest request = asking("@vib > 3");
    request.spec.least = 72 * kHour;
    EXPECT_EQ(refusal(request), "the least warning is longer than the most");
}

TEST_F(Proving, AFixChangesTheProofAndLoggedDataDoesNot) {
    const TagId vib = study->catalog().tagAt("Kiln 2/Vib")->id;
    ASSERT_TRUE(enterFix(*study, {{}, vib, ShiftFix{-4}, at(0), at(kProvedDays * kDay), true, "mount"}));
    EXPECT_EQ(proved(asking("@vib > 3")).caught, 2);
    EXPECT_EQ(proved(asking("@vib > 3")).falseAlarms, 0);
    ProveRequest request = asking("@vib > 3");
    request.which = Which::AsLogged;
    EXPECT_EQ(proved(request).caught, 3);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(proved(asking("@vib > 3")).caught, 3);
}

TEST_F(Proving, IsStoppedWhenAskedTo) {
    const auto proof = proveRule(*study, asking("@vib > 3"), Progress([](double) { return false; }));
    ASSERT_FALSE(proof);
    EXPECT_EQ(proof.error().kind, ErrorKind::Cancelled);
}

TEST_F(Proving, ReachSaysWhereAndHowOften) {
    const auto reach = ruleReach(*study, "@vib > 3", Which::Mended);
    ASSERT_TRUE(reach);
    ASSERT_EQ(reach->trueStretches.size(), 2u);
    const AssetId second = study->catalog().tagAt("Kiln 2/Vib")->asset;
    ASSERT_EQ(reach->trueStretches.at(second).size(), 2u);
    EXPECT_EQ(reach->trueStretches.at(second)[0].from, at(5 * kDay - kHour / 2));
    EXPECT_NEAR(reach->shareTrue, 7.0 / (2 * kProvedDays), 0.005);
    EXPECT_FALSE(ruleReach(*study, "@vib", Which::Mended));
}

TEST_F(Proving, ARuleIsKeptUnderItsNameAsOneStep) {
    const auto rules = [&] { return study->judgement().rules(); };
    keepRule(*study, {"High vibration", "@vib > 3", {}});
    keepRule(*study, {"High vibration", "@vib > 4", {}});
    keepRule(*study, {"Low vibration", "@vib < 0.5", {}});
    ASSERT_EQ(rules().size(), 2u);
    ASSERT_TRUE(study->history().undo());
    ASSERT_EQ(rules().size(), 1u);
    EXPECT_EQ(rules()[0].text, "@vib > 4");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(rules()[0].text, "@vib > 3");
}

}  // namespace
}  // namespace jacinth
