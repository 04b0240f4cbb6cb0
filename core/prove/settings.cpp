#include "core/prove/settings.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "core/base/text.h"

namespace jacinth {
namespace {

/// A piece of a text: as it stands, or the name of a setting.
struct TextPart {
    std::string text;
    bool isName = false;
};

Result<std::vector<TextPart>> partsOf(const std::string& text) {
    std::vector<TextPart> out{{"", false}};
    char quote = 0;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (quote != 0 || c != '{') {
            if (c == quote)
                quote = 0;
            else if (quote == 0 && (c == '`' || c == '"'))
                quote = c;
            out.back().text += c;
            continue;
        }
        const std::size_t end = text.find('}', i);
        if (end == std::string::npos)
            return Error{"a setting that begins with { has no }", static_cast<int>(i) + 1};
        const std::string name(trimmed(std::string_view(text).substr(i + 1, end - i - 1)));
        if (name.empty()) return Error{"a setting needs a name, like {limit}", static_cast<int>(i) + 1};
        out.push_back({name, true});
        out.push_back({"", false});
        i = end;
    }
    return out;
}

std::string digitsOf(double v) {
    const std::string shortest = fmt::format("{}", v);
    return shortest.find('e') == std::string::npos ? shortest : fmt::format("{:.17f}", v);
}

}  // namespace

std::vector<std::string> settingsIn(const std::string& text) {
    std::vector<std::string> out;
    const auto parts = partsOf(text);
    if (!parts) return out;
    for (const TextPart& p : *parts)
        if (p.isName && std::find(out.begin(), out.end(), p.text) == out.end()) out.push_back(p.text);
    return out;
}

Result<std::string> withSettings(const std::string& text, const Settings& settings) {
    const auto parts = partsOf(text);
    if (!parts) return parts.error();
    const std::vector<std::string> names = settingsIn(text);
    for (const auto& [name, value] : settings) {
        if (std::find(names.begin(), names.end(), name) == names.end())
            return Error{names.empty() ? fmt::format("the rule has no setting {{{}}}", name)
                                       : fmt::format("the rule has no setting {{{}}}; it has {{{}}}", name,
                                                     fmt::join(names, "}, {"))};
        if (!std::isfinite(value)) return Error{fmt::format("{{{}}} needs a number", name)};
    }
    std::string out;
    for (const TextPart& p : *parts) {
        if (!p.isName) {
            out += p.text;
            continue;
        }
        const auto value = settings.find(p.text);
        if (value == settings.end()) return Error{fmt::format("the setting {{{}}} has no number", p.text)};
        out += digitsOf(value->second);
    }
    return out;
}

}  // namespace jacinth
