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

/// The same for the names that have a number; others stay as they are.
std::string withSomeSettings(const std::string& text, const Settings& settings);

/// The numbers of a text as settings: `mean(@x over 6h) > 2.75` becomes `mean(@x over {hours}h) > {limit}`
/// with hours 6 and limit 2.75. Numbers with a unit of time are named by it, those that are compared with are
/// limits, others are factors; a name that comes twice gets a number. What is a setting already stays.
struct NamedNumbers {
    std::string text;
    Settings settings;
    std::vector<std::string> limits;  ///< those that something is compared with, as they come
};
NamedNumbers withNamedNumbers(const std::string& text, const Settings& known = {});

}  // namespace jacinth
