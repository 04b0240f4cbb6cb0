// Figures over a window that slides along a signal. Cost per step does not grow with the window.
#pragma once

#include "core/expr/signal.h"

namespace jacinth {

enum class WindowFigure { Mean, Median, Min, Max, Range, Sum, Sd, Count, Slope };

/// The figure at each of the rising times in `at`, over (t − width, t].
/// Mean is weighted by time: trapezoid where the signal is continuous, hold where it is stepped. The others
/// are over the samples (knots with a value) in the window. Sd divides by n − 1. Slope is the least-squares
/// line through the samples, per hour. NaN where the window reaches before `x.begins` or less than half is
/// covered.
std::vector<double> slide(WindowFigure figure, const Signal& x, Duration width,
                          const std::vector<Instant>& at);

/// The same over the last `samples` samples, the one at t included; unweighted. Evaluated at x's own samples.
Signal slideSamples(WindowFigure figure, const Signal& x, int samples);

/// Share of time that c is true, of the time in (t − width, t] where it is known. NaN as above.
std::vector<double> slideShare(const Condition& c, Duration width, const std::vector<Instant>& at,
                               Instant begins, Instant ends);

}  // namespace jacinth
