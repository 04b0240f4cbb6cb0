// A rule proved against the failures of a study: which of them count, what is masked, and what is refused.
#include "work/prove/proving.h"

#include <nlohmann/json.hpp>

#include "store/history.h"
#include "work/mend/mending.h"
#include "work/prove/proofs.h"
#include "work/prove/proving_fixture.h"

namespace jacinth {
namespace {

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
    request.failures = "Failure";
    EXPECT_EQ(refusal(request),
              "`Failure` is neither a kind of failure nor a track of this study; nearest is `Failures`");
    request.failures = "Failures";
    request.masks = {"Stosp"};
    EXPECT_EQ(refusal(request), "`Stosp` is not a track of this study; nearest is `Stops`");
    request.masks = {"Stops", "Failures"};
    EXPECT_EQ(proved(request).caught, 3);
}

TEST_F(Proving, AConditionMasksWhereItIsTrue) {
    // The high hours of kiln 2 on day 5 are taken out, and with them its false alarm.
    ProveRequest request = asking("@vib > 3");
    EXPECT_EQ(proved(request).falseAlarms, 1);
    request.masks = {"Stops", "`Kiln 2/Vib` > 3 and @vib > 3"};
    const Proof masked = proved(request);
    EXPECT_EQ(masked.falseAlarms, 0);
    EXPECT_GT(masked.masked, 0);
    request.masks = {"@vib >"};
    EXPECT_NE(refusal(request), "it was proved");
    request.masks = {"@vib + 1"};
    EXPECT_NE(refusal(request).find("a rule is a condition"), std::string::npos) << refusal(request);
}

/// The wind at the site, an hour a sample: 5 on the two days before day 10, else 1.
class ProvingByTheWeather : public Proving {
  protected:
    void fill() override {
        Proving::fill();
        const AssetId site = study->catalog().addAsset("Site");
        const TagId wind = study->catalog().addTag(site, "Wind", "m/s", TagKind::Continuous);
        Series s;
        for (int h = 0; h < kProvedDays * 24; ++h) s.push(at(h * kHour), h / 24 == 8 || h / 24 == 9 ? 5 : 1);
        study->samples().write(wind, s);
        study->catalog().setSpacing(wind, kHour);
    }
};

TEST_F(ProvingByTheWeather, ATagOfNoneOfThemIsAboutAllThatFail) {
    const Proof proof = proved(asking("`Site/Wind` > 3"));
    EXPECT_EQ(proof.failures.size(), 4u);
    EXPECT_EQ(proof.untestable, 0) << "kiln 3 is under the same sky";
    EXPECT_EQ(proof.caught, 1);
    EXPECT_EQ(proof.missed, 3);
    EXPECT_EQ(proof.falseAlarms, 2) << "kilns 2 and 3; the site itself never fails";
    ProveRequest alone = asking("`Site/Wind` > 3");
    alone.asset = "Kiln 3";
    EXPECT_EQ(proved(alone).missed, 1);
    EXPECT_EQ(proved(alone).falseAlarms, 1);
}

TEST_F(ProvingByTheWeather, ATagOfOneOfThemIsAboutThatOne) {
    const Proof proof = proved(asking("`Kiln 2/Vib` > 3"));
    EXPECT_EQ(proof.caught, 1);
    EXPECT_EQ(proof.untestable, 3);
    EXPECT_EQ(proof.failures.front().reason, "not covered by the rule: the text names no tag of this asset");
    ProveRequest other = asking("`Kiln 2/Vib` > 3");
    other.asset = "Kiln 1";
    EXPECT_EQ(proved(other).falseAlarms, 2) << "asked about kiln 1 it is what another kiln knows of it";
}

TEST_F(ProvingByTheWeather, MasksEveryAsset) {
    ProveRequest request = asking("@vib > 3");
    request.masks = {"Stops", "`Site/Wind` > 3"};
    const Proof proof = proved(request);
    EXPECT_GT(proof.masked, 0);
    EXPECT_EQ(proof.caught, 2) << "not the failure that came after the wind";
}

TEST_F(ProvingByTheWeather, ARoleThatOnlyAnotherAssetHasSaysItsPath) {
    const Proof proof = proved(asking("@wind > 3"));
    EXPECT_EQ(proof.untestable, 4);
    EXPECT_NE(proof.failures.front().reason.find(
                  "`wind` is not a role of Kiln; `Site/Wind` by its path can be named on any asset"),
              std::string::npos)
        << proof.failures.front().reason;
}

TEST_F(ProvingByTheWeather, AKeptProofIsOldWhenTheWeatherIs) {
    const ProveRequest request = asking("`Site/Wind` > 3");
    const auto before = provedFrom(*study, request);
    EXPECT_EQ(before, provedFrom(*study, request));
    Series later;
    later.push(at(kProvedDays * kDay), 9);
    study->samples().write(study->catalog().find("Site/Wind")->id, later);
    EXPECT_NE(before, provedFrom(*study, request));
}

TEST_F(Proving, SettingsStandForTheirNumbers) {
    ProveRequest request = asking("@vib > {limit} for {hours}h");
    EXPECT_EQ(refusal(request), "the setting {limit} has no number");
    request.settings = {{"limit", 3}, {"hours", 2}};
    EXPECT_EQ(proved(request).caught, 3);
    request.settings["limit"] = 6;
    EXPECT_EQ(proved(request).caught, 0);
    request.settings["other"] = 1;
    EXPECT_EQ(refusal(request), "the rule has no setting {other}; it has {limit}, {hours}");
}

TEST_F(Proving, ARuleThatIsAlwaysOrNeverTrueHasItsFigures) {
    const Proof never = proved(asking("@vib > 100"));
    EXPECT_EQ(never.caught, 0);
    EXPECT_EQ(never.missed, 3);
    EXPECT_TRUE(never.alarms.empty());
    EXPECT_TRUE(std::isnan(never.medianWarningHours));
    EXPECT_TRUE(std::isnan(never.cameTrueShare.value));
    ProveRequest all = asking("@vib > 3");
    all.masks = {"@vib > -100"};
    const Proof nothing = proved(all);
    EXPECT_EQ(nothing.untestable, 4);
    EXPECT_EQ(nothing.caught + nothing.missed, 0);
    EXPECT_EQ(nothing.falsePerAssetMonth, 0);
}

TEST_F(Proving, WithoutFailuresEveryAlarmIsFalseOrOpen) {
    study->change("no failures", "", {}, [&] {
        for (const char* track : {"Failures", "Stops"})
            study->tracks().clear(study->tracks().named(track)->id);
    });
    const Proof proof = proved(asking("@vib > 3"));
    EXPECT_TRUE(proof.failures.empty());
    EXPECT_EQ(proof.cameTrue, 0);
    EXPECT_EQ(proof.falseAlarms + proof.open, static_cast<int>(proof.alarms.size()));
    EXPECT_TRUE(std::isnan(proof.catchRate.value));
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

TEST_F(Proving, ItSaysHowOftenTheRuleIsTrue) {
    EXPECT_NEAR(proved(asking("@vib > 3")).trueShare, 7.0 / (2 * kProvedDays), 0.005);
    EXPECT_DOUBLE_EQ(proved(asking("@vib > 0")).trueShare, 1);
    EXPECT_DOUBLE_EQ(proved(asking("@vib > 9")).trueShare, 0);
}

}  // namespace
}  // namespace jacinth
