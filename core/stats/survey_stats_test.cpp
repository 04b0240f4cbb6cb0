// Figures behind the fleet and the cycles: oddness, common slopes, tail probabilities.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/base/missing.h"
#include "core/stats/common_slope.h"
#include "core/stats/distributions.h"
#include "core/stats/oddness.h"

namespace jacinth {
namespace {

TEST(Distributions, PublishedValuesOfF) {
    // Critical values at 5 %: F(1, 10) = 4.965, F(3, 20) = 3.098, F(10, 10) = 2.978; at 1 %: F(2, 30)
    // = 5.390.
    EXPECT_NEAR(fSurvival(4.965, 1, 10), 0.05, 2e-5);
    EXPECT_NEAR(fSurvival(3.098, 3, 20), 0.05, 2e-5);
    EXPECT_NEAR(fSurvival(2.978, 10, 10), 0.05, 2e-5);
    EXPECT_NEAR(fSurvival(5.390, 2, 30), 0.01, 1e-5);
    EXPECT_EQ(fSurvival(0, 3, 4), 1);
    EXPECT_TRUE(std::isnan(fSurvival(1, 0, 4)));
    EXPECT_TRUE(std::isnan(fSurvival(std::nan(""), 1, 4)));
    // Student's t, from tables.
    EXPECT_NEAR(studentQuantile(0.975, 1), 12.7062047364, 1e-9);
    EXPECT_NEAR(studentQuantile(0.975, 3), 3.18244630528, 1e-10);
    EXPECT_NEAR(studentQuantile(0.05, 10), -1.81246112281, 1e-10);
    EXPECT_NEAR(studentQuantile(0.975, 1e7), 1.959964, 1e-6);
    EXPECT_TRUE(std::isnan(studentQuantile(0.975, 0)));
    EXPECT_TRUE(std::isnan(studentQuantile(1, 4)));
    EXPECT_EQ(chiSquareCdf(-1, 3), 0);
}

TEST(CommonSlope, ByHand) {
    // y = 1 + 2x and y = 5 + 2x, exactly: one slope, no error.
    const auto same = commonSlope(std::vector<Stretch>{{{0, 1, 2}, {1, 3, 5}}, {{0, 1, 2}, {5, 7, 9}}});
    ASSERT_TRUE(same);
    EXPECT_DOUBLE_EQ(same->slope, 2);
    EXPECT_DOUBLE_EQ(same->own[0].intercept, 1);
    EXPECT_DOUBLE_EQ(same->own[1].intercept, 5);
    // Slopes 1 and 3 over equal x: the common one lies between.
    const auto other = commonSlope(std::vector<Stretch>{{{0, 1, 2}, {0, 1, 2}}, {{0, 1, 2}, {0, 3, 6}}});
    EXPECT_DOUBLE_EQ(other->slope, 2);
    EXPECT_FALSE(commonSlope(std::vector<Stretch>{{{1}, {1}}, {{2, 2}, {1, 5}}}));
}

TEST(CommonSlope, TellsSharedFromUnshared) {
    std::mt19937 random(4);
    std::normal_distribution<double> noise(0, 1);
    int foundUnequal = 0, falseAlarms = 0;
    for (int round = 0; round < 200; ++round) {
        std::vector<Stretch> equal(4), unequal(4);
        for (std::size_t k = 0; k < 4; ++k)
            for (int i = 0; i < 20; ++i) {
                equal[k].x.push_back(i), unequal[k].x.push_back(i);
                equal[k].y.push_back(-0.5 * i + static_cast<double>(k) + noise(random));
                unequal[k].y.push_back((-0.5 + 0.2 * static_cast<double>(k)) * i + noise(random));
            }
        falseAlarms += commonSlope(equal)->p < 0.05;
        foundUnequal += commonSlope(unequal)->p < 0.05;
    }
    EXPECT_NEAR(falseAlarms, 10, 9);  // 5 % of 200
    EXPECT_EQ(foundUnequal, 200);
}

TEST(Oddness, TheOneThatDiffersComesFirst) {
    std::vector<std::vector<double>> profiles;
    for (int a = 0; a < 6; ++a) {
        profiles.emplace_back();
        for (int i = 0; i < 24; ++i)
            profiles.back().push_back(50 + i + 0.1 * ((a * 7 + i * 3) % 5) + (a == 4 && i < 12 ? 5 : 0));
    }
    const auto order = oddness(profiles);
    EXPECT_EQ(order[0].asset, 4u);
    EXPECT_GT(order[0].score, 5 * order[1].score);
    EXPECT_GT(order[0].distance[3], 0);
    EXPECT_EQ(order[0].slices, 24u);
}

TEST(Oddness, NeedsThreeOthersAndValues) {
    const auto few = oddness({{1, 2}, {1, 2}, {5, 6}});
    for (const Oddness& o : few) EXPECT_TRUE(std::isnan(o.score));
    const double none = kMissing;
    const auto gaps = oddness({{1, none}, {2, 2}, {3, 2.5}, {4, 1}, {none, none}});
    EXPECT_EQ(gaps.back().asset, 4u);  // nothing to compare: last
    EXPECT_TRUE(std::isnan(gaps.back().score));
    EXPECT_EQ(oddness({}).size(), 0u);
}

}  // namespace
}  // namespace jacinth
