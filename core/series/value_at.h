// The value of a tag at a time that need not be a sample's.
#pragma once

#include "core/series/series.h"

namespace jacinth {

/// Continuous: the straight line between the usable samples on both sides, if they are no further apart than
/// the longest gap. Stepped and state: the last usable sample, for at most the longest gap. A sample's own
/// time gives the sample. NaN where there is no value.
double valueAt(const SeriesView& series, const Bridging& bridging, Instant t);

/// Time-weighted mean over [range.from, range.to): trapezoid for continuous, hold for stepped. NaN where less
/// than half of the range is covered.
double meanOver(const SeriesView& series, const Bridging& bridging, TimeRange range);

}  // namespace jacinth
