#include "core/stats/stats.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/missing.h"

namespace jacinth {
namespace {
constexpr double kNormal975 = 1.959963984540054;  // 97.5 % point of the standard normal distribution
}  // namespace

double mean(std::span<const double> x) {
    if (x.empty()) return kMissing;
    double sum = 0;
    for (const double v : x) sum += v;
    return sum / static_cast<double>(x.size());
}

double standardDeviation(std::span<const double> x) {
    if (x.size() < 2) return kMissing;
    const double m = mean(x);
    double sum = 0;
    for (const double v : x) sum += (v - m) * (v - m);
    return std::sqrt(sum / static_cast<double>(x.size() - 1));
}

double quantileOfSorted(std::span<const double> sorted, double q) {
    if (sorted.empty()) return kMissing;
    const double at = q * static_cast<double>(sorted.size() - 1);
    const auto below = static_cast<std::size_t>(std::floor(at));
    if (below + 1 >= sorted.size()) return sorted.back();
    return sorted[below] + (at - static_cast<double>(below)) * (sorted[below + 1] - sorted[below]);
}

double quantile(std::vector<double> x, double q) {
    if (x.empty()) return kMissing;
    const double at = q * static_cast<double>(x.size() - 1);
    const auto below = x.begin() + static_cast<std::ptrdiff_t>(std::floor(at));
    std::nth_element(x.begin(), below, x.end());
    if (below + 1 == x.end()) return *below;
    const double above = *std::min_element(below + 1, x.end());
    return *below + (at - std::floor(at)) * (above - *below);
}

double median(std::vector<double> x) {
    return quantile(std::move(x), 0.5);
}

double medianAbsoluteDeviation(const std::vector<double>& x) {
    const double middle = median(x);
    std::vector<double> away;
    away.reserve(x.size());
    for (const double v : x) away.push_back(std::abs(v - middle));
    return median(std::move(away));
}

RobustLevel robustLevel(std::vector<double> x) {
    const double spread = 1.4826 * medianAbsoluteDeviation(x);
    const double error = std::sqrt(std::numbers::pi / 2) * spread / std::sqrt(static_cast<double>(x.size()));
    return {median(std::move(x)), error};
}

Line fitLine(std::span<const double> x, std::span<const double> y) {
    if (x.size() < 2) return {kMissing, kMissing};
    const double mx = mean(x), my = mean(y);
    double sxx = 0, sxy = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        sxx += (x[i] - mx) * (x[i] - mx);
        sxy += (x[i] - mx) * (y[i] - my);
    }
    if (sxx <= 0) return {kMissing, kMissing};
    return {my - sxy / sxx * mx, sxy / sxx};
}

Proportion wilson(std::size_t successes, std::size_t trials) {
    if (trials == 0) return {kMissing, kMissing, kMissing};
    const double n = static_cast<double>(trials);
    const double p = static_cast<double>(successes) / n;
    const double z2 = kNormal975 * kNormal975;
    const double centre = (p + z2 / (2 * n)) / (1 + z2 / n);
    const double half = kNormal975 / (1 + z2 / n) * std::sqrt(p * (1 - p) / n + z2 / (4 * n * n));
    return {p, std::max(0.0, centre - half), std::min(1.0, centre + half)};
}

}  // namespace jacinth
