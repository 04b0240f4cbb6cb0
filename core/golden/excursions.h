// Where a run leaves its golden limits, by how much, and how serious that is.
#pragma once

#include "core/golden/golden_limits.h"

namespace jacinth {

enum class Side { Low = -1, High = 1 };

/// Start and end where the lines cross (linear between samples and between slices). `peak` is the greatest
/// distance beyond the limit, negative below; `area` the integral of the distance in unit × h, always
/// positive; `halfWidths` the peak in half-widths of the limits at the moment of the peak.
struct Excursion {
    Instant start{}, end{}, peakTime{};
    Side side = Side::High;
    double peak = 0;
    double area = 0;
    double halfWidths = 0;
    int severity = 1;  ///< gem facets, 1 to 4
};

struct ScreenSpec {
    Duration ignore = 20 * kMinute;  ///< shorter ones are dropped
    Duration join = 10 * kMinute;    ///< returns shorter than this do not end an excursion
};

/// Excursions of one run in one tag, over the times that have a place on the limits' scale. `series` covers
/// the run; stretches without value or without limits end an excursion only where they last longer than the
/// join time.
std::vector<Excursion> findExcursions(const SeriesView& series, const Bridging& bridging,
                                      const RunScale& scale, const GoldenLimits& limits,
                                      const ScreenSpec& spec);

/// The area beyond either limit in each of some stretches of a run, in unit × h: what findExcursions adds up,
/// whatever its length.
std::vector<double> areaOutside(const SeriesView& series, const Bridging& bridging, const RunScale& scale,
                                const GoldenLimits& limits, std::span<const TimeRange> stretches);

/// Severity from the peak in half-widths and the duration: figure = halfWidths · √(hours, at most 4).
/// Below 0.5: 1 (slight). Below 1.5: 2 (middling). Below 4: 3 (serious). Else 4 (grave).
int severityOf(double halfWidths, Duration duration);

}  // namespace jacinth
