#include "core/prove/prove.h"
#include "core/time/times_for_tests.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

constexpr Instant kFailure = at(100 * kHour);
const ProveSpec kSpec{48 * kHour, 12 * kHour, {}};

AssetCase caseWith(std::vector<TimeRange> alarms) {
    AssetCase a;
    a.asset = AssetId(1);
    a.alarms = std::move(alarms);
    a.failures = {kFailure};
    a.covered = {between(0, 1000 * kHour)};
    a.recordEnd = at(1000 * kHour);
    return a;
}

Proof proved(std::vector<TimeRange> alarms) {
    return prove({caseWith(std::move(alarms))}, kSpec);
}

TEST(Prove, CatchesAtTheEdgesOfTheWarningTime) {
    // Useful: from 52 h to 88 h, both included.
    EXPECT_EQ(proved({between(88 * kHour, 89 * kHour)}).caught, 1);
    EXPECT_EQ(proved({between(88 * kHour + kNanosecond, 89 * kHour)}).caught, 0);
    EXPECT_EQ(proved({between(50 * kHour, 52 * kHour + kNanosecond)}).caught, 1);
    EXPECT_EQ(proved({between(50 * kHour, 52 * kHour)}).caught, 0);  // an alarm does not last into its end
}

TEST(Prove, WarningTimeIsFromTheFirstAlarmButNotBeforeMost) {
    EXPECT_EQ(proved({between(60 * kHour, 61 * kHour), between(80 * kHour, 81 * kHour)}).failures[0].warning,
              40 * kHour);
    EXPECT_EQ(proved({between(10 * kHour, 81 * kHour)}).failures[0].warning, 48 * kHour);
}

TEST(Prove, EveryAlarmHasOneVerdict) {
    const Proof p = proved({between(10 * kHour, 11 * kHour),      // long before: false
                            between(60 * kHour, 61 * kHour),      // true
                            between(95 * kHour, 96 * kHour),      // late
                            between(300 * kHour, 301 * kHour),    // false
                            between(990 * kHour, 991 * kHour)});  // record ends too soon: open
    ASSERT_EQ(p.alarms.size(), 5u);
    EXPECT_EQ(p.alarms[0].verdict, Verdict::False);
    EXPECT_EQ(p.alarms[1].verdict, Verdict::True);
    EXPECT_EQ(p.alarms[2].verdict, Verdict::Late);
    EXPECT_EQ(p.alarms[3].verdict, Verdict::False);
    EXPECT_EQ(p.alarms[4].verdict, Verdict::Open);
    EXPECT_EQ(p.falseAlarms, 2);
    EXPECT_NEAR(p.cameTrueShare.value, 1.0 / 3, 1e-12);
}

TEST(Prove, StopsDoNotCount) {
    AssetCase a = caseWith({between(300 * kHour, 301 * kHour), between(399 * kHour, 405 * kHour)});
    a.notCounted = {between(290 * kHour, 310 * kHour), between(400 * kHour, 410 * kHour)};
    const Proof p = prove({a}, kSpec);
    ASSERT_EQ(p.alarms.size(), 2u);
    EXPECT_EQ(p.alarms[0].verdict, Verdict::Masked);
    EXPECT_EQ(p.alarms[1].verdict, Verdict::False);
    EXPECT_EQ(p.alarms[1].range.to, at(400 * kHour));
    EXPECT_EQ(p.countingTime, 970 * kHour);
    EXPECT_NEAR(p.falsePerAssetMonth, 1 / (970 / (365.25 / 12 * 24)), 1e-9);
}

TEST(Prove, CloseAlarmsAreOne) {
    AssetCase a = caseWith({between(300 * kHour, 301 * kHour), between(303 * kHour, 304 * kHour)});
    EXPECT_EQ(prove({a}, {48 * kHour, 12 * kHour, 2 * kHour}).falseAlarms, 1);
    EXPECT_EQ(prove({a}, {48 * kHour, 12 * kHour, kHour}).falseAlarms, 2);
}

TEST(Prove, FailuresWithoutDataAreNamedNotCounted) {
    AssetCase a = caseWith({});
    a.covered = {between(0, 70 * kHour - kNanosecond),
                 between(200 * kHour, 1000 * kHour)};  // a hair less than half of 52 h to 88 h
    Proof p = prove({a}, kSpec);
    EXPECT_EQ(p.untestable, 1);
    EXPECT_EQ(p.missed, 0);
    EXPECT_FALSE(p.failures[0].testable);
    a.covered[0].to = at(70 * kHour);
    EXPECT_EQ(prove({a}, kSpec).missed, 1);
}

TEST(Prove, AnOffDelayKeepsAnAlarmOn) {
    ProveSpec spec = kSpec;
    // Over at 50 h, on for 3 h more: it is on at 52 h, when warning becomes useful.
    EXPECT_EQ(prove({caseWith({between(49 * kHour, 50 * kHour)})}, spec).caught, 0);
    spec.offDelay = 3 * kHour;
    const Proof p =
        prove({caseWith({between(49 * kHour, 50 * kHour), between(52 * kHour, 54 * kHour)})}, spec);
    EXPECT_EQ(p.caught, 1);
    ASSERT_EQ(p.alarms.size(), 1u) << "it is still on when the rule is true again";
    EXPECT_EQ(p.alarms[0].range, between(49 * kHour, 57 * kHour));
    const Proof end = prove({caseWith({between(998 * kHour, 999 * kHour)})}, spec);
    EXPECT_EQ(end.alarms[0].range.to, at(1000 * kHour)) << "not longer than the record";
}

TEST(Prove, AWarningThatCameTooLateIsSaid) {
    const Proof p = proved({between(95 * kHour, 96 * kHour)});
    EXPECT_EQ(p.missed, 1);
    EXPECT_TRUE(p.failures[0].late);
    EXPECT_FALSE(proved({between(60 * kHour, 61 * kHour), between(95 * kHour, 96 * kHour)}).failures[0].late);
    EXPECT_FALSE(proved({}).failures[0].late);
}

TEST(Prove, NearMissesAreCountedApart) {
    AssetCase a = caseWith({between(300 * kHour, 301 * kHour), between(400 * kHour, 401 * kHour),
                            between(60 * kHour, 61 * kHour), between(990 * kHour, 991 * kHour)});
    a.nearMisses = {between(300 * kHour + kMinute, 310 * kHour), between(60 * kHour, 61 * kHour),
                    between(990 * kHour, 991 * kHour)};
    Proof p = prove({a}, kSpec);
    EXPECT_EQ(p.nearMisses, 1) << "only one that would be false";
    EXPECT_EQ(p.falseAlarms, 1);
    EXPECT_EQ(p.cameTrue, 1);
    EXPECT_EQ(p.open, 1);
    a.trueAfterAll = {between(400 * kHour, 401 * kHour)};
    p = prove({a}, kSpec);
    EXPECT_EQ(p.falseAlarms, 0);
    EXPECT_EQ(p.cameTrue, 2);
    EXPECT_EQ(p.caught, 1) << "a failure that is not on record is not caught";
    a.nearMisses = {between(301 * kHour, 302 * kHour)};
    EXPECT_EQ(prove({a}, kSpec).nearMisses, 0) << "it only touches the alarm";
}

TEST(Prove, FiguresAreCountedAgainFromVerdicts) {
    const Proof p = proved(
        {between(10 * kHour, 11 * kHour), between(60 * kHour, 61 * kHour), between(95 * kHour, 96 * kHour)});
    Proof again;
    again.failures = p.failures;
    again.alarms = p.alarms;
    again.countingTime = p.countingTime;
    again.caught = 17;
    countVerdicts(again);
    EXPECT_EQ(std::tuple(again.caught, again.falseAlarms, again.late, again.falsePerAssetMonth),
              std::tuple(p.caught, p.falseAlarms, p.late, p.falsePerAssetMonth));
    EXPECT_EQ(again.catchRate.low, p.catchRate.low);
}

TEST(Prove, TheShortestUsefulWarningDecidesWhatIsCaught) {
    // On from 40 h to 30 h before the failure.
    const Proof p = proved({between(60 * kHour, 70 * kHour)});
    const auto steps = caughtByLeast(p, kSpec, 49);
    ASSERT_EQ(steps.size(), 49u);
    for (const auto& [least, caught] : steps)
        EXPECT_EQ(caught, least <= 40 * kHour ? 1 : 0) << toHours(least);
    // The scorer agrees at every step.
    for (const auto& [least, caught] : steps) {
        ProveSpec other = kSpec;
        other.least = least;
        EXPECT_EQ(prove({caseWith({between(60 * kHour, 70 * kHour)})}, other).caught, caught);
    }
}

}  // namespace
}  // namespace jacinth
