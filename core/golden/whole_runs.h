// Limits that hold for a run as a whole: each slice holds its share of good runs, but a run has many slices.
#pragma once

#include "core/golden/excursions.h"

namespace jacinth {

/// A golden run that needs more than this is odd, unless many do: then the plant is like that.
inline constexpr double kOddBeyond = 1.3;
inline constexpr double kMostWidened = 2;  ///< limits are never widened further for whole runs

/// The least factor about their centre, from 1 on, at which limits leave a run without excursion, to a
/// two-hundredth; infinity where kMostWidened is not enough.
double factorToHold(const SeriesView& series, const Bridging& bridging, const RunScale& scale,
                    const GoldenLimits& limits, const ScreenSpec& spec);

/// The factor, from 1 to kMostWidened, that holds the share `coverage` of whole runs, from those that each
/// golden run needs, judged by limits made without it: all but ⌊n·(1 − coverage)⌋ of them lie inside, and all
/// but one where that is none, because one run is no evidence of a share. Odd runs, as long as they are at
/// most three or a twentieth, do not count: one bad golden run must not widen the limits everywhere.
double factorForRuns(std::vector<double> factors, double coverage);

}  // namespace jacinth
