// Textbook statistics that several calculations share.
#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace jacinth {

/// Arithmetic mean; NaN of nothing.
double mean(std::span<const double> x);
/// Standard deviation with n − 1; NaN for fewer than two.
double standardDeviation(std::span<const double> x);
/// Quantile q in [0, 1], linear between order statistics (Hyndman & Fan 1996, type 7). `sorted` rising; NaN
/// of nothing.
double quantileOfSorted(std::span<const double> sorted, double q);
double quantile(std::vector<double> x, double q);
double median(std::vector<double> x);
/// Median absolute deviation from the median, not scaled.
double medianAbsoluteDeviation(const std::vector<double>& x);

/// A median with its standard error where the values are independent and normal: √(π/2) · 1.4826 · MAD / √n.
/// NaN of nothing.
struct RobustLevel {
    double value, error;
};
RobustLevel robustLevel(std::vector<double> x);

/// Least-squares line y = intercept + slope·x. Both NaN for fewer than two points or no spread in x.
struct Line {
    double intercept, slope;
};
Line fitLine(std::span<const double> x, std::span<const double> y);

/// A proportion with its 95 % Wilson score interval (Wilson 1927): sound for few trials. NaN of no trials.
struct Proportion {
    double value, low, high;
};
Proportion wilson(std::size_t successes, std::size_t trials);

}  // namespace jacinth
