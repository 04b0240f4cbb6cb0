// What a fix does, as the study file keeps it: an object in JSON with the members of its kind.
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/mend/fix.h"

namespace jacinth {

/// Times are nanoseconds since 1970, lengths nanoseconds, amounts in the tag's unit.
nlohmann::json fixBodyToJson(const FixBody& body);
std::string fixBodyText(const FixBody& body);  ///< the same as text

/// Fails where the text is not an object or a member cannot be what it must be; members that are absent have
/// their usual values.
Result<FixBody> readFixBody(FixKind kind, const std::string& text);

const char* bridgeWayName(BridgeFix::Way way);  ///< hold, line, cubic, spline
Result<BridgeFix::Way> bridgeWayNamed(const std::string& name);

}  // namespace jacinth
