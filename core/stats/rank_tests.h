// Tests that look at the order of values only: nothing is assumed about how they are distributed.
#pragma once

#include <span>
#include <vector>

namespace jacinth {

/// A rise or fall in order of time.
struct RankTrend {
    double s = 0;                ///< pairs that rise − pairs that fall
    double variance = 0;         ///< of s without a trend, ties allowed for
    double z() const;            ///< with the continuity correction; 0 where the variance is 0
    double probability() const;  ///< of an |s| as great without a trend, from the normal distribution
};

/// Mann (1945) and Kendall: every pair of values. NaN are left out. From about 8 values on the normal
/// distribution is good to a per cent; with fewer the probability is somewhat too small. O(n²).
RankTrend rankTrend(std::span<const double> inOrder);

/// Several stretches, each with a level of its own but a common direction: sums of s and of the variances
/// (Hirsch, Slack & Smith 1982, there for seasons).
RankTrend rankTrendOf(std::span<const std::vector<double>> stretches);

/// The probability of two samples as different in level as these if both are of one level (Wilcoxon
/// 1945, Mann & Whitney 1947; two-sided, normal approximation with ties and continuity correction). 1 where
/// one has no values or all values are the same.
double rankSumProbability(std::span<const double> a, std::span<const double> b);

/// Median of the slopes between all pairs of points (Theil 1950, Sen 1968): up to 29 % of wild values do
/// not move it. NaN where fewer than two points differ in x. O(n²).
double medianSlope(std::span<const double> x, std::span<const double> y);

}  // namespace jacinth
