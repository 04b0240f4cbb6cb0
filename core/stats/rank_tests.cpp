#include "core/stats/rank_tests.h"

#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

double bothTails(double z) {
    return std::erfc(std::abs(z) / std::sqrt(2.0));
}

/// How often each value appears that appears more than once.
std::vector<double> tiesOf(std::vector<double> x) {
    std::sort(x.begin(), x.end());
    std::vector<double> out;
    for (std::size_t i = 0; i < x.size();) {
        std::size_t j = i;
        while (j < x.size() && x[j] == x[i]) ++j;
        if (j - i > 1) out.push_back(static_cast<double>(j - i));
        i = j;
    }
    return out;
}

std::vector<double> known(std::span<const double> x) {
    std::vector<double> out;
    for (const double v : x)
        if (!std::isnan(v)) out.push_back(v);
    return out;
}

}  // namespace

double RankTrend::z() const {
    if (!(variance > 0) || s == 0) return 0;
    return (s > 0 ? s - 1 : s + 1) / std::sqrt(variance);
}

double RankTrend::probability() const {
    return bothTails(z());
}

RankTrend rankTrend(std::span<const double> inOrder) {
    const std::vector<double> x = known(inOrder);
    RankTrend out;
    for (std::size_t i = 0; i < x.size(); ++i)
        for (std::size_t j = i + 1; j < x.size(); ++j) out.s += x[j] > x[i] ? 1 : x[j] < x[i] ? -1 : 0;
    const auto pairs = [](double n) { return n * (n - 1) * (2 * n + 5); };
    out.variance = pairs(static_cast<double>(x.size()));
    for (const double t : tiesOf(x)) out.variance -= pairs(t);
    out.variance /= 18;
    return out;
}

RankTrend rankTrendOf(std::span<const std::vector<double>> stretches) {
    RankTrend out;
    for (const auto& stretch : stretches) {
        const RankTrend one = rankTrend(stretch);
        out.s += one.s;
        out.variance += one.variance;
    }
    return out;
}

double rankSumProbability(std::span<const double> first, std::span<const double> second) {
    const std::vector<double> a = known(first), b = known(second);
    const auto na = static_cast<double>(a.size()), nb = static_cast<double>(b.size());
    if (a.empty() || b.empty()) return 1;
    double u = 0;
    for (const double x : a)
        for (const double y : b) u += x > y ? 1 : x == y ? 0.5 : 0;
    std::vector<double> all = a;
    all.insert(all.end(), b.begin(), b.end());
    const double n = na + nb;
    double ties = 0;
    for (const double t : tiesOf(all)) ties += t * t * t - t;
    const double variance = na * nb / 12 * (n + 1 - ties / (n * (n - 1)));
    if (!(variance > 0)) return 1;
    return bothTails(std::max(std::abs(u - na * nb / 2) - 0.5, 0.0) / std::sqrt(variance));
}

double medianSlope(std::span<const double> x, std::span<const double> y) {
    std::vector<double> slopes;
    for (std::size_t i = 0; i < x.size(); ++i)
        for (std::size_t j = i + 1; j < x.size(); ++j)
            if (x[i] != x[j] && !std::isnan(y[i]) && !std::isnan(y[j]))
                slopes.push_back((y[j] - y[i]) / (x[j] - x[i]));
    return slopes.empty() ? kMissing : median(std::move(slopes));
}

}  // namespace jacinth
