#include "core/stats/change.h"

#include <gtest/gtest.h>

#include <random>
#include <vector>

namespace jacinth {
namespace {

TEST(ChangeInCounts, FindsAClearStep) {
    std::vector<double> counts(20, 0);
    for (std::size_t i = 12; i < 20; ++i) counts[i] = 3;
    const auto found = changeInCounts(counts);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->at, 12u);
    EXPECT_DOUBLE_EQ(found->before, 0);
    EXPECT_DOUBLE_EQ(found->after, 3);
    EXPECT_LE(found->from, 12u);
    EXPECT_LE(found->to, 13u);
    EXPECT_DOUBLE_EQ(found->probability, 0.001);
}

TEST(ChangeInCounts, ByHand) {
    // 1 1 1 | 4 4 4: log-likelihood gain 3·ln 1 + 12·ln 4 − 15·ln 2.5; its neighbours are worse.
    const std::vector<double> counts{1, 1, 1, 4, 4, 4};
    const auto found = changeInCounts(counts);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->at, 3u);
    EXPECT_DOUBLE_EQ(found->before, 1);
    EXPECT_DOUBLE_EQ(found->after, 4);
    EXPECT_NEAR(found->probability, 0.1, 0.04);  // 2 of the 20 orders of three and three are as clear
}

TEST(ChangeInCounts, RandomCountsAreSeldomAChange) {
    std::mt19937 random(5);
    std::poisson_distribution<int> poisson(1.2);
    int sure = 0, within = 0;
    for (int round = 0; round < 60; ++round) {
        std::vector<double> counts;
        for (int i = 0; i < 40; ++i) counts.push_back(poisson(random));
        const auto found = changeInCounts(counts);
        sure += found && found->probability < 0.05;
        for (int i = 25; i < 40; ++i)
            counts[static_cast<std::size_t>(i)] += poisson(random) + poisson(random);
        const auto changed = changeInCounts(counts);
        within += changed && changed->from <= 25 && changed->to >= 25 && changed->probability < 0.05;
    }
    EXPECT_LE(sure, 7);     // about 5 % of 60
    EXPECT_GE(within, 54);  // about 95 %
}

TEST(ChangeInCounts, ClumpsWidenTheRange) {
    std::vector<double> even(40, 1), clumps(40, 0);
    for (std::size_t i = 20; i < 40; ++i) even[i] = 3;
    for (std::size_t i = 0; i < 40; i += 5) clumps[i] = i < 20 ? 5 : 15;  // the same sums
    const auto smooth = changeInCounts(even), rough = changeInCounts(clumps);
    ASSERT_TRUE(smooth && rough);
    EXPECT_GT(rough->to - rough->from, 3 * (smooth->to - smooth->from));
    EXPECT_GT(rough->probability, smooth->probability);
}

TEST(ChangeInCounts, TooFewOrAllTheSameAreNone) {
    EXPECT_FALSE(changeInCounts(std::vector<double>{1, 2, 3, 4, 5}));
    EXPECT_FALSE(changeInCounts(std::vector<double>(30, 2.0)));
    EXPECT_FALSE(changeInCounts(std::vector<double>(30, 0.0)));
}

}  // namespace
}  // namespace jacinth
