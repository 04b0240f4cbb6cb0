// The value of a tag at a time that need not be a sample's.
#pragma once

#include "core/series/series.h"

namespace jacinth {

/// Continuous: the straight line between the usable samples on both sides, if they are no further apart than
/// the longest gap. Stepped and state: the last usable sample, for at most the longest gap. A sample's own
/// time gives the sample. NaN where there is no value.
double valueAt(const SeriesView& series, const Bridging& bridging, Instant t);

/// The same at times asked for in rising order: each is found from the one before, so that a whole series is
/// walked once.
class ValueWalk {
  public:
    ValueWalk(const SeriesView& series, const Bridging& bridging) : series_(series), bridging_(bridging) {}
    double at(Instant t);

  private:
    SeriesView series_;
    Bridging bridging_;
    std::size_t next_ = 0;                               ///< first sample not passed yet
    std::size_t before_ = static_cast<std::size_t>(-1);  ///< last usable one that is passed
};

/// Time-weighted mean over [range.from, range.to): trapezoid for continuous, hold for stepped. NaN where less
/// than half of the range is covered.
double meanOver(const SeriesView& series, const Bridging& bridging, TimeRange range);

}  // namespace jacinth
