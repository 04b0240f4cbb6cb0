// Samples for gaps: what bridge, borrow and decay put where nothing usable was logged.
#pragma once

#include <functional>

#include "core/mend/fix.h"

namespace jacinth {

/// A stretch between two usable samples, or before the first or after the last of them, in which nothing
/// usable stands.
struct Gap {
    std::size_t before = 0;  ///< samples up to the one that begins the gap, itself included: 0 for none
    std::size_t after = 0;   ///< place of the sample that ends it; the series' size for none
    TimeRange filled;        ///< where it may be filled: (time of the one, time of the other), within the fix
};

/// The gaps of a series that reach into a fix: usable neighbours more than twice `spacing` apart, or with an
/// unusable sample between them; where the fix is `over` what is there, its whole stretch. A gap at an end of
/// the record is not one: it has no second side.
std::vector<Gap> gapsIn(const SeriesView& series, const Fix& fix, Duration spacing, bool over);

/// The most samples that one gap is filled with. A longer one stays a gap: what is read must fit in memory.
inline constexpr std::int64_t kMostFilled = 20'000'000;
/// The most that all gaps of one fix are filled with.
inline constexpr std::int64_t kMostFilledByFix = 100'000'000;
/// How many samples at this spacing a gap takes.
std::int64_t samplesToFill(TimeRange gap, Duration spacing);

/// Samples of a twin, as logged, from just before to just after a range.
using TwinSamples = std::function<Series(TimeRange)>;

/// The samples that fill a gap within `gap.filled`, of uncertain quality, at every `spacing` after the sample
/// before it. Empty where the gap is longer than the fix bridges, would take more than kMostFilled samples,
/// or too little is known to fill it. Bridge: the value before (hold), a line, or curves through up to
/// sixteen usable samples on either side (PiecewiseCubic).
Series fillOf(const SeriesView& series, const Gap& gap, const Fix& fix, Duration spacing,
              const TwinSamples& twin);

/// How far beyond the gap a fill looks, so that this much has to be read.
Duration fillReach(const Fix& fix, Duration spacing);

}  // namespace jacinth
