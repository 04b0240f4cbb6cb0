// The clock of a camera found from how bright its pictures are.
#pragma once

#include <vector>

#include "core/base/result.h"
#include "core/series/series.h"

namespace jacinth {

struct ClockMatch {
    Duration offset{};       ///< to be added to the source's times
    double correlation = 0;  ///< of brightness and the tag at that offset; below 0 where one falls as the
                             ///< other rises
    double elsewhere = 0;    ///< the strongest |correlation| of offsets that are not near
};

/// The offset, from −most to most in steps, at which the brightness of pictures and the tag's values (held or
/// on lines, as its bridging says) are correlated most strongly, either way (Pearson). `near` for
/// `elsewhere`: closer than a tenth of `most`. Fails where fewer than 30 pictures have a value beside them,
/// and where brightness or values hardly change.
Result<ClockMatch> matchClock(const std::vector<Instant>& times, const std::vector<double>& brightness,
                              const SeriesView& values, const Bridging& bridging, Duration most,
                              Duration step);

}  // namespace jacinth
