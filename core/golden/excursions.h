// Where a run leaves its golden limits, by how much, and how serious that is.
#pragma once

#include "core/golden/golden_limits.h"

namespace jacinth {

enum class Side { Low = -1, High = 1 };

/// Start and end where the lines cross (linear between samples and between slices): the first and the last
/// moment. `outside` is the time between them that truly lies outside, which is its length. `peak` is the
/// greatest distance beyond the limit, negative below; `area` the integral of the distance in unit × h,
/// always positive; `halfWidths` the peak in half-widths of the limits at the moment of the peak.
struct Excursion {
    Instant start{}, end{}, peakTime{};
    Duration outside{};
    Side side = Side::High;
    double peak = 0;
    double area = 0;
    double halfWidths = 0;
    int severity = 1;  ///< gem facets, 1 to 4
};

struct ScreenSpec {
    Duration ignore = 20 * kMinute;  ///< those that lie outside for a shorter time are dropped
    Duration join = 10 * kMinute;  ///< returns shorter than this may join what lies outside before and after
};

/// Excursions of one run in one tag, over the times that have a place on the limits' scale. `series` covers
/// the run. The pieces outside of one side are taken in time order: the next one joins the excursion where
/// the return before it (also one without value or without limits) is shorter than the join time and at least
/// half of the stretch so joined lies outside. Without the second condition, hours of excursion would be made
/// of single noisy samples.
std::vector<Excursion> findExcursions(const SeriesView& series, const Bridging& bridging,
                                      const RunScale& scale, const GoldenLimits& limits,
                                      const ScreenSpec& spec);

/// The area beyond either limit in each of some stretches of a run, in unit × h: what findExcursions adds up,
/// whatever its length.
std::vector<double> areaOutside(const SeriesView& series, const Bridging& bridging, const RunScale& scale,
                                const GoldenLimits& limits, std::span<const TimeRange> stretches);

/// Severity from the peak in half-widths and the time outside: figure = halfWidths · √(hours, at most 4).
/// Below 0.5: 1 (slight). Below 1.5: 2 (middling). Below 4: 3 (serious). Else 4 (grave).
int severityOf(double halfWidths, Duration outside);

}  // namespace jacinth
