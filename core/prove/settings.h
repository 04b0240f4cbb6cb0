// Settings: named numbers in the text of a rule, `mean(@bearing_vibration, {hours}h) > {limit}`.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/base/result.h"

namespace jacinth {

using Settings = std::map<std::string, double>;

/// The names in curly brackets, each once, in the order in which they first appear; not those inside of
/// quotes.
std::vector<std::string> settingsIn(const std::string& text);

/// The text with their numbers in place of the names: digits that read back as the same number. Fails where a
/// name has no number, where a number belongs to no name, and on a bracket that is not closed.
Result<std::string> withSettings(const std::string& text, const Settings& settings);

}  // namespace jacinth
