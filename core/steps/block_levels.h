// The level of a tag block by block of time, what is left of it without its recurring shape, and how far
// levels on both sides of a moment lie apart.
#pragma once

#include <array>
#include <vector>

#include "core/series/series.h"
#include "core/time/instant.h"

namespace jacinth {

/// Blocks of equal width over a range; the last one may reach beyond it.
struct BlockGrid {
    TimeRange range;
    Duration width{};

    std::size_t count() const {
        return static_cast<std::size_t>((range.length() + width - kNanosecond) / width);
    }
    Instant start(std::size_t i) const { return range.from + width * static_cast<std::int64_t>(i); }
    /// The block of a moment in the range.
    std::size_t at(Instant t) const { return static_cast<std::size_t>((t - range.from) / width); }
};

/// Ten minutes wide, or as wide as makes 16 384 of them where the range is long.
BlockGrid gridFor(TimeRange range);

/// Medians of the usable samples in each block; NaN where there is none.
std::vector<double> blockLevels(const SeriesView& series, const BlockGrid& grid);

/// Median of the levels from `from` up to `to` that are known; NaN where none is, or less than `share` of
/// them.
double medianOfKnown(const std::vector<double>& levels, std::size_t from, std::size_t to, double share = 0);

/// A stretch that recurs: a state held, a phase of a run. `kind` says which.
struct RecurringStretch {
    int kind = 0;
    TimeRange range;
};

/// Levels without the shape that recurs: each stretch is cut into slices of equal share, and each slice loses
/// the median of that slice over all stretches of its kind. Blocks outside of every stretch, in a kind that
/// came fewer than three times or in a slice with fewer than three values are NaN. `stretches` rise in time
/// and do not overlap.
std::vector<double> withoutShape(const std::vector<double>& levels, const BlockGrid& grid,
                                 const std::vector<RecurringStretch>& stretches);

/// Differences of levels on both sides of a moment, over four reaches: an hour, four, a day, three days.
class LevelDifference {
  public:
    static constexpr std::array<Duration, 4> kReaches{kHour, 4 * kHour, kDay, 3 * kDay};

    LevelDifference() = default;
    LevelDifference(std::vector<double> levels, const BlockGrid& grid);
    const std::vector<double>& levels() const { return levels_; }

    /// Median of the blocks of a reach after block i − median of those before it; block i itself, which has
    /// some of both, does not count. NaN where fewer than half of them have a value on either side.
    double at(std::size_t i, std::size_t reach) const;
    /// The robust standard deviation of at(·, reach) over the whole record: what a difference is worth,
    /// measured where nothing is known to happen. NaN where it can be calculated at fewer than 20 places.
    double usual(std::size_t reach) const { return usual_[reach]; }

  private:
    std::vector<double> levels_;
    std::array<std::size_t, 4> blocks_{};  // of a reach
    std::array<double, 4> usual_{};
};

}  // namespace jacinth
