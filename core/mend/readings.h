// Check readings by hand, and the fixes that bring a tag to them.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/mend/fix.h"
#include "core/series/value_at.h"

namespace jacinth {

/// The true value as well as a person could read it, in the tag's unit.
struct CheckReading {
    Instant time{};
    double value = 0;
    std::string by;
};

/// A reading beside the tag's value at its time.
struct ReadingOff {
    CheckReading reading;
    double off = 0;         ///< reading − value
    bool outlying = false;  ///< does not go with the others (outlyingReadings)
};

/// The readings in [stretch.from, stretch.to], both included, at which the tag has a value, by time.
std::vector<ReadingOff> readingsAgainst(const SeriesView& series, const Bridging& bridging, TimeRange stretch,
                                        std::span<const CheckReading> readings);

/// Marks readings that lie further from the line through most of them than chance: more than 3.5 robust
/// deviations (1.4826 · MAD of what is left by the line of Theil, 1950, and Sen, 1968; Iglewicz & Hoaglin
/// 1993 for the 3.5). Where most of them agree exactly, 1.2533 · the mean absolute deviation stands for it.
/// None of fewer than five. How many.
int markOutlying(std::vector<ReadingOff>& readings);

/// The ramp that brings a stretch closest to its readings, by least squares.
struct RampFit {
    double startBy = 0, endBy = 0;
    double misfitBefore = 0, misfitAfter = 0;  ///< RMS of reading − value, in the tag's unit
    int readings = 0;                          ///< how many stood behind it
    /// Half-width of the 95 % interval of each end (Student's t, from what the ramp leaves of the readings,
    /// as if these were off independently of one another). 0 of an end that is fixed, NaN where as few
    /// readings as ends leave nothing to tell it by.
    double startSure = 0, endSure = 0;
};

/// Fits both ends, or only the end (`fixedStart` then holds the start's change). Outlying readings take part
/// unless they are left out of `readings`. Fails with fewer readings than ends to find.
Result<RampFit> fitRamp(std::span<const ReadingOff> readings, TimeRange stretch,
                        std::optional<double> fixedStart);

/// A bend with a knot at each reading (the mean of those at one moment).
struct BendFit {
    BendFix bend;
    double misfitBefore = 0, misfitAfter = 0;
    int readings = 0;
    /// Half-width of the 95 % interval of a knot that is the mean of this many readings at its moment, by how
    /// far readings at one moment differ, over all moments. NaN where each moment has one reading.
    double knotSure(int of) const;
    double spread = 0;  ///< standard deviation of readings at one moment; NaN where each has one
    int degrees = 0;
    std::vector<int> readingsAt;  ///< as the knots
};
/// Fails with fewer than two moments.
Result<BendFit> fitBend(std::span<const ReadingOff> readings);

}  // namespace jacinth
