#include "core/stats/change.h"

#include <algorithm>
#include <cmath>
#include <random>
#include <vector>

namespace jacinth {
namespace {

constexpr std::size_t kLeast = 3;  // counts on either side of a split

double term(double sum, double n) {
    return sum > 0 ? sum * std::log(sum / n) : 0;
}

/// Log-likelihood of each split over that of one rate for all; index i splits before count i.
std::vector<double> profile(std::span<const double> counts) {
    double total = 0;
    for (const double c : counts) total += c;
    const auto n = static_cast<double>(counts.size());
    std::vector<double> out(counts.size(), 0);
    double before = 0;
    for (std::size_t i = 1; i < counts.size(); ++i) {
        before += counts[i - 1];
        const auto left = static_cast<double>(i);
        if (i >= kLeast && counts.size() - i >= kLeast)
            out[i] = term(before, left) + term(total - before, n - left) - term(total, n);
    }
    return out;
}

/// Pearson's chi-square about the two rates, a degree of freedom; 1 for Poisson counts.
double dispersion(std::span<const double> counts, const CountChange& c) {
    double sum = 0;
    for (std::size_t i = 0; i < counts.size(); ++i) {
        const double rate = i < c.at ? c.before : c.after;
        if (rate > 0) sum += (counts[i] - rate) * (counts[i] - rate) / rate;
    }
    return std::max(1.0, sum / static_cast<double>(counts.size() - 2));
}

double probabilityOf(std::span<const double> counts, double found) {
    constexpr int kOrders = 999;
    std::vector<double> order(counts.begin(), counts.end());
    std::mt19937_64 random(20260301);
    int asClear = 1;  // the order given
    for (int i = 0; i < kOrders; ++i) {
        std::shuffle(order.begin(), order.end(), random);
        const std::vector<double> p = profile(order);
        asClear += *std::max_element(p.begin(), p.end()) >= found - 1e-12;
    }
    return static_cast<double>(asClear) / (kOrders + 1);
}

}  // namespace

std::optional<CountChange> changeInCounts(std::span<const double> counts) {
    if (counts.size() < 2 * kLeast) return {};
    const std::vector<double> p = profile(counts);
    const auto best = std::max_element(p.begin(), p.end());
    if (!(*best > 0)) return {};
    CountChange out;
    out.at = static_cast<std::size_t>(best - p.begin());
    out.from = out.to = out.at;
    for (std::size_t i = 0; i < counts.size(); ++i) (i < out.at ? out.before : out.after) += counts[i];
    out.before /= static_cast<double>(out.at);
    out.after /= static_cast<double>(counts.size() - out.at);
    const double reach = 1.92 * dispersion(counts, out);
    for (std::size_t i = kLeast; i + kLeast <= counts.size(); ++i)
        if (p[i] >= *best - reach) {
            out.from = std::min(out.from, i);
            out.to = std::max(out.to, i);
        }
    out.probability = probabilityOf(counts, *best);
    return out;
}

}  // namespace jacinth
