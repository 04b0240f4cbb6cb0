// The kinds of what people write down, and how an entry reads in one line.
#pragma once

#include "app/base/session.h"
#include "store/tracks.h"

namespace jacinth::app {

struct WrittenKind {
    const char* track;  ///< kind of the track it lies on
    const char* name;   ///< of the track made for it where there is none
    const char* words;  ///< on screen
    const char* fact;   ///< that holds its text
    bool lasts;         ///< has an end, not only a moment
};
inline constexpr std::array<WrittenKind, 6> kWrittenKinds{
    {{track_kind::kFailures, "Failures", "Failure", "note", false},
     {track_kind::kWorkOrders, "Work orders", "Work order", "text", true},
     {track_kind::kStops, "Stops", "Stop", "reason", true},
     {track_kind::kReadings, "Check readings", "Check reading", "", false},
     {track_kind::kLog, "Shift log", "Shift log", "text", false},
     {track_kind::kAlarms, "Source alarms", "Alarm", "text", true}}};

QString writtenText(Session& session, const WrittenKind& kind, const Span& span);

}  // namespace jacinth::app
