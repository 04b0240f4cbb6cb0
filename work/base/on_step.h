// Values of a tag at equal steps.
#pragma once

#include "store/study.h"

namespace jacinth {

/// At from, from + step, … before `to`, read for figures; NaN where nothing is known, a state's number for a
/// state tag.
std::vector<double> valuesOnStep(const Study& study, const Tag& tag, TimeRange range, Duration step,
                                 Which which);

}  // namespace jacinth
