#include "core/prove/settings.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
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

namespace {

bool isWord(char c) {
    return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_' || c == '.' || c == '@' ||
           static_cast<unsigned char>(c) >= 0x80;
}

/// What a number is called, by the unit behind it and the sign before it.
const char* nameFor(const std::string& unit, char before) {
    static const std::map<std::string, const char*> times{{"ms", "milliseconds"}, {"s", "seconds"},
                                                          {"m", "minutes"},       {"h", "hours"},
                                                          {"d", "days"},          {"w", "weeks"}};
    if (const auto time = times.find(unit); time != times.end()) return time->second;
    return before == '>' || before == '<' || before == '=' ? "limit" : "factor";
}

/// Puts names in place of the numbers of a piece of text; `quote` is the one that is open, from piece to
/// piece.
class NumberNamer {
  public:
    explicit NumberNamer(NamedNumbers& out) : out_(out) {}

    void take(const std::string& text) {
        for (std::size_t i = 0; i < text.size();) {
            const char c = text[i];
            const bool inside = quote_ != 0;
            if (c == quote_)
                quote_ = 0;
            else if (!inside && (c == '`' || c == '"'))
                quote_ = c;
            const bool starts = !inside && std::isdigit(static_cast<unsigned char>(c)) != 0 &&
                                (i == 0 || !isWord(text[i - 1]));
            if (starts)
                i = takeNumber(text, i);
            else
                put(text[i++]);
        }
    }
    void name(const std::string& name) { out_.text += "{" + name + "}"; }

  private:
    std::size_t takeNumber(const std::string& text, std::size_t from) {
        std::size_t end = from, unitEnd;
        const auto digits = [&](std::size_t at) {
            while (at < text.size() &&
                   (std::isdigit(static_cast<unsigned char>(text[at])) != 0 || text[at] == '.'))
                ++at;
            return at;
        };
        end = digits(end);
        if (end < text.size() && (text[end] == 'e' || text[end] == 'E')) {
            const std::size_t power =
                end + 1 + (end + 1 < text.size() && (text[end + 1] == '-' || text[end + 1] == '+'));
            if (digits(power) > power) end = digits(power);
        }
        unitEnd = end;
        while (unitEnd < text.size() && std::isalpha(static_cast<unsigned char>(text[unitEnd])) != 0)
            ++unitEnd;
        const std::string unit = text.substr(end, unitEnd - end);
        const auto value = finiteNumber(text.substr(from, end - from));
        if (!value) {
            for (; from < unitEnd; ++from) put(text[from]);
            return unitEnd;
        }
        std::string called = nameFor(unit, last_);
        for (int n = 2; out_.settings.contains(called); ++n)
            called = fmt::format("{}{}", nameFor(unit, last_), n);
        out_.settings[called] = *value;
        name(called);
        out_.text += unit;
        last_ = 'x';
        return unitEnd;
    }
    void put(char c) {
        out_.text += c;
        if (c != ' ' && c != '\n' && c != '\t' && c != '-') last_ = c;
    }
    NamedNumbers& out_;
    char quote_ = 0, last_ = ' ';  ///< the last sign that was no space
};

}  // namespace

NamedNumbers withNamedNumbers(const std::string& text, const Settings& known) {
    NamedNumbers out{{}, known};
    const auto parts = partsOf(text);
    if (!parts) return {text, known};
    NumberNamer namer(out);
    for (const TextPart& p : *parts)
        if (p.isName)
            namer.name(p.text);
        else
            namer.take(p.text);
    return out;
}

}  // namespace jacinth
