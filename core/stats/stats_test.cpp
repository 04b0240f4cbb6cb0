#include "core/stats/stats.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/span/span.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

TEST(Stats, ByHand) {
    const std::vector<double> x{2, 4, 4, 4, 5, 5, 7, 9};
    EXPECT_DOUBLE_EQ(mean(x), 5);
    EXPECT_DOUBLE_EQ(standardDeviation(x), std::sqrt(32.0 / 7));
    EXPECT_DOUBLE_EQ(median({3, 1, 2}), 2);
    EXPECT_DOUBLE_EQ(quantile({1, 2, 3, 4}, 0.25), 1.75);  // type 7
    EXPECT_DOUBLE_EQ(medianAbsoluteDeviation({1, 1, 2, 2, 4, 6, 9}), 1);
    EXPECT_TRUE(std::isnan(standardDeviation(std::vector<double>{1})));
    EXPECT_TRUE(std::isnan(median({})));
}

TEST(Stats, LineByHand) {
    const std::vector<double> x{0, 1, 2}, y{1, 3, 2};
    const Line line = fitLine(x, y);
    EXPECT_DOUBLE_EQ(line.slope, 0.5);
    EXPECT_DOUBLE_EQ(line.intercept, 1.5);
}

TEST(Wilson, ByHand) {
    // 5 of 6: centre (5/6 + z²/12) / (1 + z²/6), z = 1.96; the interval is 43.6 % to 97.0 %.
    const Proportion p = wilson(5, 6);
    EXPECT_NEAR(p.value, 0.8333, 1e-4);
    EXPECT_NEAR(p.low, 0.4365, 1e-4);
    EXPECT_NEAR(p.high, 0.9699, 1e-4);
    EXPECT_NEAR(wilson(0, 10).high, 0.2775, 1e-4);  // z² / (n + z²)
    EXPECT_DOUBLE_EQ(wilson(0, 10).low, 0);
    EXPECT_TRUE(std::isnan(wilson(0, 0).value));
}

TEST(Ranges, JoinSubtractIntersect) {
    const std::vector<TimeRange> a{between(0, 10), between(12, 20), between(30, 40)};
    EXPECT_EQ(joined(a, Duration(2)), (std::vector<TimeRange>{between(0, 20), between(30, 40)}));
    EXPECT_EQ(subtract(a, {between(5, 13), between(35, 36)}),
              (std::vector<TimeRange>{between(0, 5), between(13, 20), between(30, 35), between(36, 40)}));
    EXPECT_EQ(intersect(a, {between(8, 31)}),
              (std::vector<TimeRange>{between(8, 10), between(12, 20), between(30, 31)}));
    EXPECT_EQ(totalLength(a), Duration(28));
    EXPECT_EQ(subtract({between(0, 10)}, {between(0, 10)}), (std::vector<TimeRange>{}));
}

}  // namespace
}  // namespace jacinth
