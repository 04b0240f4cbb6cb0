// Sudden changes of level at full resolution: where neighbouring samples stand apart as the noise around them
// and the slope of the process do not explain.
#pragma once

#include <vector>

#include "core/base/progress.h"
#include "core/series/series.h"

namespace jacinth {

struct Jump {
    Instant before{}, after{};  ///< the last sample of the old level and the first of the new one
    double size = 0;            ///< new level − old level
    double error = 0;           ///< standard error of `size`, from the same figure where nothing jumps
    double score = 0;           ///< |size| over the usual size of the figure nearby
    bool sharp = false;         ///< half of it or more happens between two neighbouring samples
    bool unknown = false;       ///< a gap or a stuck value lies beside it: what was before it is not known

    Instant time() const { return after; }
};

/// The jumps of at least `score` times the usual difference nearby, rising in time, at least ten samples
/// apart. The level before and after is the mean of five samples, single spikes left out; from their
/// difference that of the levels on either side of them is taken, so that a slope does not count as a jump.
/// What is usual is a robust standard deviation of that figure over some hundred samples around. From a score
/// of 8 on the size is measured again over the number of samples, 2 to 16, which is least uncertain there.
/// Bad samples do not count. Linear time; memory of a few numbers a sample. Empty where it is stopped.
std::vector<Jump> jumpsOf(const SeriesView& series, double score = 6, const Progress& progress = {});

/// The same, with the usual size of that difference over the whole record, 0 where it is too short.
struct JumpScan {
    std::vector<Jump> jumps;
    double usual = 0;
};
JumpScan scanJumps(const SeriesView& series, double score, const Progress& progress = {});

}  // namespace jacinth
