// commonToOthers of run_levels.h.
#include <algorithm>
#include <cmath>
#include <set>

#include "core/causes/run_levels.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::size_t kRuns = 8, kAssets = 3;
constexpr double kClearMedian = 2.576;  // both tails of the normal distribution: 1 %

std::vector<const RunLevel*> othersNear(const RunLevels& levels, const RunLevel& run, Duration near) {
    std::vector<const RunLevel*> out;
    std::set<AssetId> assets;
    for (const RunLevel& other : levels.runs)
        if (other.asset != run.asset && std::chrono::abs(other.start - run.start) <= near)
            out.push_back(&other), assets.insert(other.asset);
    if (out.size() < kRuns || assets.size() < kAssets) out.clear();
    return out;
}

double clearMedian(const std::vector<const RunLevel*>& runs, std::size_t bin) {
    std::vector<double> x;
    for (const RunLevel* run : runs)
        if (!std::isnan(run->off[bin])) x.push_back(run->off[bin]);
    if (x.size() < kRuns) return 0;
    const RobustLevel level = robustLevel(std::move(x));
    return std::abs(level.value) > kClearMedian * level.error ? level.value : 0;
}

}  // namespace

std::vector<CauseEffect> commonToOthers(const RunLevels& levels, AssetId asset, Duration near) {
    std::vector<CauseEffect> out;
    for (const RunLevel& run : levels.runs) {
        if (run.asset != asset) continue;
        const std::vector<const RunLevel*> others = othersNear(levels, run, near);
        if (others.empty()) continue;
        CauseEffect effect;
        effect.range = {run.start, run.end};
        effect.shape.bins = levels.bins;
        bool any = false;
        for (std::size_t b = 0; b < levels.bins.count; ++b) {
            effect.shape.values.push_back(clearMedian(others, b));
            any = any || effect.shape.values.back() != 0;
        }
        if (any) out.push_back(std::move(effect));
    }
    return out;
}

}  // namespace jacinth
