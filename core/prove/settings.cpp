#include "core/prove/settings.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <optional>

#include "core/base/text.h"
#include "core/base/utf8.h"
#include "core/expr/ast.h"

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

/// After a minus sign what is below zero needs brackets.
void appendNumber(std::string& out, double value) {
    const std::size_t last = out.find_last_not_of(' ');
    const bool afterMinus = last != std::string::npos && out[last] == '-';
    out += value < 0 && afterMinus ? "(" + digitsOf(value) + ")" : digitsOf(value);
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
        appendNumber(out, value->second);
    }
    return out;
}

std::string withSomeSettings(const std::string& text, const Settings& settings) {
    const auto parts = partsOf(text);
    if (!parts) return text;
    std::string out;
    for (const TextPart& p : *parts) {
        const auto value = p.isName ? settings.find(p.text) : settings.end();
        if (value != settings.end())
            appendNumber(out, value->second);
        else
            out += p.isName ? "{" + p.text + "}" : p.text;
    }
    return out;
}

namespace {

/// What a number with a unit of time is called; none for other units.
std::optional<std::string> nameForUnit(const std::string& unit) {
    static const std::map<std::string, const char*> times{{"ms", "milliseconds"}, {"s", "seconds"},
                                                          {"m", "minutes"},       {"h", "hours"},
                                                          {"d", "days"},          {"w", "weeks"}};
    const auto found = times.find(unit);
    return found == times.end() ? std::nullopt : std::optional<std::string>(found->second);
}

/// Puts names in place of the numbers in pieces of a text.
class NumberNamer {
  public:
    explicit NumberNamer(NamedNumbers& out) : out_(out) {}

    void take(const std::string& piece) {
        std::size_t done = 0;  // in bytes; tokens count characters
        std::size_t at = 0;
        int column = 1;
        const std::vector<Token> tokens = tokenize(piece);
        for (std::size_t i = 0; i < tokens.size(); ++i) {
            const Token& token = tokens[i];
            for (; column < token.column; ++column) at = nextCharacter(piece, at);
            if (token.kind == TokenKind::Number || token.kind == TokenKind::DurationWord) {
                out_.text += piece.substr(done, at - done);
                done = at + token.text.size();
                takeNumber(token.text,
                           compared_ || (alone_ && i + 1 < tokens.size() && compares(tokens[i + 1])));
            }
            follow(token);
        }
        out_.text += piece.substr(done);
    }
    /// `after`: what stands behind it.
    void name(const std::string& name, const std::string& after) {
        out_.text += "{" + name + "}";
        const bool hasUnit = !after.empty() && std::isalpha(static_cast<unsigned char>(after[0]));
        const std::vector<Token> tokens = tokenize(after);
        if (!hasUnit && (compared_ || (alone_ && !tokens.empty() && compares(tokens.front()))))
            addLimit(name);
        compared_ = alone_ = false;
    }

  private:
    /// `6h`: the number becomes a setting, the unit stays.
    void takeNumber(const std::string& text, bool isLimit) {
        const std::size_t unitAt = text.find_first_of("mshdw");
        const std::string unit = unitAt == std::string::npos ? std::string() : text.substr(unitAt);
        const auto value = finiteNumber(text.substr(0, unitAt));
        const auto wanted =
            unit.empty() ? std::optional<std::string>(isLimit ? "limit" : "factor") : nameForUnit(unit);
        if (!value || !wanted) {
            out_.text += text;
            return;
        }
        std::string called = *wanted;
        for (int n = 2; out_.settings.contains(called); ++n) called = *wanted + std::to_string(n);
        out_.settings[called] = *value;
        out_.text += "{" + called + "}" + unit;
        if (isLimit && unit.empty()) addLimit(called);
    }
    static bool compares(const Token& t) {
        return t.kind == TokenKind::Symbol && t.text.find_first_of("<>=") != std::string::npos;
    }
    /// What the next number is, by what stands before it. A sign changes nothing, nor does the end of a
    /// piece.
    void follow(const Token& t) {
        const bool isSign = t.kind == TokenKind::Symbol && t.text == "-" && (compared_ || alone_);
        if (t.kind == TokenKind::End || isSign) return;
        const bool isWord = t.kind == TokenKind::Keyword;
        compared_ = compares(t) || (isWord && t.text == "between");
        alone_ = (isWord && !compared_) || (t.kind == TokenKind::Symbol && t.text == "(");
    }
    void addLimit(const std::string& name) {
        if (std::find(out_.limits.begin(), out_.limits.end(), name) == out_.limits.end())
            out_.limits.push_back(name);
    }
    NamedNumbers& out_;
    bool compared_ = false;  ///< the last token was a comparison
    bool alone_ = true;      ///< or nothing that belongs to a sum or product
};

}  // namespace

NamedNumbers withNamedNumbers(const std::string& text, const Settings& known) {
    NamedNumbers out{{}, known, {}};
    const auto parts = partsOf(text);
    if (!parts) return {text, known, {}};
    NumberNamer namer(out);
    for (std::size_t i = 0; i < parts->size(); ++i) {
        const TextPart& p = (*parts)[i];
        if (p.isName)
            namer.name(p.text, i + 1 < parts->size() ? (*parts)[i + 1].text : std::string());
        else
            namer.take(p.text);
    }
    return out;
}

}  // namespace jacinth
