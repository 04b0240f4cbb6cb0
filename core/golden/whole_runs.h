// Limits that hold for a run as a whole: each slice holds its share of good runs, but a run has many slices.
#pragma once

#include "core/golden/excursions.h"

namespace jacinth {

inline constexpr double kOddBeyond = 1.3;  ///< a golden run that needs less is never odd
inline constexpr double kMostWidened = 2;  ///< limits are never widened further for whole runs
/// As many whole runs may leave the limits as values at a slice, times this.
inline constexpr double kRunsBeyond = 1.5;
inline constexpr double kLeastFactor = 0.25;  ///< what a run of limits far too wide is said to need

/// The least factor about their centre at which limits leave a run without excursion, to a two-hundredth:
/// below 1 where they could be narrower, at least kLeastFactor; infinity where kMostWidened is not enough.
double factorToHold(const SeriesView& series, const Bridging& bridging, const RunScale& scale,
                    const GoldenLimits& limits, const ScreenSpec& spec);

/// The factor, from 1 to kMostWidened, that all but kRunsBeyond · (1 − `coverage`) of whole runs need, from
/// those that each golden run needs, judged by limits made without it. Some 30 golden runs have no 98.5 %
/// quantile of their own: it is carried on from the largest eighth (3 to 20 of them, or three times as many
/// as may lie outside) by an exponential tail, whose mean excess over the next one they give (Pickands 1975;
/// Weissman 1978). More of them would reach into the bulk, which is a mixture of assets and products and says
/// nothing of the tail.
///
/// Odd runs, at most three or a twentieth, do not count, because one bad golden run must not widen the limits
/// everywhere: those that need more than kMostWidened, and those beyond kOddBeyond that lie further out than
/// the tail of the others gives one time in a hundred.
double factorForRuns(std::vector<double> factors, double coverage);

}  // namespace jacinth
