// What golden limits were made from, and whether that still stands.
#pragma once

#include "store/judgement.h"
#include "store/study.h"

namespace jacinth {

/// Marks of the golden runs of a set, with the fixes that act in them on its roles; of the imports and
/// removals that touched samples in them; and of how the tags are read (see ReadingMarks). A day that is
/// imported makes no limits old.
std::string madeFrom(const Study& study, const LimitSet& set, Which which);

/// “made before the fix of 3 May on Kiln 1/Bed ΔP”, “…and 2 more”, “a fix in their golden runs was changed
/// since”, “samples in their golden runs were imported, replaced or removed since they were made”; empty
/// where the limits are what they would be now, and for limits that hold no mark.
std::string outOfDate(const Study& study, const LimitSet& set);

}  // namespace jacinth
