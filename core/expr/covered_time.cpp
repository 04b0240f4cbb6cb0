#include "core/expr/covered_time.h"

#include <cmath>

namespace jacinth {
namespace {

/// The next knot without a value; quick over those with one.
std::size_t nextWithout(std::span<const double> values, std::size_t i) {
    while (i < values.size() && std::isfinite(values[i])) ++i;
    return i;
}

}  // namespace

KnownTime knownTimeOf(const Signal& x) {
    KnownTime out;
    const KnotsView k(x);
    const std::size_t n = k.times.size();
    if (n == 0) return out;
    out.whole = {k.times.front(), k.times.back()};
    if (x.stepped && std::isfinite(k.values.back())) out.whole.to = Instant::max();
    for (std::size_t i = nextWithout(k.values, 0); i < n; i = nextWithout(k.values, i)) {
        out.anyMissing = true;
        // A line needs both its ends; what is held begins to be missing at the knot.
        const Instant from = x.stepped || i == 0 ? k.times[i] : k.times[i - 1];
        while (i < n && !std::isfinite(k.values[i])) ++i;
        const Instant to = i < n ? k.times[i] : k.times.back();
        if (to <= from) continue;
        if (!out.gaps.empty() && out.gaps.back().to == from)
            out.gaps.back().to = to;
        else
            out.gaps.push_back({from, to});
    }
    return out;
}

}  // namespace jacinth
