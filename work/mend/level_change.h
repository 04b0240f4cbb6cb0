// By how much the level of a tag differs between two stretches: what a shift has to take out.
#pragma once

#include "core/stats/stats.h"
#include "store/study.h"

namespace jacinth {

/// The medians of usable samples, as mended by the fixes before the one in hand, and their difference. The
/// errors hold for independent samples: of a process that wanders they are too small.
struct LevelChange {
    RobustLevel before{}, after{};
    double size = 0, error = 0;  ///< after − before
    /// Against the size, to the digit of its error.
    double takenOutBy() const;
};

/// Fails where a stretch holds fewer than three usable samples.
Result<LevelChange> levelChange(const Study& study, const Fix& fix, TimeRange before, TimeRange after);

/// Between the levels over `margin` on both sides of the fix's start; where the fix ends before the tag's
/// record does, of its end too, both weighed by their errors (there and back).
Result<LevelChange> levelChangeAtEnds(const Study& study, const Fix& fix, Duration margin);

/// A size to the digit of its error: more would be made up.
double toErrorDigits(double size, double error);

}  // namespace jacinth
