// Signals and conditions made from others: chosen, filled, delayed, timed.
#pragma once

#include "core/expr/signal.h"

namespace jacinth {

Signal delayed(Signal x, Duration d);
Condition delayed(Condition c, Duration d);

/// True where x has no value, from kNoInstant on; never unknown.
Condition isMissing(const Signal& x);
Condition isUnknown(const Condition& c);

/// a while c is true, b while it is false, nothing while it is unknown, over `range`. A change of c is a
/// jump: a continuous result has a knot one nanosecond before it.
Signal chosen(const Condition& c, const Signal& a, const Signal& b, TimeRange range);

/// Seconds since c became true, 0 while it is false, missing while unknown; up to `end`. What is true at its
/// first known moment counts from there, but not from before `from`.
Signal elapsedSince(const Condition& c, Instant from, Instant end);

/// True for the nanosecond in which c turns from false to true (rising), or from true to false.
Condition turning(const Condition& c, bool rising);

/// True inside the ranges, false elsewhere.
Condition insideOf(const std::vector<TimeRange>& ranges);

/// True while the number is 0 at its last knot, unknown where that has none: for figures that hold until the
/// next sample.
Condition zeroAtKnots(const Signal& x);

/// Both sorted lists of times as one, each time once. `more` may come in any order.
std::vector<Instant> withAlso(const std::vector<Instant>& times, std::vector<Instant> more);

/// Where the window begins at each time: at the end of the last range before (since), or at the start of the
/// range that holds it (during). kNoInstant where there is none. `ranges` by start, not overlapping.
std::vector<Instant> startsOf(const std::vector<TimeRange>& ranges, const std::vector<Instant>& at,
                              bool since);

}  // namespace jacinth
