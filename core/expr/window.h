// Figures over a window that slides along a signal. Cost per step does not grow with the window.
#pragma once

#include "core/expr/signal.h"

namespace jacinth {

enum class WindowFigure {
    Mean,
    Median,
    Min,
    Max,
    Range,
    Sum,
    Sd,
    Count,
    Slope,
    Integral,
    Change,
    Rate,
    First,
    Last,
    Quantile,
};

/// Is the figure weighted by time (mean, integral), or over samples?
bool isByTime(WindowFigure figure);

/// The samples that figures are over.
struct Samples {
    std::vector<Instant> times;
    std::vector<double> values;
};
Samples samplesOf(const Signal& x);                                     ///< its knots with a value
Samples samplesAt(const Signal& x, const std::vector<Instant>& times);  ///< where it has a value

/// The figure at each of the rising times in `at`, over (t − width, t].
/// Mean and integral are weighted by time: trapezoid where the signal is continuous, hold where it is
/// stepped; the integral is in value × h. The others are over the samples (knots with a value) in the window.
/// Sd divides by n − 1. Slope is the least-squares line through the samples, per hour; change is the last
/// sample less the first, rate that divided by their distance, per hour. Quantile `q` is Hyndman & Fan's
/// type 7. NaN where the window reaches before `x.begins` or less than half is covered, and for all but the
/// last of the times up to `from`.
std::vector<double> slide(WindowFigure figure, const Signal& x, Duration width,
                          const std::vector<Instant>& at, double q = 0.5, const Samples* samples = nullptr,
                          Instant from = kNoInstant);

/// The same over (starts[i], at[i]], starts rising too; NaN where a start is kNoInstant. A window of no
/// length is NaN.
std::vector<double> slideFrom(WindowFigure figure, const Signal& x, const std::vector<Instant>& starts,
                              const std::vector<Instant>& at, double q = 0.5,
                              const Samples* samples = nullptr);

/// The same over the last `samples` samples, the one at t included. Unweighted, but for the integral, which
/// is from the first of them to the last. Evaluated at each time in `at`; NaN where x is.
Signal slideSamples(WindowFigure figure, const Signal& x, const Samples& all, int samples,
                    const std::vector<Instant>& at, double q = 0.5);

/// A condition as a number: 1 true, 0 false, NaN unknown, from `begins` to `ends`.
Signal asNumber(const Condition& c, Instant begins, Instant ends);

/// Local straight line at the end of (t − width, t] for each t in `at`: least squares weighted by
/// (1 − u³)³, u the sample's distance from t in widths (Cleveland 1979, taken at the window's end so that
/// nothing after t is needed). NaN as for slide(). Cost does not grow with the window.
std::vector<double> slideSmooth(const Signal& x, Duration width, const std::vector<Instant>& at);

/// Mean of all of x up to each knot, by time, weighted by exp(−age / constant), by the recursion for lines
/// between samples (Müller 1991) or for held values. Gaps count nothing; NaN in them and before
/// `x.begins` + constant.
Signal fadingMean(const Signal& x, Duration constant);

}  // namespace jacinth
