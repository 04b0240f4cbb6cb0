// How many values a step makes of a stretch, asked before they are calculated.
#pragma once

#include "core/base/result.h"
#include "core/time/instant.h"

namespace jacinth {

/// The most values that one calculation on a regular step holds in memory at once (8 bytes each, several
/// copies of them).
inline constexpr std::int64_t kMostStepsAtOnce = 100'000'000;

/// Fails where the step is not above 0, or makes more than `most` values of the stretches whose lengths add
/// up to `length`; the error says how many.
Status checkStepCount(Duration length, Duration step, std::int64_t most = kMostStepsAtOnce);

}  // namespace jacinth
