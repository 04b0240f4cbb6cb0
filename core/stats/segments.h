// Where the mean of a series changes.
#pragma once

#include <cstddef>
#include <span>
#include <vector>

#include "core/base/progress.h"

namespace jacinth {

/// The places at which the mean changes (the first sample of each later segment), rising: those that make
///   Σ (y − mean of its segment)² + penalty · changes
/// least, exactly. `penalty` in squares of y's unit, above 0; twice the variance times log n makes no change
/// of white noise likely (Yao 1988). The optimum that PELT finds (Killick, Fearnhead & Eckley 2012), with
/// functional pruning (Maidstone, Hocking, Rigaill & Fearnhead 2017), which takes about linear time also
/// where nothing changes. No NaN in `y`. Empty where it is stopped.
std::vector<std::size_t> meanChanges(std::span<const double> y, double penalty,
                                     const Progress& progress = {});

/// Standard deviation of the noise, from the median absolute difference of neighbours: 1.4826 · median / √2.
/// Not misled by rare changes of level. NaN for fewer than two.
double noiseOf(std::span<const double> y);

}  // namespace jacinth
