#include "core/golden/whole_runs.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <span>

namespace jacinth {
namespace {

/// The start of the tail of falling factors, and the mean excess of those above it.
struct Tail {
    std::size_t above = 0;
    double from = 0, excess = 0;
};

/// `factors`: falling, two or more; `beyond`: the share that is asked for.
Tail tailOf(std::span<const double> factors, double beyond) {
    const std::size_t n = factors.size();
    const auto most = static_cast<std::size_t>(std::max(20.0, 3 * static_cast<double>(n) * beyond));
    Tail out;
    out.above = std::clamp(std::min(n / 8, most), std::min<std::size_t>(3, n - 1), n - 1);
    out.from = factors[out.above];
    for (const double f : factors.first(out.above))
        out.excess += (f - out.from) / static_cast<double>(out.above);
    return out;
}

/// How many of the largest are odd: beyond kOddBeyond, and further from the next one than the tail of the
/// rest gives one time in a hundred. The gap below the j largest of an exponential tail is exponential too,
/// with a j-th of its mean (Rényi 1953).
std::size_t countOdd(std::span<const double> falling, std::size_t most, double beyond) {
    const double rare = std::log(100.0);
    for (std::size_t j = std::min(most, falling.size()); j > 0; --j) {
        if (falling[j - 1] <= kOddBeyond) continue;
        const auto rest = falling.subspan(j);
        if (rest.size() < 2) return j;
        const double gap = falling[j - 1] - rest.front();
        if (gap > tailOf(rest, beyond).excess * rare / static_cast<double>(j)) return j;
    }
    return 0;
}

/// What a share `beyond` of runs exceeds. `factors`: falling, two or more.
double tailQuantile(std::span<const double> factors, double beyond) {
    const Tail tail = tailOf(factors, beyond);
    const double above = (static_cast<double>(tail.above) + 0.5) / (static_cast<double>(factors.size()) + 1);
    return tail.from + tail.excess * std::log(above / beyond);
}

}  // namespace

double factorToHold(const SeriesView& series, const Bridging& bridging, const RunScale& scale,
                    const GoldenLimits& limits, const ScreenSpec& spec) {
    const auto holds = [&](double factor) {
        return findExcursions(series, bridging, scale, widenedBy(limits, factor), spec).empty();
    };
    double low = kLeastFactor, high = kMostWidened;
    if (holds(low)) return low;
    if (!holds(high)) return std::numeric_limits<double>::infinity();
    while (high - low > 5e-3) {
        const double middle = (low + high) / 2;
        (holds(middle) ? high : low) = middle;
    }
    return high;
}

double factorForRuns(std::vector<double> factors, double coverage) {
    const double beyond = kRunsBeyond * (1 - coverage);
    const std::size_t mostOdd = std::max<std::size_t>(3, factors.size() / 20);
    const std::size_t without = std::erase_if(factors, [](double f) { return !std::isfinite(f); });
    std::sort(factors.begin(), factors.end(), std::greater<>());
    std::span<const double> falling = factors;
    if (without < mostOdd) falling = falling.subspan(countOdd(falling, mostOdd - without, beyond));
    if (falling.size() < 2) return 1;
    return std::clamp(tailQuantile(falling, beyond), 1.0, kMostWidened);
}

}  // namespace jacinth
