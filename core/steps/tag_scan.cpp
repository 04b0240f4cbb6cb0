#include "core/steps/tag_scan.h"

#include <cmath>
#include <set>

#include "core/series/noise.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kCompanionScore = 4.5;  // of the least jump that may say that a companion moved
constexpr std::size_t kFourHours = 1;    // its place among the reaches
constexpr double kExplained = 0.8;

std::vector<StretchLevel> levelsByStretch(const std::vector<double>& remainder, const BlockGrid& grid,
                                          const std::vector<RecurringStretch>& scale) {
    std::vector<StretchLevel> out;
    for (const RecurringStretch& s : scale) {
        std::vector<double> inside;
        for (std::size_t b = grid.at(std::max(s.range.from, grid.range.from));
             b < remainder.size() && grid.start(b) + grid.width / 2 < s.range.to; ++b)
            if (grid.start(b) + grid.width / 2 >= s.range.from && !std::isnan(remainder[b]))
                inside.push_back(remainder[b]);
        if (!inside.empty()) out.push_back({s, median(std::move(inside))});
    }
    return out;
}

std::size_t kindsIn(const std::vector<RecurringStretch>& scale) {
    std::set<int> kinds;
    for (const RecurringStretch& s : scale) kinds.insert(s.kind);
    return kinds.size();
}

}  // namespace

TagScan scanTag(TagId tag, const std::string& unit, const SeriesView& series, const BlockGrid& grid,
                const std::vector<std::vector<RecurringStretch>>& scales, const Progress& progress) {
    TagScan out;
    out.tag = tag;
    out.unit = unit;
    out.resolution = resolutionOf(series);
    JumpScan jumps = scanJumps(series, kCompanionScore, progress);
    out.jumps = std::move(jumps.jumps);
    out.usualJump = jumps.usual;
    out.levels = out.remainder = LevelDifference(blockLevels(series, grid), grid);
    double least = kExplained * out.levels.usual(kFourHours);
    for (const auto& scale : scales) {
        LevelDifference remainder(withoutShape(out.levels.levels(), grid, scale), grid);
        out.byScale.push_back(levelsByStretch(remainder.levels(), grid, scale));
        const double left = remainder.usual(kFourHours) * (kindsIn(scale) > 2 ? kExplained : 1);
        if (!(left < least)) continue;
        least = left;
        out.byStretch = out.byScale.back();
        out.remainder = std::move(remainder);
    }
    return out;
}

}  // namespace jacinth
