// Golden limits: what good runs do at each moment of a run, and how far a run may be from it.
#pragma once

#include <span>
#include <string>

#include "core/series/series.h"
#include "core/span/span.h"

namespace jacinth {

enum class LimitMethod { MeanSd, MedianMad, Quantile, Envelope };
enum class LineUp { Start, End };

Result<LimitMethod> limitMethodNamed(const std::string& name);  ///< mean-sd, median-mad, quantile, envelope
const char* limitMethodName(LimitMethod method);
Result<LineUp> lineUpNamed(const std::string& name);  ///< start, end
const char* lineUpName(LineUp lineUp);

/// How limits are made. `k` widens mean-sd and median-mad; `q` is the lower quantile, 1 − q the upper.
struct LimitSpec {
    Duration every = 2 * kMinute;
    LimitMethod method = LimitMethod::MeanSd;
    LineUp lineUp = LineUp::Start;
    double k = 3;
    double q = 0.05;
    int leastRuns = 3;  ///< fewer values at a slice: no limit there
};

/// One run's value at each slice; NaN where it has none. Slice i lies i·every after the start (LineUp::Start)
/// or before the end (LineUp::End).
struct AlignedRun {
    std::int64_t run = 0;
    std::vector<double> values;
};
AlignedRun alignRun(const SeriesView& series, const Bridging& bridging, const Span& run,
                    const LimitSpec& spec);

/// One slice: low, centre and high are NaN where fewer than leastRuns runs stand behind it.
struct LimitSlice {
    Duration offset = 0;
    int n = 0;
    double low = 0, centre = 0, high = 0;
};

struct GoldenLimits {
    LimitSpec spec;
    std::vector<LimitSlice> slices;
};

/// Limits from aligned golden runs. mean ± k·s (s with n − 1), median ± k·1.4826·MAD, quantiles of Hyndman &
/// Fan type 7, or the envelope.
GoldenLimits buildLimits(const LimitSpec& spec, std::span<const AlignedRun> golden);

/// The same without one run: a golden run judged by limits made with it would hide itself.
GoldenLimits buildLimitsWithout(const LimitSpec& spec, std::span<const AlignedRun> golden, std::int64_t run);

/// Low, centre and high at any offset, linear between slices; NaN where either slice has none.
struct LimitsAt {
    double low, centre, high;
};
LimitsAt limitsAt(const GoldenLimits& limits, Duration offset);

}  // namespace jacinth
