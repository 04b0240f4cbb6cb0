#include "core/causes/run_levels.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/missing.h"
#include "core/stats/rank_tests.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::ptrdiff_t kRunsBeside = 12;

/// Mean of f over the slices of each bin, NaN left out.
template <typename F>
std::vector<double> meansByBin(const GoldenLimits& limits, const ScaleBins& bins, F f) {
    std::vector<double> sum(bins.count, 0), n(bins.count, 0);
    const auto each = std::max<std::size_t>(1, static_cast<std::size_t>(bins.width / limits.spec.every));
    for (std::size_t i = 0; i < limits.slices.size(); ++i) {
        const double v = f(limits.slices[i]);
        if (std::isnan(v)) continue;
        sum[i / each] += v;
        ++n[i / each];
    }
    for (std::size_t b = 0; b < sum.size(); ++b) sum[b] = n[b] > 0 ? sum[b] / n[b] : kMissing;
    return sum;
}

std::vector<double> knownOnly(std::vector<double> x) {
    std::erase_if(x, [](double v) { return std::isnan(v); });
    return x;
}

double medianOrMissing(std::vector<double> x) {
    x = knownOnly(std::move(x));
    return x.empty() ? kMissing : median(std::move(x));
}

}  // namespace

std::vector<double> levelByBin(const AlignedRun& aligned, const GoldenLimits& limits, const ScaleBins& bins) {
    return meansByBin(limits, bins, [&](const LimitSlice& s) {
        return aligned.at(s.offset.time_since_epoch() / limits.spec.every) - s.centre;
    });
}

std::vector<double> halfWidthByBin(const GoldenLimits& limits, const ScaleBins& bins) {
    return meansByBin(limits, bins, [](const LimitSlice& s) { return (s.high - s.low) / 2; });
}

void takeAway(RunLevels& levels, AssetId asset, const CauseEffect& effect) {
    for (RunLevel& run : levels.runs) {
        if (run.asset != asset) continue;
        for (std::size_t b = 0; b < run.off.size(); ++b)
            run.off[b] -= effect.at(run.start, levels.bins.centre(b));
    }
}

double meanLevel(const RunLevels& levels, const RunLevel& run, std::size_t from, std::size_t to) {
    double sum = 0;
    int n = 0;
    for (std::size_t b = from; b < to; ++b) {
        const double v = run.off[b] / levels.halfWidth[b];
        if (!std::isfinite(v)) continue;
        sum += v;
        ++n;
    }
    return n > 0 ? sum / n : kMissing;
}

std::optional<LevelShift> shiftAt(const RunLevels& levels, AssetId asset, Instant at, TimeRange within) {
    std::vector<const RunLevel*> before, after;
    for (const RunLevel& run : levels.runs)
        if (run.asset == asset && within.contains(run.start))
            (run.start < at ? before : after).push_back(&run);
    if (before.size() < 3 || after.size() < 3) return {};
    // Those next to the change: what happens long before or after it is not of it.
    if (std::ssize(before) > kRunsBeside) before.erase(before.begin(), before.end() - kRunsBeside);
    if (std::ssize(after) > kRunsBeside) after.resize(static_cast<std::size_t>(kRunsBeside));
    LevelShift out;
    out.shape.bins = levels.bins;
    const auto medianAt = [](const std::vector<const RunLevel*>& runs, std::size_t bin) {
        std::vector<double> x;
        for (const RunLevel* run : runs) x.push_back(run->off[bin]);
        return medianOrMissing(std::move(x));
    };
    double sum = 0;
    int n = 0;
    for (std::size_t b = 0; b < levels.bins.count; ++b) {
        out.shape.values.push_back(medianAt(after, b) - medianAt(before, b));
        const double inWidths = out.shape.values.back() / levels.halfWidth[b];
        if (!std::isfinite(inWidths)) continue;
        sum += inWidths;
        ++n;
    }
    if (n == 0) return {};
    out.size = sum / n;
    const auto means = [&](const std::vector<const RunLevel*>& runs) {
        std::vector<double> x;
        for (const RunLevel* run : runs) x.push_back(meanLevel(levels, *run, 0, levels.bins.count));
        return x;
    };
    out.probability = rankSumProbability(means(before), means(after));
    return out;
}

namespace {

/// One asset's runs in one bin.
struct AssetBin {
    double median = kMissing, error = kMissing;
};

AssetBin assetBin(std::vector<double> x) {
    x = knownOnly(std::move(x));
    if (x.size() < 5) return {};
    const RobustLevel level = robustLevel(std::move(x));
    return {level.value, level.error};
}

double differenceOf(const std::map<AssetId, std::vector<double>>& byAsset, AssetId asset, double halfWidth) {
    const AssetBin own = assetBin(byAsset.at(asset));
    std::vector<double> others;
    for (const auto& [id, values] : byAsset)
        if (id != asset)
            if (const AssetBin other = assetBin(values); !std::isnan(other.median))
                others.push_back(other.median);
    if (std::isnan(own.median) || others.size() < 2) return 0;
    const auto [least, greatest] = std::minmax_element(others.begin(), others.end());
    const double apart = own.median - median(others), least4 = 4 * own.error;
    const bool clear = std::abs(apart) > least4 && std::abs(apart) > *greatest - *least &&
                       std::abs(apart) > 0.25 * halfWidth;
    return clear ? apart : 0;
}

}  // namespace

std::optional<ScaleShape> assetShape(const RunLevels& levels, AssetId asset) {
    ScaleShape out{levels.bins, std::vector<double>(levels.bins.count, 0.0)};
    std::map<AssetId, std::vector<double>> byAsset;
    bool any = false;
    for (std::size_t b = 0; b < levels.bins.count; ++b) {
        byAsset.clear();
        for (const RunLevel& run : levels.runs) byAsset[run.asset].push_back(run.off[b]);
        if (byAsset.size() < 3 || !byAsset.contains(asset)) return {};
        out.values[b] = differenceOf(byAsset, asset, levels.halfWidth[b]);
        any = any || out.values[b] != 0;
    }
    return any ? std::optional(out) : std::nullopt;
}

}  // namespace jacinth
