// Planted steps and changes of the process, and what must not be taken for a step.
#include "core/steps/suspected_steps.h"

#include <gtest/gtest.h>

#include "core/steps/steps_fixture.h"

namespace jacinth {
namespace {

constexpr int kEnd = SteppedAsset::kMinutes;
using Asset = SteppedAsset;

const SuspectedStep* of(const std::vector<SuspectedStep>& steps, int tag) {
    for (const SuspectedStep& s : steps)
        if (s.tag == TagId(tag)) return &s;
    return nullptr;
}

TEST(SuspectedSteps, AProcessThatSwingsHasNone) {
    for (const unsigned seed : {1u, 2u, 3u, 4u, 5u}) {
        const Asset asset(seed);
        EXPECT_TRUE(asset.steps().empty()) << seed;
        EXPECT_TRUE(asset.steps(false).empty()) << seed;
    }
}

TEST(SuspectedSteps, OneThatStaysIsFoundByTheTwin) {
    Asset asset;
    const int when = Asset::day(8.1);
    Asset::shift(asset.value, when, kEnd, -3);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_EQ(steps[0].tag, TagId(1));
    EXPECT_EQ(steps[0].kind, StepKind::Lonely);
    EXPECT_EQ(steps[0].twin, TagId(2));
    EXPECT_EQ(steps[0].time, at(when * kMinute));
    EXPECT_FALSE(steps[0].returns);
    EXPECT_NEAR(steps[0].size, -3, 0.3);
    EXPECT_LT(steps[0].low(), -3 + 0.3);
    EXPECT_GT(steps[0].significance(), 5);
}

TEST(SuspectedSteps, TheOneThatJumpedIsTheOneToBlame) {
    Asset asset;
    Asset::shift(asset.twin, Asset::day(8.1), kEnd, 3);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_EQ(steps[0].tag, TagId(2));
    EXPECT_EQ(steps[0].twin, TagId(1));
}

TEST(SuspectedSteps, WithoutATwinTheRecurringShapeTells) {
    Asset asset;
    Asset::shift(asset.other, Asset::day(8.1), Asset::day(11.2), 4);
    const auto steps = asset.steps(false);
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_EQ(steps[0].tag, TagId(3));
    EXPECT_EQ(steps[0].kind, StepKind::Lonely);
    ASSERT_TRUE(steps[0].returns);
    EXPECT_EQ(*steps[0].returns, at(Asset::day(11.2) * kMinute));
    EXPECT_NEAR(steps[0].size, 4, 0.4);
}

TEST(SuspectedSteps, TwoThatMoveTogetherAreTheProcess) {
    Asset asset;
    Asset::shift(asset.value, Asset::day(8.1), kEnd, 5);
    Asset::shift(asset.other, Asset::day(8.1), kEnd, 3);
    const auto steps = asset.steps(false);
    ASSERT_EQ(steps.size(), 2u);
    for (const SuspectedStep& s : steps) {
        EXPECT_EQ(s.kind, StepKind::Process);
        ASSERT_EQ(s.moved.size(), 1u);
        EXPECT_NE(s.moved[0], s.tag);
    }
}

TEST(SuspectedSteps, TwoThatMoveTogetherAreOneMountWhereATwinDidNot) {
    Asset asset;
    Asset::shift(asset.value, Asset::day(8.1), Asset::day(10.1), 5);
    Asset::shift(asset.other, Asset::day(8.1), Asset::day(10.1), 3);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 2u);
    for (const SuspectedStep& s : steps) {
        EXPECT_EQ(s.kind, StepKind::Lonely);
        EXPECT_TRUE(s.returns);
        EXPECT_TRUE(s.moved.empty());
    }
    EXPECT_EQ(of(steps, 1)->sharedWith, std::vector{TagId(3)});
    EXPECT_EQ(of(steps, 3)->sharedWith, std::vector{TagId(1)});
}

TEST(SuspectedSteps, WhatTheTwinDoesAsWellIsNone) {
    Asset asset;
    Asset::shift(asset.value, Asset::day(8.1), kEnd, 5);
    Asset::shift(asset.twin, Asset::day(8.1), kEnd, 5);
    for (const SuspectedStep& s : asset.steps()) EXPECT_NE(s.kind, StepKind::Lonely);
}

TEST(SuspectedSteps, TheEndOfADriftIsNotTakenForOne) {
    Asset asset;
    const int from = Asset::day(3), to = Asset::day(12.1);
    for (int m = from; m < to; ++m)
        asset.value.values[static_cast<std::size_t>(m)] += 6.0 * (m - from) / (to - from);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_EQ(steps[0].kind, StepKind::DriftEnd);
    EXPECT_NEAR(steps[0].size, -6, 0.6);
}

TEST(SuspectedSteps, OneAtAChangeOfStateIsFoundByTheTwin) {
    Asset asset;
    const int change = Asset::day(8);  // a heating begins
    Asset::shift(asset.value, change, kEnd, 4);
    const auto steps = asset.steps();
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_EQ(steps[0].tag, TagId(1));
    EXPECT_NEAR(steps[0].size, 4, 0.4);
    EXPECT_LT(std::chrono::abs(steps[0].time - at(change * kMinute)), 30 * kMinute);
}

TEST(SuspectedSteps, OneThatNobodySawShowsInTheLevels) {
    Asset asset;
    // Measured while heating only: it shows from the next heating on.
    for (std::size_t m = 0; m < asset.other.size(); ++m)
        if (m % 720 >= 600) asset.other.values[m] = 0.01 * static_cast<double>(m % 5);
    const int when = 10 * 720 + 650;
    for (int m = when; m < kEnd; ++m)
        if (m % 720 < 600) asset.other.values[static_cast<std::size_t>(m)] += 4;
    const auto steps = asset.steps(false);
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_EQ(steps[0].tag, TagId(3));
    EXPECT_FALSE(steps[0].seen);
    EXPECT_NEAR(steps[0].size, 4, 0.4);
    EXPECT_LE(steps[0].between.from, at(when * kMinute));
    EXPECT_GE(steps[0].between.to, at(when * kMinute));
}

TEST(SuspectedSteps, OneTagAloneWithoutStatesHasStepsToo) {
    // White noise with one shift, nothing to compare with.
    std::mt19937 random(11);
    std::normal_distribution<double> noise(0, 1);
    Series s;
    for (int i = 0; i < 400; ++i) s.push(at(i * kDay), noise(random) + (i < 150 ? 0 : 2));
    const BlockGrid grid{between(Duration::zero(), 400 * kDay), kDay};
    const auto steps = suspectedSteps({scanTag(TagId(1), "", s, grid, {})}, grid, {});
    ASSERT_EQ(steps.size(), 1u);
    EXPECT_NEAR(toHours(steps[0].time - at(150 * kDay)) / 24, 0, 2);
    EXPECT_NEAR(steps[0].size, 2, 3 * steps[0].error);
}

TEST(SuspectedSteps, ARecordTooShortForItsShapeToRecurHasNoneByLevels) {
    Asset asset;
    const BlockGrid day{between(Duration::zero(), kDay), 10 * kMinute};
    Series first;
    first.append(asset.other.view().within(day.range));
    std::vector<RecurringStretch> states(asset.states.begin(), asset.states.begin() + 4);
    const auto steps = suspectedSteps({scanTag(TagId(3), "Pa", first, day, {states})}, day, asset.changes);
    EXPECT_TRUE(steps.empty());
}

TEST(SuspectedSteps, NothingComesOfNothing) {
    const BlockGrid grid{between(Duration::zero(), kDay), kHour};
    EXPECT_TRUE(suspectedSteps({}, grid, {}).empty());
    EXPECT_TRUE(suspectedSteps({scanTag(TagId(1), "", Series{}, grid, {})}, grid, {}).empty());
}

}  // namespace
}  // namespace jacinth
