// Times as people type them: “4 Apr 06:00 +2d”, “last 3 weeks”, “4 Apr to 9 Apr 12:00”, “all”.
#pragma once

#include "core/time/zone.h"

namespace jacinth {

/// A stretch of the record. A date alone is that day; a time alone is on the first day of `current`; a moment
/// without length keeps the length of `current`. A date without year is taken from the year of the record's
/// end, or the year before where that lies after it. The error says what would be understood.
Result<TimeRange> parseTimePhrase(std::string_view text, const Zone& zone, TimeRange record,
                                  TimeRange current);

/// The shortest phrase that parses back to about this range: `4 Apr 2026 06:00 +2d`.
std::string timePhrase(const Zone& zone, TimeRange range);

}  // namespace jacinth
