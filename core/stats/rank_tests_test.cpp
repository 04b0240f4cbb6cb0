#include "core/stats/rank_tests.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/base/missing.h"

namespace jacinth {
namespace {

// By scipy: S and its variance by the definition, normal tails; mannwhitneyu(method="asymptotic");
// theilslopes.
TEST(RankTests, ATrendWithATie) {
    const std::vector<double> x{3.1, 2.7, 3.3, 3.9, 3.6, 4.4, 4.1, 4.4, 5.0, 4.8};
    const RankTrend trend = rankTrend(x);
    EXPECT_DOUBLE_EQ(trend.s, 36);
    EXPECT_DOUBLE_EQ(trend.variance, 124);
    EXPECT_NEAR(trend.probability(), 0.0016717283964848, 1e-12);
}

TEST(RankTests, MissingValuesAreLeftOutAndEqualOnesHaveNoTrend) {
    const std::vector<double> gap{1, kMissing, 2, 3, kMissing, 4}, whole{1, 2, 3, 4}, same(7, 2.5);
    EXPECT_DOUBLE_EQ(rankTrend(gap).s, rankTrend(whole).s);
    EXPECT_DOUBLE_EQ(rankTrend(gap).variance, rankTrend(whole).variance);
    EXPECT_DOUBLE_EQ(rankTrend(same).probability(), 1);
    EXPECT_DOUBLE_EQ(rankTrend({}).probability(), 1);
}

TEST(RankTests, AStretchThatStartsAgainHidesATrendFromOneTestNotFromTheSumOfTwo) {
    const std::vector<std::vector<double>> saw{{0, 1, 2, 3, 4, 5}, {0, 1, 2, 3, 4, 5}, {0, 1, 2, 3, 4, 5}};
    std::vector<double> whole;
    for (const auto& tooth : saw) whole.insert(whole.end(), tooth.begin(), tooth.end());
    EXPECT_GT(rankTrend(whole).probability(), 0.05);
    EXPECT_DOUBLE_EQ(rankTrendOf(saw).s, 45);
    EXPECT_LT(rankTrendOf(saw).probability(), 1e-5);
}

TEST(RankTests, TwoSamplesOfUnlikeLevel) {
    const std::vector<double> a{1.2, 3.4, 2.2, 5.1, 4.4}, b{6.2, 5.1, 7.3, 4.9, 8.8, 6.6};
    EXPECT_NEAR(rankSumProbability(a, b), 0.017365464062047378, 1e-12);
    EXPECT_DOUBLE_EQ(rankSumProbability(a, b), rankSumProbability(b, a));
    EXPECT_DOUBLE_EQ(rankSumProbability(a, {}), 1);
    EXPECT_DOUBLE_EQ(rankSumProbability(std::vector{2.0, 2.0}, std::vector{2.0, 2.0}), 1);
}

TEST(RankTests, AWildValueDoesNotMoveTheMedianSlope) {
    const std::vector<double> x{0, 1, 2, 3.5, 5, 6.1, 8}, y{1.0, 1.9, 3.2, 4.4, 30, 7.2, 8.8};
    EXPECT_NEAR(medianSlope(x, y), 0.9857142857142858, 1e-12);
    EXPECT_TRUE(std::isnan(medianSlope(std::vector{1.0, 1.0}, std::vector{2.0, 3.0})));
}

}  // namespace
}  // namespace jacinth
