#include "core/steps/step_evidence.h"

#include <algorithm>
#include <cmath>

#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kTwin = 0.35;
constexpr double kByTwin = 10;
constexpr Duration kLeastDrift = 2 * kDay;
constexpr Duration kMostDrift = 45 * kDay;

std::vector<double> less(const std::vector<double>& a, const std::vector<double>& b) {
    std::vector<double> out(a.size());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = a[i] - b[i];
    return out;
}

/// The resistant line through the medians of the outer thirds rises against `size`, by half of it to one and
/// a half times, and the middle third lies on it.
bool runsAway(const std::vector<double>& levels, std::size_t first, std::size_t last, double size) {
    const std::size_t third = (last - first) / 3;
    const double start = medianOfKnown(levels, first, first + third),
                 middle = medianOfKnown(levels, first + third, last - third),
                 end = medianOfKnown(levels, last - third, last);
    const double rise = (end - start) * 1.5, part = (middle - start) / (end - start);
    return rise * size < 0 && std::abs(rise) >= 0.5 * std::abs(size) &&
           std::abs(rise) <= 1.6 * std::abs(size) && part > 0.25 && part < 0.75;
}

/// The block from which on the levels around are best two constant ones.
std::size_t sharpestNear(const std::vector<double>& levels, std::size_t block) {
    constexpr std::size_t kWide = 12, kNear = 6;
    if (block < kWide || block + kWide > levels.size()) return block;
    std::size_t best = block;
    double least = INFINITY;
    for (std::size_t cut = block - kNear; cut <= block + kNear; ++cut) {
        const double before = medianOfKnown(levels, block - kWide, cut),
                     after = medianOfKnown(levels, cut, block + kWide);
        double cost = 0;
        for (std::size_t i = block - kWide; i < block + kWide; ++i)
            if (!std::isnan(levels[i])) cost += std::abs(levels[i] - (i < cut ? before : after));
        if (cost < least) least = cost, best = cut;
    }
    return best;
}

}  // namespace

StepEvidence::StepEvidence(const std::vector<TagScan>& asset, const BlockGrid& grid)
    : asset_(asset), grid_(grid) {
    for (std::size_t a = 0; a < asset.size(); ++a) {
        double least = kTwin;
        for (std::size_t b = 0; b < asset.size(); ++b) {
            if (a == b || asset[a].unit != asset[b].unit) continue;
            LevelDifference apart(less(asset[a].levels.levels(), asset[b].levels.levels()), grid);
            const double share =
                apart.usual(0) / std::min(asset[a].levels.usual(0), asset[b].levels.usual(0));
            if (!(share < least)) continue;
            least = share;
            twins_[a] = b;
            lessTwin_[a] = std::move(apart);
        }
    }
}

std::optional<std::size_t> StepEvidence::twinOf(std::size_t tag) const {
    const auto twin = twins_.find(tag);
    return twin == twins_.end() ? std::nullopt : std::optional(twin->second);
}

std::vector<std::size_t> StepEvidence::changesFromTwin(std::size_t tag) const {
    const LevelDifference& apart = lessTwin(tag);
    const std::size_t near = static_cast<std::size_t>(4 * kHour / grid_.width);
    std::vector<std::size_t> out;
    double last = 0;
    for (std::size_t i = 0; i < apart.levels().size(); ++i) {
        const double change = apart.at(i, 1), hour = apart.at(i, 0);
        if (!(std::abs(change) >= kByTwin * apart.usual(1)) || !(hour / change > 0.7)) continue;
        if (!out.empty() && i - out.back() <= near && last * hour > 0) {
            if (std::abs(hour) > std::abs(last)) out.back() = i, last = hour;
        } else {
            out.push_back(i);
            last = hour;
        }
    }
    for (std::size_t& block : out) block = sharpestNear(apart.levels(), block);
    return out;
}

StaysChanged StepEvidence::stays(const LevelDifference& levels, double resolution, Instant at, double size,
                                 Bounds bounds) const {
    StaysChanged out;
    const std::size_t block = grid_.at(at);
    for (std::size_t reach = 0; reach < LevelDifference::kReaches.size(); ++reach) {
        const double change = levels.at(block, reach), usual = std::max(levels.usual(reach), resolution / 2);
        if (std::isnan(change) || std::isnan(usual)) continue;
        out.longKnown = out.longKnown || reach >= 2;
        const double share = change / size;
        if (share < bounds.least || share > bounds.most || std::abs(change) < bounds.clear * usual) continue;
        ++(reach < 2 ? out.shortReaches : out.longReaches);
        if (share > 0.8 && share < 1.25)
            out.estimates.emplace_back(LevelDifference::kReaches[reach], Estimate{change, usual});
    }
    return out;
}

StaysChanged StepEvidence::byShape(std::size_t tag, Instant at, double size) const {
    return stays(asset_[tag].remainder, asset_[tag].resolution, at, size, {0.5, 1.6, 3});
}

StaysChanged StepEvidence::byTwin(std::size_t tag, Instant at, double size) const {
    return stays(lessTwin_.at(tag), asset_[tag].resolution, at, size, {0.5, 1.6, 3});
}

StaysChanged StepEvidence::companion(std::size_t tag, Instant at, double size) const {
    return stays(asset_[tag].remainder, asset_[tag].resolution, at, size, {0.3, 1.8, 2.5});
}

bool StepEvidence::endsDrift(std::size_t tag, Instant from, Instant at, double size) const {
    if (twinOf(tag)) return runsAwayBefore(lessTwin(tag).levels(), grid_, from, at, size);
    // What is left without the shape runs away for other reasons too: all of it has to.
    from = std::max({from, grid_.range.from, at - kMostDrift});
    return at - from >= kLeastDrift &&
           runsAway(asset_[tag].remainder.levels(), grid_.at(from), grid_.at(at), size);
}

bool runsAwayBefore(const std::vector<double>& levels, const BlockGrid& grid, Instant from, Instant at,
                    double size) {
    from = std::max(from, grid.range.from);
    for (const Duration back : {kMostDrift, kMostDrift / 2, kMostDrift / 4})
        if (const Instant start = std::max(from, at - back);
            at - start >= kLeastDrift && runsAway(levels, grid.at(start), grid.at(at), size))
            return true;
    return false;
}

}  // namespace jacinth
