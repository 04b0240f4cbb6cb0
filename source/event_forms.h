// Kinds of tables of what was written down, and the columns each must have.
#pragma once

#include <string>
#include <vector>

namespace jacinth {

/// Which columns a kind of table must have, and what they mean for the span.
struct EventForm {
    const char* kind;
    const char* track;     ///< name of the track they go to
    const char* start;     ///< column of the start, or of the moment
    const char* end;       ///< column of the end; "" for a moment
    bool asset;            ///< has to name an asset
    bool tag;              ///< has to name a tag
    const char* required;  ///< one more column there has to be; "" for none
};

/// All kinds: failures, work-orders, readings, log, alarms, stops, batches.
const std::vector<EventForm>& eventForms();
/// Does a table with this header have the columns that a kind needs?
bool hasColumnsOf(const std::string& kind, const std::vector<std::string>& header);
/// The kinds, for messages and choices.
const std::vector<std::string>& eventKinds();

}  // namespace jacinth
