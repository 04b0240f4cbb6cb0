// Golden limits: what good runs do at each place of a run, and how far a run may be from it.
#pragma once

#include <array>
#include <span>
#include <string>

#include "core/golden/line_up.h"

namespace jacinth {

enum class LimitMethod { MeanSd, Tolerance, MedianMad, Quantile, Envelope };

/// mean-sd, tolerance, median-mad, quantile, envelope
Result<LimitMethod> limitMethodNamed(const std::string& name);
const char* limitMethodName(LimitMethod method);

/// How limits are made. Each method uses its own figures and leaves the others alone.
struct LimitSpec {
    Duration every = 2 * kMinute;  ///< step of the slices; by an indicator a second is one of its unit
    LimitMethod method = LimitMethod::MeanSd;
    LineUp lineUp = LineUp::Start;
    double k = 3;              ///< mean-sd, median-mad: half-width in s, or in 1.4826·MAD
    double q = 0.05;           ///< quantile: the lower one; 1 − q is the upper
    double coverage = 0.99;    ///< tolerance: share of good runs inside
    double confidence = 0.95;  ///< tolerance: how sure
    int leastRuns = 3;         ///< fewer values at a slice: no limit there
    int smooth = 1;            ///< slices averaged after computing, odd; 1 for none
    /// How far a run may be early or late: each slice takes the lowest low and the highest high within this
    /// much of the scale on both sides, before smoothing. Widens limits only where good runs are steep. 0 for
    /// none.
    Duration slack{};
    std::string indicator;  ///< role of the tag that rises through the run (LineUp::Indicator)
    /// Labelled abnormal events, recorded stops and stretches that are not sound do not count inside golden
    /// runs. What is handed to buildLimits is without them; here it is remembered.
    bool leaveOutAbnormal = true;
    bool operator==(const LimitSpec&) const = default;
};

/// One run's value at each slice; NaN where it has none. The first value is that of slice `first`, which lies
/// at first·every on the common scale.
struct AlignedRun {
    SpanId run;
    std::vector<double> values;
    std::int64_t first = 0;
    double at(std::int64_t slice) const;  ///< NaN outside
};
AlignedRun alignRun(const SeriesView& series, const Bridging& bridging, SpanId run, const RunScale& scale,
                    Duration every);

/// One slice: low, centre and high are NaN where fewer than leastRuns runs stand behind it.
struct LimitSlice {
    Place offset;
    int n = 0;
    double low = 0, centre = 0, high = 0;
};

/// Slices in order of offset, one every spec.every.
struct GoldenLimits {
    LimitSpec spec;
    std::vector<LimitSlice> slices;
    std::vector<PhaseSlot> phases;  ///< of the common scale, where lined up by phases
    /// How many times as far from the centre as the method says, so that they hold for whole runs.
    double widened = 1;
};
/// Lows and highs moved away from their centres by the factor.
GoldenLimits widenedBy(GoldenLimits limits, double factor);

/// The golden runs' values, slice by slice, ready for limits of all of them or without one: a golden run
/// judged by limits made with it would hide itself. Leaving one out costs no more than a look at each slice,
/// however many runs there are.
///
/// mean ± k·s (s with n − 1); mean ± s times Howe's tolerance factor for n; median ± k·1.4826·MAD; quantiles
/// of Hyndman & Fan type 7; or the envelope.
class GoldenStack {
  public:
    GoldenStack() = default;
    /// `widened`: see GoldenLimits.
    GoldenStack(const LimitSpec& spec, std::span<const AlignedRun> golden, double widened = 1);
    GoldenLimits limits() const;
    GoldenLimits without(const AlignedRun& run) const;
    /// The share of golden runs below a value at a slice, ties counting half: the quantile of a run at that
    /// moment. NaN where no run has a value.
    double shareBelow(std::int64_t slice, double value) const;

  private:
    /// A median without one of the values, and the distances of all values from it, in order, around the
    /// middle: number (n − 1)/2 − 1, the next and the one after.
    struct Deviation {
        double centre = 0;
        std::array<double, 3> near{};
    };
    using Deviations = std::array<Deviation, 3>;
    struct Column {
        std::vector<double> sorted;
        double mean = 0, squares = 0;  ///< sum of squared distances from the mean
        Deviations deviations{};       ///< for median ± MAD
    };
    static Deviations deviationsOf(const std::vector<double>& sorted);
    static double medianDistance(const Column& column, double centre, const double* without);
    LimitSlice sliceOf(const Column& column, Place offset, const double* without) const;
    GoldenLimits build(const AlignedRun* without) const;
    LimitSpec spec_;
    double widened_ = 1;
    std::int64_t first_ = 0;
    std::vector<Column> columns_;
    std::vector<double> factors_;  ///< half-width in s for n values, by n
};

GoldenLimits buildLimits(const LimitSpec& spec, std::span<const AlignedRun> golden);
/// The same without one of them, by its id.
GoldenLimits buildLimitsWithout(const LimitSpec& spec, std::span<const AlignedRun> golden, SpanId run);

/// Low, centre and high at any place, linear between slices; NaN where either slice has none.
struct LimitsAt {
    double low, centre, high;
};
LimitsAt limitsAt(const GoldenLimits& limits, Place place);

/// The limits over one run's own time: at its ends and wherever a slice lies in it, rising. Straight between
/// neighbours; where a phase is missing two moments a nanosecond apart.
struct LimitMoment {
    Instant time{};
    LimitsAt limits;
};
std::vector<LimitMoment> limitsInTime(const GoldenLimits& limits, const RunScale& scale);

}  // namespace jacinth
