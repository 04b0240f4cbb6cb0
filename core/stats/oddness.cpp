#include "core/stats/oddness.h"

#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

Oddness oddnessOf(const std::vector<std::vector<double>>& profiles, std::size_t asset) {
    constexpr std::size_t kLeastOthers = 3;
    const std::vector<double>& mine = profiles[asset];
    Oddness out;
    out.asset = asset;
    out.score = kMissing;
    out.distance.assign(mine.size(), kMissing);
    std::vector<double> spreads;
    for (std::size_t i = 0; i < mine.size(); ++i) {
        std::vector<double> others;
        for (std::size_t a = 0; a < profiles.size(); ++a)
            if (a != asset && std::isfinite(profiles[a][i])) others.push_back(profiles[a][i]);
        if (others.size() < kLeastOthers || !std::isfinite(mine[i])) continue;
        spreads.push_back(1.4826 * medianAbsoluteDeviation(others));
        out.distance[i] = mine[i] - median(std::move(others));
    }
    const double spread = median(spreads);
    if (!(spread > 0)) return out;
    double sum = 0;
    for (double& d : out.distance) {
        if (!std::isfinite(d)) continue;
        d /= spread;
        sum += std::abs(d);
        ++out.slices;
    }
    if (out.slices > 0) out.score = sum / static_cast<double>(out.slices);
    return out;
}

}  // namespace

std::vector<Oddness> oddness(const std::vector<std::vector<double>>& profiles) {
    std::vector<Oddness> out;
    for (std::size_t a = 0; a < profiles.size(); ++a) out.push_back(oddnessOf(profiles, a));
    std::stable_sort(out.begin(), out.end(), [](const Oddness& a, const Oddness& b) {
        return std::isfinite(a.score) && (!std::isfinite(b.score) || a.score > b.score);
    });
    return out;
}

}  // namespace jacinth
