#include <algorithm>

#include "zoo/process.h"

namespace jacinth::zoo {

Minutes wandering(std::size_t n, double memory, Random& random) {
    const double kept = std::exp(-1 / memory), fresh = std::sqrt(1 - kept * kept);
    Minutes out(n);
    double x = random.normal();
    for (double& v : out) v = x = kept * x + fresh * random.normal();
    return out;
}

Minutes daily(std::size_t n, Random& random) {
    const double start = random.between(0, 1440);
    Minutes out(n);
    double height = 1, next = random.between(0.6, 1.4);
    for (std::size_t m = 0; m < n; ++m) {
        if (m % 1440 == 0) height = next, next = random.between(0.6, 1.4);
        const double share = static_cast<double>(m % 1440) / 1440;
        out[m] = (height + (next - height) * share) *
                 std::sin(2 * std::numbers::pi * (static_cast<double>(m) + start) / 1440);
    }
    return out;
}

Minutes setPoints(std::size_t n, int least, int most, Random& random) {
    Minutes out(n);
    double level = random.normal();
    std::size_t until = 0;
    for (std::size_t m = 0; m < n; ++m) {
        if (m >= until)
            level = random.normal(), until = m + static_cast<std::size_t>(random.whole(least, most));
        out[m] = level;
    }
    return out;
}

Minutes following(const Minutes& x, double minutes) {
    const double kept = std::exp(-1 / minutes);
    Minutes out(x.size());
    double y = x.front();
    for (std::size_t m = 0; m < x.size(); ++m) out[m] = y = kept * y + (1 - kept) * x[m];
    return out;
}

Minutes later(const Minutes& x, int minutes) {
    Minutes out(x.size());
    for (std::size_t m = 0; m < x.size(); ++m)
        out[m] = x[m >= static_cast<std::size_t>(minutes) ? m - static_cast<std::size_t>(minutes) : 0];
    return out;
}

Minutes mixture(const std::vector<double>& weights, const std::vector<Minutes>& signals) {
    Minutes out(signals.front().size(), 0);
    for (std::size_t s = 0; s < signals.size(); ++s)
        for (std::size_t m = 0; m < out.size(); ++m) out[m] += weights[s] * signals[s][m];
    return out;
}

void moveFrom(Minutes& x, std::size_t from, double by, double withinMinutes) {
    for (std::size_t m = from; m < x.size(); ++m)
        x[m] += by * std::min(1.0, static_cast<double>(m - from + 1) / withinMinutes);
}

}  // namespace jacinth::zoo
