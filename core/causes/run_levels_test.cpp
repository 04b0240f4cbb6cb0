#include "core/causes/run_levels.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/base/missing.h"
#include "core/causes/straight_pieces.h"

namespace jacinth {
namespace {

constexpr std::size_t kBinsHere = 16;

/// Runs of `assets` assets, one a day each, with noise of 0.05 in half-widths of 1 and what `add` says.
template <typename Add>
RunLevels levelsWith(int assets, int days, Add add) {
    std::mt19937_64 random(7);
    std::normal_distribution<double> noise(0, 0.05);
    RunLevels out;
    out.bins = {Place{}, kHour, kBinsHere};
    out.halfWidth.assign(kBinsHere, 1.0);
    for (int day = 0; day < days; ++day)
        for (int a = 1; a <= assets; ++a) {
            RunLevel run{SpanId(100 * day + a), AssetId(a), Instant(day * kDay),
                         Instant(day * kDay + 16 * kHour)};
            for (std::size_t b = 0; b < kBinsHere; ++b) run.off.push_back(noise(random) + add(a, day, b));
            out.runs.push_back(std::move(run));
        }
    return out;
}

const TimeRange kAll{Instant(-kDay), Instant(1000 * kDay)};

TEST(StraightPieces, ASawtoothIsCutWhereItStartsAgain) {
    std::mt19937_64 random(3);
    std::normal_distribution<double> noise(0, 0.02);
    std::vector<double> x, y;
    for (int i = 0; i < 36; ++i) x.push_back(i), y.push_back(-0.05 * (i % 12) + noise(random));
    y[20] += 3;  // a run off the path does not cut
    const auto pieces = straightPieces(x, y);
    ASSERT_EQ(pieces.size(), 3u);
    EXPECT_EQ(pieces[1].first, 12u);
    EXPECT_EQ(pieces[2].first, 24u);
    EXPECT_EQ(pieces[2].last, 36u);
}

TEST(StraightPieces, NoiseAndALineStayWhole) {
    for (const unsigned seed : {1u, 2u, 3u, 4u, 5u}) {
        std::mt19937_64 random(seed);
        std::normal_distribution<double> noise(0, 1);
        std::vector<double> x, flat, rising;
        for (int i = 0; i < 60; ++i) {
            x.push_back(i);
            flat.push_back(noise(random));
            rising.push_back(0.3 * i + noise(random));
        }
        EXPECT_EQ(straightPieces(x, flat).size(), 1u) << seed;
        EXPECT_EQ(straightPieces(x, rising).size(), 1u) << seed;
    }
    EXPECT_EQ(straightPieces({}, {}).size(), 1u);
}

TEST(ShiftAt, IsTheDifferenceOfMediansBinByBin) {
    const RunLevels levels = levelsWith(3, 30, [](int asset, int day, std::size_t bin) {
        return asset == 2 && day >= 18 && bin >= 8 ? 0.8 : 0.0;
    });
    const auto shift = shiftAt(levels, AssetId(2), Instant(18 * kDay), kAll);
    ASSERT_TRUE(shift);
    EXPECT_NEAR(shift->shape.values[3], 0, 0.06);
    EXPECT_NEAR(shift->shape.values[12], 0.8, 0.06);
    EXPECT_NEAR(shift->size, 0.4, 0.03);
    EXPECT_LT(shift->probability, 1e-3);
    EXPECT_GT(shiftAt(levels, AssetId(1), Instant(18 * kDay), kAll)->probability, 0.01);
    EXPECT_FALSE(shiftAt(levels, AssetId(2), Instant(28 * kDay), kAll)) << "two runs after it are too few";
}

TEST(AssetShape, OnlyTheAssetThatDiffersHasOne) {
    const RunLevels levels =
        levelsWith(4, 20, [](int asset, int, std::size_t bin) { return asset == 4 && bin < 5 ? -0.7 : 0.0; });
    const auto shape = assetShape(levels, AssetId(4));
    ASSERT_TRUE(shape);
    EXPECT_NEAR(shape->values[2], -0.7, 0.06);
    EXPECT_DOUBLE_EQ(shape->values[9], 0);
    for (const int asset : {1, 2, 3}) EXPECT_FALSE(assetShape(levels, AssetId(asset))) << asset;
    EXPECT_FALSE(assetShape(levelsWith(2, 20, [](int a, int, std::size_t) { return a; }), AssetId(2)))
        << "of two assets nobody can say which one differs";
}

TEST(GradualChange, ABeltThatWearsCountsFromTheLevelAfterItsChange) {
    // The record starts in the middle of a belt's life.
    const RunLevels levels = levelsWith(
        2, 40, [](int asset, int day, std::size_t) { return asset == 1 ? -0.08 * ((day + 6) % 13) : 0.0; });
    const auto change = gradualChange(levels, AssetId(1));
    ASSERT_TRUE(change);
    EXPECT_LT(change->probability, 1e-6);
    EXPECT_NEAR(change->perDay, -0.08, 0.02);
    RunLevels left = levels;
    for (const CauseEffect& piece : change->pieces) takeAway(left, AssetId(1), piece);
    for (const RunLevel& run : left.runs)
        EXPECT_NEAR(meanLevel(left, run, 0, kBinsHere), 0, 0.15)
            << "day " << toHours(run.start - Instant{}) / 24;
    EXPECT_FALSE(gradualChange(levels, AssetId(2)));
}

TEST(GradualChange, AStepIsNotOne) {
    const RunLevels levels =
        levelsWith(1, 40, [](int, int day, std::size_t) { return day >= 20 ? 1.0 : 0.0; });
    EXPECT_FALSE(gradualChange(levels, AssetId(1)));
}

TEST(LevelJumps, AStepBetweenTwoRunsIsOneAndABeltsChangeIsNone) {
    const RunLevels levels = levelsWith(2, 39, [](int asset, int day, std::size_t bin) {
        if (asset == 2) return -0.08 * (day % 13);
        return day >= 22 && bin >= 4 ? 0.6 : 0.0;
    });
    const auto jumps = levelJumps(levels, AssetId(1));
    ASSERT_EQ(jumps.size(), 1u);
    EXPECT_EQ(jumps[0].between.to, Instant(22 * kDay));
    EXPECT_NEAR(jumps[0].size, 0.6, 0.08);
    EXPECT_GT(jumps[0].significance, 6);
    EXPECT_TRUE(levelJumps(levels, AssetId(2)).empty());
}

TEST(LevelJumps, ARoleMovesWithAChangeOnlyWhereItsOwnBestSplitIs) {
    const RunLevels levels = levelsWith(2, 40, [](int asset, int day, std::size_t bin) {
        return asset == 1 && day >= 22 && bin < 3 ? 0.2 : 0.0;
    });
    EXPECT_TRUE(changesAt(levels, AssetId(1), Instant(22 * kDay)));
    EXPECT_TRUE(changesAt(levels, AssetId(1), Instant(23 * kDay)));
    EXPECT_FALSE(changesAt(levels, AssetId(1), Instant(28 * kDay))) << "the change is six runs away";
    EXPECT_FALSE(changesAt(levels, AssetId(2), Instant(22 * kDay)));
}

TEST(CommonToOthers, WhatAllShareIsFoundWithoutTheRunItself) {
    const RunLevels levels = levelsWith(5, 30, [](int asset, int day, std::size_t bin) {
        const double weather = day >= 25 && bin < 4 ? 0.6 : 0.0;
        return weather + (asset == 1 && day == 10 ? 2.0 : 0.0);
    });
    const auto common = commonToOthers(levels, AssetId(1), kDay + kHour);
    double atWeather = 0, atOwn = 0;
    for (const CauseEffect& e : common) {
        atWeather += e.at(Instant(27 * kDay + kHour), levels.bins.centre(1));
        atOwn += std::abs(e.at(Instant(10 * kDay + kHour), levels.bins.centre(1)));
    }
    EXPECT_NEAR(atWeather, 0.6, 0.08);
    EXPECT_LT(atOwn, 0.1) << "what one asset does alone is not common";
    EXPECT_TRUE(
        commonToOthers(levelsWith(2, 30, [](int, int, std::size_t) { return 1.0; }), AssetId(1), kWeek)
            .empty())
        << "one other asset is not the plant";
}

TEST(RunLevels, AreMeansOfTheSlicesInEachBin) {
    GoldenLimits limits;
    limits.spec.every = kMinute;
    AlignedRun run;
    for (int i = 0; i < 6; ++i) {
        limits.slices.push_back({Place(i * kMinute), 5, 8.0, 10.0, 12.0 + i});
        run.values.push_back(i == 1 ? kMissing : 10.0 + i);
    }
    const ScaleBins bins = ScaleBins::over(limits, 3);
    EXPECT_EQ(levelByBin(run, limits, bins), (std::vector<double>{0, 2.5, 4.5}));
    EXPECT_EQ(halfWidthByBin(limits, bins), (std::vector<double>{2.25, 3.25, 4.25}));
}

}  // namespace
}  // namespace jacinth
