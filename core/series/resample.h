// A tag by periods: an hour, a day of the plant's calendar, a week.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/series/series.h"
#include "core/time/zone.h"

namespace jacinth {

enum class Take { Mean, SampleMean, Least, Greatest, First, Last, Count, Sum };
Result<Take> takeNamed(const std::string& name);  ///< mean, sample-mean, min, max, first, last, count, sum
const char* takeName(Take take);

/// A length of time, or a unit of the plant's calendar (then a day may have 23 or 25 hours).
struct Period {
    enum class Unit { Length, Day, Week, Month };
    Unit unit = Unit::Length;
    Duration length = kHour;  ///< of Unit::Length; above 0
};
/// `15m`, `6h`, `day`, `week` (from Monday), `month`.
Result<Period> periodNamed(const std::string& text);
std::string periodName(const Period& period);

/// Where periods begin: those that touch the range, and the end of the last, so one more than there are
/// periods. Lengths are counted from the start of the day (in the zone) on which the range begins.
/// Fails where there would be more than `most`.
Result<std::vector<Instant>> periodsIn(TimeRange range, const Period& period, const Zone& zone,
                                       std::size_t most = 5'000'000);

/// One figure a period, from edge to edge. Mean is weighted by time over what is covered and NaN where less
/// than half of the period is; the others are over the usable samples in [from, to), NaN (count: 0) without
/// any.
std::vector<double> resample(const SeriesView& series, const Bridging& bridging,
                             const std::vector<Instant>& edges, Take take);

/// Midnight of the Monday at or before t, by this zone's clock.
Instant startOfWeek(const Zone& zone, Instant t);

}  // namespace jacinth
