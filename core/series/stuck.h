// Stretches in which a sensor reads one value for longer than it ever does by itself: it is stuck, frozen, or
// the logger repeats what it last had.
#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/series/series.h"

namespace jacinth {

struct StuckSearch {
    Duration least = 30 * kMinute;  ///< from the first to the last of the equal samples
    std::size_t leastSamples = 10;
    double timesUsual = 5;  ///< how many times the usual length, in samples
};

struct StuckStretch {
    TimeRange range;   ///< its first and its last sample
    double value = 0;  ///< what it reads there
    std::size_t samples = 0;
    std::size_t usual = 0;  ///< samples of the usual length of equal ones
};

/// Usable samples in a row that are equal to the last digit, in order of time. Bad samples between them do
/// not count, a Missing one ends the row. The usual length is that of the rows which hold 80 % of the
/// samples, so that a tag of coarse digits is judged by its own. A row must be longer than five times that of
/// all rows, and of those near its value (within three of the finest differences logged; the shorter ones, 95
/// % of their samples): a sensor is quieter at rest. A value at which the tag rests three times or more for
/// long (a meter at zero while its machine stands, the end of a scale) does not count as stuck and is left
/// out, of the usual length too. Nothing for stepped tags and states: they hold values by their nature.
/// Linear time; memory of one entry a row. Empty where it is stopped.
std::vector<StuckStretch> stuckStretches(const SeriesView& series, const StuckSearch& search = {},
                                         const Progress& progress = {});

}  // namespace jacinth
