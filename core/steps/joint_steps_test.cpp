// False steps by what companions leave unexplained, on an asset without states and without twins.
#include "core/steps/joint_steps.h"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <random>

#include "core/steps/process_jumps.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

/// Thirty days, a sample a minute: six tags, each a mixture of a daily wave and a slow cause, with white
/// noise of 0.3.
struct MixedAsset {
    static constexpr int kMinutes = 30 * 24 * 60;
    std::vector<Series> tags{6};
    BlockGrid grid = gridFor(between(Duration::zero(), kMinutes* kMinute));

    explicit MixedAsset(unsigned seed = 1) {
        std::mt19937 random(seed);
        std::normal_distribution<double> normal;
        constexpr double kWave[] = {5, -3, 2, 8, 1, -6}, kSlow[] = {2, 4, -3, 1, 6, 3};
        double slow = 0;
        for (int m = 0; m < kMinutes; ++m) {
            slow = 0.999 * slow + 0.045 * normal(random);
            const double wave = std::sin(m * 2 * 3.14159265 / 1440);
            for (std::size_t k = 0; k < tags.size(); ++k)
                tags[k].push(at(m * kMinute), 50 + kWave[k] * wave + kSlow[k] * slow + 0.3 * normal(random));
        }
    }
    void shift(std::size_t tag, double fromDay, double toDay, double by) {
        for (int m = minute(fromDay); m < std::min(kMinutes, minute(toDay)); ++m)
            tags[tag].values[static_cast<std::size_t>(m)] += by;
    }
    static int minute(double day) { return static_cast<int>(day * 1440); }
    static constexpr double kForGood = 99;
    std::vector<TagScan> scans() const {
        std::vector<TagScan> out;
        for (std::size_t k = 0; k < tags.size(); ++k)
            out.push_back(scanTag(TagId(k + 1), "°C", tags[k], grid, {}));
        return out;
    }
    std::vector<SuspectedStep> steps() const { return suspectedSteps(scans(), grid, {}); }
};

TEST(JointSteps, AQuietAssetHasNone) {
    for (const unsigned seed : {1u, 2u, 3u}) EXPECT_TRUE(MixedAsset(seed).steps().empty()) << seed;
}

TEST(JointSteps, OneThatStaysIsGivenToTheTagThatStepped) {
    MixedAsset asset;
    asset.shift(3, 12.3, MixedAsset::kForGood, 3);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_EQ(steps[0].tag, TagId(4));
    EXPECT_EQ(steps[0].kind, StepKind::Lonely);
    EXPECT_EQ(steps[0].time, at(MixedAsset::minute(12.3) * kMinute));
    EXPECT_FALSE(steps[0].returns);
    EXPECT_NEAR(steps[0].size, 3, 0.15);
    EXPECT_LE(steps[0].low(), 3);
    EXPECT_GE(steps[0].high(), 3);
    EXPECT_EQ(steps[0].companions.size(), 3u) << "it says from which tags it knows";
    EXPECT_FALSE(steps[0].twin);
}

TEST(JointSteps, ThereAndBackIsOneOnlyWhereTheSizesAgree) {
    MixedAsset asset;
    asset.shift(1, 8.1, 10.6, -2.4);
    asset.shift(4, 15, MixedAsset::kForGood, 3);
    asset.shift(4, 20, MixedAsset::kForGood, -2);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 3u);
    EXPECT_EQ(steps[0].tag, TagId(2));
    ASSERT_TRUE(steps[0].returns);
    EXPECT_LE(abs(*steps[0].returns - at(MixedAsset::minute(10.6) * kMinute)), 5 * kMinute);
    EXPECT_NEAR(steps[0].size, -2.4, 0.12);
    EXPECT_FALSE(steps[1].returns) << "3 there and 2 back are two steps";
    EXPECT_NEAR(steps[1].size, 3, 0.15);
    EXPECT_NEAR(steps[2].size, -2, 0.1);
}

TEST(JointSteps, TwoAtOnceNameEachOther) {
    MixedAsset asset;
    asset.shift(0, 17.2, MixedAsset::kForGood, 4);
    asset.shift(5, 17.2, MixedAsset::kForGood, -3);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 2u);
    EXPECT_EQ(steps[0].sharedWith.size(), 1u);
    EXPECT_EQ(steps[1].sharedWith.size(), 1u);
    EXPECT_NE(steps[0].tag, steps[1].tag);
}

TEST(JointSteps, AProcessThatMovesAllTagsAsTheyGoTogetherIsTheProcess) {
    MixedAsset asset;
    constexpr double kSlow[] = {2, 4, -3, 1, 6, 3};
    for (std::size_t k = 0; k < 6; ++k) asset.shift(k, 14.4, MixedAsset::kForGood, 3 * kSlow[k]);
    const auto steps = asset.steps();
    ASSERT_GE(steps.size(), 2u);
    for (const SuspectedStep& s : steps) {
        EXPECT_EQ(s.kind, StepKind::Process) << s.tag.number;
        EXPECT_FALSE(s.moved.empty());
    }
}

TEST(JointSteps, TheEndOfADriftIsCalledThat) {
    MixedAsset asset;
    for (int m = MixedAsset::minute(8); m < MixedAsset::minute(20); ++m)
        asset.tags[2].values[static_cast<std::size_t>(m)] += 5.0 * (m - MixedAsset::minute(8)) / (12 * 1440);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_EQ(steps[0].kind, StepKind::DriftEnd);
    EXPECT_NEAR(steps[0].size, -5, 0.4);
}

TEST(JointSteps, AStuckSensorAndAGapAreNone) {
    MixedAsset asset;
    Series& stuck = asset.tags[0];
    for (int m = MixedAsset::minute(9); m < MixedAsset::minute(9.7); ++m)
        stuck.values[static_cast<std::size_t>(m)] =
            stuck.values[static_cast<std::size_t>(MixedAsset::minute(9))];
    Series& gap = asset.tags[3];
    Series kept;
    for (std::size_t i = 0; i < gap.size(); ++i)
        if (i < static_cast<std::size_t>(MixedAsset::minute(16)) ||
            i > static_cast<std::size_t>(MixedAsset::minute(17)))
            kept.push(gap.times[i], gap.values[i]);
    gap = kept;
    EXPECT_TRUE(asset.steps().empty());
}

TEST(Remainders, AStepTakenOutIsGoneFromAllOfThem) {
    MixedAsset asset;
    asset.shift(3, 12.3, MixedAsset::kForGood, 3);
    const auto scans = asset.scans();
    Remainders r(scans, asset.grid);
    const std::size_t block = asset.grid.at(at(MixedAsset::minute(12.3) * kMinute));
    EXPECT_GT(r.score(3, block), 3 * r.threshold(3));
    r.takeOut(3, block, 3);
    for (std::size_t tag = 0; tag < scans.size(); ++tag)
        EXPECT_LT(r.score(tag, block), r.threshold(tag)) << tag;
}

TEST(ProcessJumps, WhatComesOftenIsHowThePlantWorks) {
    MixedAsset asset;
    for (int day = 2; day < 28; day += 2)
        for (const std::size_t tag : {0u, 1u}) asset.shift(tag, day, day + 0.9, 12);
    EXPECT_TRUE(unusualProcessJumps(asset.scans()).empty());
    for (const std::size_t tag : {0u, 1u}) asset.shift(tag, 9.5, MixedAsset::kForGood, tag ? 30 : -30);
    const auto scans = asset.scans();
    const auto found = unusualProcessJumps(scans);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].time, at(MixedAsset::minute(9.5) * kMinute));
    EXPECT_TRUE(found[0].jumps[0] && found[0].jumps[1] && !found[0].jumps[2]);
}

}  // namespace
}  // namespace jacinth
