// Block levels, what is left of them without a recurring shape, and shifts of level, against values worked
// out by hand.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/base/missing.h"
#include "core/stats/nile_for_tests.h"
#include "core/steps/estimate.h"
#include "core/steps/level_shifts.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

const BlockGrid kTenHours{between(Duration::zero(), 10 * kHour), kHour};

TEST(BlockLevels, AreMediansAndNaNWhereNothingIs) {
    Series s;
    for (const int minute : {0, 10, 20, 70, 200}) s.push(at(minute * kMinute), minute);
    s.push(at(210 * kMinute), 1e6, Quality::Bad);
    const auto levels = blockLevels(s, kTenHours);
    ASSERT_EQ(levels.size(), 10u);
    EXPECT_EQ(levels[0], 10);
    EXPECT_EQ(levels[1], 70);
    EXPECT_TRUE(std::isnan(levels[2]));
    EXPECT_EQ(levels[3], 200);
    EXPECT_TRUE(std::isnan(levels[9]));
}

TEST(BlockLevels, LoseTheShapeThatRecurs) {
    // Three stretches of three hours: 1 2 3, then the same 10 higher, then 5 higher. The medians are 6 7 8.
    const std::vector<double> levels{1, 2, 3, 11, 12, 13, 6, 7, 8, 100};
    std::vector<RecurringStretch> scale;
    for (int i = 0; i < 3; ++i) scale.push_back({4, between(3 * i * kHour, 3 * (i + 1) * kHour)});
    const auto rest = withoutShape(levels, kTenHours, scale);
    for (std::size_t i = 0; i < 9; ++i) EXPECT_EQ(rest[i], (std::vector<double>{-5, 5, 0})[i / 3]) << i;
    EXPECT_TRUE(std::isnan(rest[9]));  // outside of every stretch
    scale.pop_back();
    for (const double v : withoutShape(levels, kTenHours, scale))
        EXPECT_TRUE(std::isnan(v));  // came twice only
}

TEST(LevelDifference, IsThatOfMediansOnBothSides) {
    const BlockGrid grid{between(Duration::zero(), 100 * kHour), 30 * kMinute};
    std::vector<double> levels(200, 1);
    for (std::size_t i = 100; i < 200; ++i) levels[i] = 4;
    levels[97] = 50;  // one odd block decides nothing over four hours
    const LevelDifference d(levels, grid);
    EXPECT_EQ(d.at(100, 1), 3);
    EXPECT_EQ(d.at(50, 1), 0);
    EXPECT_EQ(d.usual(1), 0);
    EXPECT_TRUE(std::isnan(d.at(3, 1)));
    EXPECT_TRUE(std::isnan(d.at(100, 3)));  // three days are more than there are
}

TEST(Estimate, WeighsByCertaintyAndAdmitsDisagreement) {
    const Estimate agree = together({{2, 1}, {2, 0.5}});
    EXPECT_EQ(agree.size, 2);
    EXPECT_EQ(agree.error, 0.5);
    // Weights 1 and 1: mean 3; χ² = 8 for one degree of freedom, so the error is √8 · 1/√2 = 2.
    const Estimate apart = together({{1, 1}, {5, 1}});
    EXPECT_EQ(apart.size, 3);
    EXPECT_NEAR(apart.error, 2, 1e-12);
}

/// Thirty runs, a heating and a rest each; the heating's level as given.
TagScan runs(const std::function<double(int)>& heating) {
    TagScan out;
    out.resolution = 0.1;
    for (int i = 0; i < 30; ++i) {
        out.byStretch.push_back({{0, between(i * kDay, i * kDay + 20 * kHour)}, heating(i)});
        out.byStretch.push_back({{1, between(i * kDay + 20 * kHour, (i + 1) * kDay)}, 0});
    }
    return out;
}

const BlockGrid kThirtyDays{between(Duration::zero(), 30 * kDay), kHour};

double wobble(int i) {
    return (std::vector<double>{0.3, -0.2, 0.1, -0.4, 0.2})[static_cast<std::size_t>(i % 5)];
}

TEST(LevelShifts, AreFoundBetweenRuns) {
    const auto shifts = levelShifts(runs([](int i) { return wobble(i) + (i >= 14 ? 6 : 0); }), kThirtyDays);
    ASSERT_EQ(shifts.size(), 1u);
    EXPECT_NEAR(shifts[0].size, 6, 0.4);
    // The run of day 13 is of the old level by its median, that of day 14 of the new one.
    EXPECT_EQ(shifts[0].between.from, at(13 * kDay + 10 * kHour));
    EXPECT_EQ(shifts[0].between.to, at(14 * kDay + 10 * kHour));
}

TEST(LevelShifts, ATagMovedWhereItsLevelsLieApart) {
    TagScan scan = runs([](int i) { return wobble(i) + (i >= 14 ? 6 : 0); });
    scan.byScale = {scan.byStretch};
    const Moved moved = movedAt(scan, at(14 * kDay));
    EXPECT_EQ(moved.kinds, 1u);
    EXPECT_NEAR(moved.by.size, 6, 0.4);
    EXPECT_EQ(movedInAnyScale(scan, at(14 * kDay)).kinds, 1u);
    EXPECT_EQ(movedAt(scan, at(22 * kDay)).kinds, 0u);
    EXPECT_EQ(movedAt(scan, at(kDay)).kinds, 0u);  // too few before
}

TEST(LevelShifts, AreNotADriftNorWearThatARepairEnds) {
    EXPECT_TRUE(levelShifts(runs([](int i) { return wobble(i) + 0.6 * i; }), kThirtyDays).empty());
    EXPECT_TRUE(
        levelShifts(runs([](int i) { return wobble(i) + (i < 14 ? std::max(0, i - 6) : 0); }), kThirtyDays)
            .empty());
}

TEST(LevelShifts, TheNileFellOnceIn1899) {
    Series s;
    for (std::size_t i = 0; i < kNile.size(); ++i)
        s.push(at(static_cast<std::int64_t>(i) * 365 * kDay), kNile[i]);
    const BlockGrid grid{between(Duration::zero(), 100 * 365 * kDay), 365 * kDay};
    const auto shifts = levelShifts(scanTag(TagId(1), "10⁸ m³", s, grid, {}), grid);
    ASSERT_EQ(shifts.size(), 1u);
    EXPECT_EQ(shifts[0].seen, s.times[28]);
    EXPECT_NEAR(shifts[0].size, -247.8, 0.05);
}

TEST(LevelShifts, WhiteNoiseAndAWalkHaveNone) {
    for (unsigned seed = 0; seed < 20; ++seed) {
        std::mt19937 random(seed);
        std::normal_distribution<double> noise(0, 1);
        Series white, walk;
        double sum = 0;
        for (int i = 0; i < 720; ++i) {
            white.push(at(i * kHour), noise(random));
            walk.push(at(i * kHour), sum += noise(random));
        }
        EXPECT_TRUE(levelShifts(scanTag(TagId(1), "", white, kThirtyDays, {}), kThirtyDays).empty()) << seed;
        EXPECT_TRUE(levelShifts(scanTag(TagId(1), "", walk, kThirtyDays, {}), kThirtyDays).empty()) << seed;
    }
}

}  // namespace
}  // namespace jacinth
