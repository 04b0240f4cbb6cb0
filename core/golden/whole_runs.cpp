#include "core/golden/whole_runs.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace jacinth {
namespace {

void dropOdd(std::vector<double>& factors) {
    const auto beyond = static_cast<std::size_t>(
        std::count_if(factors.begin(), factors.end(), [](double f) { return f > kOddBeyond; }));
    const bool few = beyond <= std::max<std::size_t>(3, factors.size() / 20);
    std::erase_if(factors, [&](double f) { return few ? f > kOddBeyond : !std::isfinite(f); });
}

}  // namespace

double factorToHold(const SeriesView& series, const Bridging& bridging, const RunScale& scale,
                    const GoldenLimits& limits, const ScreenSpec& spec) {
    const auto holds = [&](double factor) {
        return findExcursions(series, bridging, scale, widenedBy(limits, factor), spec).empty();
    };
    double low = 1, high = kMostWidened;
    if (holds(low)) return low;
    if (!holds(high)) return std::numeric_limits<double>::infinity();
    while (high - low > 5e-3) {
        const double middle = (low + high) / 2;
        (holds(middle) ? high : low) = middle;
    }
    return high;
}

double factorForRuns(std::vector<double> factors, double coverage) {
    dropOdd(factors);
    if (factors.size() < 2) return 1;
    std::sort(factors.begin(), factors.end());
    const double share = static_cast<double>(factors.size()) * (1 - coverage);
    const std::size_t outside =
        std::clamp<std::size_t>(static_cast<std::size_t>(std::floor(share + 1e-9)), 1, factors.size() - 1);
    return std::clamp(factors[factors.size() - 1 - outside], 1.0, kMostWidened);
}

}  // namespace jacinth
