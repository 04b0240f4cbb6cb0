// JSON that comes from outside: files, and texts in a study that another program may have written.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string_view>

namespace jacinth {

/// How deep arrays and objects may lie in each other. Copying, writing and destroying a value uses the stack
/// once per level, so that a text of brackets alone could end the program.
inline constexpr int kMostJsonLevels = 100;

/// The value of the text; discarded (is_discarded()) where it is not JSON or nested deeper than
/// kMostJsonLevels. Throws nothing. Time in proportion to the text.
nlohmann::json parseJson(std::string_view text);

}  // namespace jacinth
