// What somebody who looked at an alarm says about it, kept as a label over it.
#pragma once

#include "work/prove/proving.h"

namespace jacinth {

/// Puts a label of one of kAlarmKinds over an alarm, in place of an earlier one of these kinds that lies over
/// it; an empty kind takes that one back. The kind comes into the label book where it is not there yet. One
/// step. Fails on another kind.
Status labelAlarm(Study& study, const AlarmVerdict& alarm, const std::string& kind, const std::string& rule);
/// Which of kAlarmKinds lies over each alarm of a proof, by their places; empty for none.
std::vector<std::string> labelsOfAlarms(const Study& study, const Proof& proof);

}  // namespace jacinth
