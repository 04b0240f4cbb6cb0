#include "core/golden/line_up.h"

#include <gtest/gtest.h>

#include "core/golden/excursions.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

const Bridging kBridged{TagKind::Continuous, kHour};
const Duration kUnit = indicatorStep(1);

std::vector<RunPhase> phases(Duration since1970, std::initializer_list<std::pair<const char*, int>> minutes) {
    std::vector<RunPhase> out;
    Instant start(since1970);
    for (const auto& [name, m] : minutes) {
        out.push_back({name, {start, start + m * kMinute}});
        start += m * kMinute;
    }
    return out;
}

TEST(PhaseSlots, MedianLengthsInTheOrderOfMostRuns) {
    const auto slots =
        phaseSlots({phases({}, {{"Heat", 10}, {"Hold", 30}, {"Cool", 5}}),
                    phases(kDay, {{"Heat", 20}, {"Hold", 10}, {"Cool", 7}}),
                    phases(2 * kDay, {{"Heat", 12}, {"Wait", 90}, {"Hold", 20}, {"Cool", 6}})});
    ASSERT_EQ(slots.size(), 3u);  // `Wait` is a disturbance of one run
    EXPECT_EQ(slots[0].name, "Heat");
    EXPECT_EQ(slots[0].length, 12 * kMinute);
    EXPECT_EQ(slots[1].name, "Hold");
    EXPECT_EQ(slots[1].length, 20 * kMinute);
    EXPECT_EQ(slots[2].length, 6 * kMinute);
}

TEST(PhaseSlots, AnUnfinishedPhaseRefusalthingAboutItsLength) {
    auto going = phases({}, {{"Heat", 10}, {"Hold", 1}});
    going.back().finished = false;
    const auto slots = phaseSlots(
        {phases({}, {{"Heat", 10}, {"Hold", 30}}), phases({}, {{"Heat", 10}, {"Hold", 40}}), going});
    EXPECT_EQ(slots[1].length, 35 * kMinute);
}

TEST(PhaseFaults, MissingAndRepeated) {
    const std::vector<PhaseSlot> slots{{"Heat", kHour}, {"Hold", kHour}, {"Cool", kHour}};
    const PhaseFaults faults = phaseFaults(phases({}, {{"Heat", 1}, {"Cool", 1}, {"Heat", 1}}), slots);
    EXPECT_EQ(faults.missing, (std::vector<std::string>{"Hold"}));
    EXPECT_EQ(faults.repeated, (std::vector<std::string>{"Heat"}));
}

TEST(RunScale, TimeIsStretchedInsideEachPhase) {
    const std::vector<PhaseSlot> slots{{"Heat", 10 * kMinute}, {"Hold", 20 * kMinute}};
    const RunScale scale =
        scaleByPhases(between(0, 60 * kMinute), phases({}, {{"Heat", 20}, {"Hold", 40}}), slots);
    EXPECT_EQ(scale.placeOf(at(0)), Place());
    EXPECT_EQ(scale.placeOf(at(10 * kMinute)), Place(5 * kMinute));
    EXPECT_EQ(scale.placeOf(at(20 * kMinute)), Place(10 * kMinute));
    EXPECT_EQ(scale.placeOf(at(40 * kMinute)), Place(20 * kMinute));
    EXPECT_EQ(scale.placeOf(at(60 * kMinute)), Place(30 * kMinute));
    EXPECT_EQ(scale.timeOf(Place(20 * kMinute)), at(40 * kMinute));
    EXPECT_FALSE(scale.placeOf(at(-1)));
    EXPECT_FALSE(scale.placeOf(at(60 * kMinute + kNanosecond)));
    EXPECT_FALSE(scale.timeOf(Place(30 * kMinute + kNanosecond)));
}

TEST(RunScale, AMissingPhaseLeavesItsSlotEmpty) {
    const std::vector<PhaseSlot> slots{{"Heat", kHour}, {"Hold", 2 * kHour}, {"Cool", kHour}};
    const RunScale scale =
        scaleByPhases(between(0, 90 * kMinute), phases({}, {{"Heat", 60}, {"Cool", 30}}), slots);
    EXPECT_EQ(scale.placeOf(at(kHour - kNanosecond)), Place(kHour - kNanosecond));
    EXPECT_EQ(scale.placeOf(at(kHour)), Place(3 * kHour));
    EXPECT_FALSE(scale.timeOf(Place(2 * kHour)));
    EXPECT_EQ(scale.timeOf(Place(3 * kHour + 30 * kMinute)), at(75 * kMinute));
}

TEST(RunScale, WhatComesOutOfOrderIsPartOfWhatItFallsInto) {
    const std::vector<PhaseSlot> slots{{"Heat", kHour}, {"Hold", kHour}, {"Cool", kHour}};
    const RunScale scale =
        scaleByPhases(between(0, 180 * kMinute),
                      phases({}, {{"Heat", 30}, {"Hold", 30}, {"Heat", 60}, {"Cool", 60}}), slots);
    EXPECT_EQ(scale.placeOf(at(30 * kMinute)), Place(kHour));
    EXPECT_EQ(scale.placeOf(at(75 * kMinute)), Place(90 * kMinute));  // half of the 90 min until Cool
    EXPECT_EQ(scale.placeOf(at(120 * kMinute)), Place(2 * kHour));
}

TEST(RunScale, TheLastPhaseOfARunThatGoesOnIsNotStretched) {
    const std::vector<PhaseSlot> slots{{"Heat", kHour}, {"Hold", 2 * kHour}};
    auto going = phases({}, {{"Heat", 30}, {"Hold", 10}});
    going.back().finished = false;
    const RunScale scale = scaleByPhases(between(0, 40 * kMinute), going, slots);
    EXPECT_EQ(scale.placeOf(at(40 * kMinute)), Place(kHour + 10 * kMinute));
    EXPECT_EQ(scale.lastPlace(), Place(kHour + 10 * kMinute));
}

TEST(RunScale, AnIndicatorThatRisesWithRests) {
    Series s;
    const std::array<double, 6> values{2, 4, 4, 3.5, 8, 10};  // a dip does not go back
    for (std::size_t i = 0; i < values.size(); ++i) s.push(Instant(static_cast<int>(i) * kMinute), values[i]);
    const RunScale scale = scaleByIndicator(s, between(0, 5 * kMinute));
    EXPECT_EQ(scale.firstPlace(), Place(2 * kUnit));
    EXPECT_EQ(scale.placeOf(at(30 * kSecond)), Place(3 * kUnit));
    EXPECT_EQ(scale.placeOf(at(150 * kSecond)), Place(4 * kUnit));
    EXPECT_EQ(scale.timeOf(Place(4 * kUnit)), at(kMinute));  // first reached
    EXPECT_EQ(scale.timeOf(Place(6 * kUnit)), at(3 * kMinute + 30 * kSecond));
    EXPECT_FALSE(scale.timeOf(Place(2 * kUnit - kNanosecond)));
}

TEST(RunScale, AnIndicatorThatDoesNotRiseIsNoScale) {
    Series s;
    for (int i = 0; i < 5; ++i) s.push(at(i * kMinute), 10 - i);
    EXPECT_TRUE(scaleByIndicator(s, between(0, 4 * kMinute)).empty());
    EXPECT_TRUE(scaleByIndicator(Series{}, between(0, kHour)).empty());
    EXPECT_TRUE(alignRun(s, kBridged, SpanId(1), RunScale{}, kMinute).values.empty());
}

TEST(Alignment, ByIndicatorTakesTheValueWhereItIsReached) {
    Series indicator, x;
    for (int i = 0; i <= 10; ++i) indicator.push(at(i * kMinute), 0.5 + 0.5 * i);
    for (int i = 0; i <= 10; ++i) x.push(at(i * kMinute), 100 + 10 * i);
    const AlignedRun a =
        alignRun(x, kBridged, SpanId(1), scaleByIndicator(indicator, between(0, 10 * kMinute)), kUnit);
    EXPECT_EQ(a.first, 1);  // 0.5 … 5.5: slices 1 to 5
    EXPECT_EQ(a.values, (std::vector<double>{110, 130, 150, 170, 190}));
}

TEST(Alignment, RunsOfUnlikePaceMeetInTheirPhases) {
    // A tent whose top is where the first phase ends, early in one run, late in the other.
    const auto tent = [](int top) {
        Series s;
        for (int m = 0; m <= 60; ++m)
            s.push(at(m * kMinute), m <= top ? 10.0 * m / top : 10.0 * (60 - m) / (60 - top));
        return s;
    };
    const auto early = phases({}, {{"Up", 20}, {"Down", 40}}), late = phases({}, {{"Up", 40}, {"Down", 20}});
    const auto slots = phaseSlots({early, late});
    std::vector<AlignedRun> runs;
    runs.push_back(
        alignRun(tent(20), kBridged, SpanId(1), scaleByPhases(between(0, kHour), early, slots), 5 * kMinute));
    runs.push_back(
        alignRun(tent(40), kBridged, SpanId(2), scaleByPhases(between(0, kHour), late, slots), 5 * kMinute));
    ASSERT_EQ(runs[0].values.size(), runs[1].values.size());
    for (std::size_t i = 0; i < runs[0].values.size(); ++i)
        EXPECT_NEAR(runs[0].values[i], runs[1].values[i], 1e-9) << i;
}

TEST(Excursions, AreFoundOnTheStretchedScale) {
    const std::vector<PhaseSlot> slots{{"Up", 10 * kMinute}, {"Down", 10 * kMinute}};
    GoldenLimits limits;
    limits.spec.every = 10 * kMinute;
    limits.spec.lineUp = LineUp::Phases;
    for (int i = 0; i <= 2; ++i)
        limits.slices.push_back({Place(i * 10 * kMinute), 5, -1, 0, i == 2 ? 5.0 : 1.0});
    Series s;
    for (int m = 0; m <= 60; ++m) s.push(at(m * kMinute), m < 20 ? 0 : 2);
    // Up lasts 20 min, Down 40: the limit rises from 1 at 20 min to 5 at 60, and reaches 2 at 30.
    const RunScale scale = scaleByPhases(between(0, kHour), phases({}, {{"Up", 20}, {"Down", 40}}), slots);
    const auto found = findExcursions(s, kBridged, scale, limits, {Duration(), Duration()});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].end, at(30 * kMinute));
    EXPECT_NEAR(toSeconds(found[0].start), 19.5 * 60, 1e-6);  // 0 to 2 within the minute, limit 1
    EXPECT_DOUBLE_EQ(found[0].peak, 1);
}

TEST(LimitsInTime, JumpWhereAPhaseIsMissing) {
    const std::vector<PhaseSlot> slots{{"A", kHour}, {"B", kHour}, {"C", kHour}};
    GoldenLimits limits;
    limits.spec.every = 30 * kMinute;
    for (int i = 0; i <= 6; ++i)
        limits.slices.push_back({Place(i * 30 * kMinute), 5, i - 1.0, i + 0.0, i + 1.0});
    const RunScale scale = scaleByPhases(between(0, 2 * kHour), phases({}, {{"A", 60}, {"C", 60}}), slots);
    const auto lines = limitsInTime(limits, scale);
    ASSERT_EQ(lines.size(), 6u);
    EXPECT_EQ(lines[2].time, at(kHour - kNanosecond));
    EXPECT_NEAR(lines[2].limits.centre, 2, 1e-6);
    EXPECT_EQ(lines[3].time, at(kHour));
    EXPECT_DOUBLE_EQ(lines[3].limits.centre, 4);
    EXPECT_DOUBLE_EQ(lines[5].limits.centre, 6);
}

}  // namespace
}  // namespace jacinth
