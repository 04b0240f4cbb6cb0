// What is on record and can explain what an asset does at that time.
#pragma once

#include "core/causes/cause.h"
#include "store/study.h"

namespace jacinth {

/// Failures, stops, alarms, work orders and labels of all assets as causes; those of one asset that touch, or
/// are less than half an hour apart, are one. Their windows: the time on record, half an hour before and two
/// hours after, and the day before a failure.
std::vector<Cause> eventCauses(const Study& study);

/// The windows of an event within a run: where it lasts ten minutes or more, the parts of the run between
/// two moments of its scale in which it falls are all disturbed, because they are stretched to a common
/// length.
std::vector<TimeRange> windowsIn(const Cause& event, const RunScale& scale);

}  // namespace jacinth
