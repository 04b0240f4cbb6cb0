#include "core/base/parse_json.h"

#include <nlohmann/json.hpp>

namespace jacinth {
namespace {

bool isTooDeep(std::string_view text) {
    int depth = 0;
    bool inString = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (inString) {
            if (c == '\\')
                ++i;
            else if (c == '"')
                inString = false;
            continue;
        }
        if (c == '"') inString = true;
        if ((c == '[' || c == '{') && ++depth > kMostJsonLevels) return true;
        if (c == ']' || c == '}') --depth;
    }
    return false;
}

}  // namespace

nlohmann::json parseJson(std::string_view text) {
    if (isTooDeep(text)) return nlohmann::json(nlohmann::json::value_t::discarded);
    return nlohmann::json::parse(text, nullptr, false);
}

}  // namespace jacinth
