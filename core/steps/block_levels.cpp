#include "core/steps/block_levels.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/missing.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr int kSlices = 40;
constexpr std::size_t kLeastOccurrences = 3;
constexpr std::size_t kPlaces = 400;  // moments at which the usual difference is measured

using SliceOf = std::pair<int, int>;  // kind, slice

/// Kind and slice of each block; kind −1 outside of every stretch.
std::vector<SliceOf> slicesOf(const BlockGrid& grid, const std::vector<RecurringStretch>& stretches) {
    std::vector<SliceOf> out(grid.count(), {-1, 0});
    auto stretch = stretches.begin();
    for (std::size_t i = 0; i < out.size(); ++i) {
        const Instant middle = grid.start(i) + grid.width / 2;
        while (stretch != stretches.end() && stretch->range.to <= middle) ++stretch;
        if (stretch == stretches.end() || stretch->range.from > middle) continue;
        const double share =
            toNanoseconds(middle - stretch->range.from) / toNanoseconds(stretch->range.length());
        out[i] = {stretch->kind, std::min(kSlices - 1, static_cast<int>(share * kSlices))};
    }
    return out;
}

}  // namespace

double medianOfKnown(const std::vector<double>& levels, std::size_t from, std::size_t to, double share) {
    std::vector<double> known;
    for (std::size_t i = from; i < to; ++i)
        if (!std::isnan(levels[i])) known.push_back(levels[i]);
    if (static_cast<double>(known.size()) < share * static_cast<double>(to - from)) return kMissing;
    return median(std::move(known));
}

BlockGrid gridFor(TimeRange range) {
    return {range, std::max<Duration>(10 * kMinute, range.length() / 16'384)};
}

std::vector<double> blockLevels(const SeriesView& series, const BlockGrid& grid) {
    std::vector<double> out(grid.count(), kMissing), inside;
    std::size_t i = firstNotBefore(series.times, grid.range.from);
    for (std::size_t b = 0; b < out.size(); ++b) {
        inside.clear();
        for (const Instant end = grid.start(b + 1); i < series.size() && series.times[i] < end; ++i)
            if (series.usable(i)) inside.push_back(series.values[i]);
        if (!inside.empty()) out[b] = median(inside);
    }
    return out;
}

std::vector<double> withoutShape(const std::vector<double>& levels, const BlockGrid& grid,
                                 const std::vector<RecurringStretch>& stretches) {
    std::map<int, std::size_t> occurrences;
    for (const RecurringStretch& s : stretches) ++occurrences[s.kind];
    const std::vector<SliceOf> slices = slicesOf(grid, stretches);
    std::map<SliceOf, std::vector<double>> values;
    for (std::size_t i = 0; i < levels.size(); ++i)
        if (slices[i].first >= 0 && !std::isnan(levels[i])) values[slices[i]].push_back(levels[i]);
    std::map<SliceOf, double> shape;
    for (auto& [slice, all] : values)
        if (occurrences[slice.first] >= static_cast<std::size_t>(kLeastOccurrences) &&
            all.size() >= kLeastOccurrences)
            shape[slice] = median(std::move(all));
    std::vector<double> out(levels.size(), kMissing);
    for (std::size_t i = 0; i < levels.size(); ++i)
        if (const auto s = shape.find(slices[i]); s != shape.end()) out[i] = levels[i] - s->second;
    return out;
}

LevelDifference::LevelDifference(std::vector<double> levels, const BlockGrid& grid)
    : levels_(std::move(levels)) {
    for (std::size_t reach = 0; reach < kReaches.size(); ++reach) {
        blocks_[reach] = static_cast<std::size_t>(std::max<std::int64_t>(1, kReaches[reach] / grid.width));
        std::vector<double> sizes;
        const std::size_t step = std::max<std::size_t>(1, levels_.size() / kPlaces);
        for (std::size_t i = 0; i < levels_.size(); i += step)
            if (const double d = at(i, reach); !std::isnan(d)) sizes.push_back(std::abs(d));
        usual_[reach] = sizes.size() < 20 ? kMissing : 1.4826 * median(std::move(sizes));
    }
}

double LevelDifference::at(std::size_t i, std::size_t reach) const {
    const std::size_t n = blocks_[reach];
    if (i < n || i + 1 + n > levels_.size()) return kMissing;
    return medianOfKnown(levels_, i + 1, i + 1 + n, 0.5) - medianOfKnown(levels_, i - n, i, 0.5);
}

}  // namespace jacinth
