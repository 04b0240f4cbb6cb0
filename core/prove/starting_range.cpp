#include "core/prove/starting_range.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/utf8.h"
#include "core/expr/ast.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kSteps = 25;        ///< a range has about so many
constexpr std::size_t kFewest = 20;  ///< values that quantiles are taken from
constexpr double kSpikeReach = 4;    ///< see rangeFromValues

/// A text with words in place of its settings, byte for byte as long, so that it can be cut into tokens. A
/// unit behind one stays a token of its own.
std::string withWords(std::string text) {
    char quote = 0;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (quote != 0 || text[i] != '{') {
            if (text[i] == quote)
                quote = 0;
            else if (quote == 0 && (text[i] == '`' || text[i] == '"'))
                quote = text[i];
            continue;
        }
        const std::size_t end = text.find('}', i);
        if (end == std::string::npos) break;
        std::fill(text.begin() + static_cast<std::ptrdiff_t>(i),
                  text.begin() + static_cast<std::ptrdiff_t>(end), 'S');
        text[end] = ' ';
    }
    return text;
}

std::size_t byteOf(const std::string& text, int column) {
    std::size_t at = 0;
    for (int c = 1; c < column && at < text.size(); ++c) at = nextCharacter(text, at);
    return at;
}

bool isSymbol(const Token& t, const char* symbol) {
    return t.kind == TokenKind::Symbol && t.text == symbol;
}
bool opens(const Token& t) {
    return isSymbol(t, "(");
}
bool closes(const Token& t) {
    return isSymbol(t, ")");
}
bool compares(const Token& t) {
    return t.kind == TokenKind::Symbol &&
           (t.text == "<" || t.text == "<=" || t.text == ">" || t.text == ">=");
}
bool isWord(const Token& t, const char* word) {
    return t.kind == TokenKind::Keyword && t.text == word;
}
bool joins(const Token& t) {
    return t.kind == TokenKind::End || isSymbol(t, ",") || isWord(t, "and") || isWord(t, "or") ||
           isWord(t, "not") || isWord(t, "for") || isWord(t, "between");
}

/// Tokens from `first` up to `end` of a text.
struct Stretch {
    std::size_t first = 0, end = 0;
    bool empty() const { return first >= end; }
};

/// Reads the comparison around a setting, in tokens.
class Comparison {
  public:
    /// `words`: the text as the tokens were cut from it.
    Comparison(const std::string& text, const std::string& words, const std::vector<Token>& tokens,
               std::size_t at)
        : text_(text), words_(words), tokens_(tokens), at_(at) {}

    SettingPlace place() const {
        if (at_ > 0 && isWord(tokens_[at_ - 1], "between")) return between(at_ - 1, SettingSide::Below);
        if (at_ > 0 && isWord(tokens_[at_ - 1], "and"))
            if (const std::size_t first = back(at_ - 1); first > 0 && isWord(tokens_[first - 1], "between"))
                return between(first - 1, SettingSide::Above);
        const std::size_t begin = back(at_), end = on(at_);
        if (begin > 0 && compares(tokens_[begin - 1]))
            return solved({back(begin - 1), begin - 1}, {begin, end}, tokens_[begin - 1].text[0] == '>');
        if (end < tokens_.size() && compares(tokens_[end]))
            return solved({end + 1, on(end + 1)}, {begin, end}, tokens_[end].text[0] == '<');
        return {};
    }

  private:
    /// A number that is outside of two: true above the one and below the other would be everywhere, so each
    /// begins where the record goes beyond it.
    SettingPlace between(std::size_t word, SettingSide side) const {
        return {{}, textOf({back(word), word}), side};
    }
    /// `other` compared with the side that holds the setting; true where `other` is above or below.
    SettingPlace solved(Stretch other, Stretch own, bool above) const {
        const std::string measure = textOf(other);
        const Stretch before{own.first, at_}, after{at_ + 1, own.end};
        SettingPlace out{{}, {}, above ? SettingSide::Above : SettingSide::Below};
        if (measure.empty()) return {};
        if (before.empty() && after.empty())
            out.measure = measure;
        else if (!before.empty() && !after.empty())
            return {};
        else if (!after.empty())
            out.measure = solvedFor(measure, tokens_[after.first], {after.first + 1, after.end}, true);
        else
            out.measure = solvedFor(measure, tokens_[before.end - 1], {before.first, before.end - 1}, false);
        return out.measure.empty() ? SettingPlace{} : out;
    }
    /// `{s} sign rest`, or `rest sign {s}`.
    std::string solvedFor(const std::string& measure, const Token& sign, Stretch rest, bool first) const {
        const std::string other = textOf(rest);
        if (isSymbol(sign, "-") && other.empty()) return fmt::format("-({})", measure);
        if (other.empty()) return {};
        if (isSymbol(sign, "+")) return fmt::format("({}) - ({})", measure, other);
        if (isSymbol(sign, "-"))
            return first ? fmt::format("({}) + ({})", measure, other)
                         : fmt::format("({}) - ({})", other, measure);
        if (isSymbol(sign, "*") && !hasSum(rest)) return fmt::format("({}) / ({})", measure, other);
        return {};
    }
    bool hasSum(Stretch part) const {
        int depth = 0;
        for (std::size_t i = part.first; i < part.end; ++i) {
            if (opens(tokens_[i])) ++depth;
            if (closes(tokens_[i])) --depth;
            if (depth == 0 && (isSymbol(tokens_[i], "+") || isSymbol(tokens_[i], "-"))) return true;
        }
        return false;
    }
    /// Where the side of the comparison begins that ends before `at`.
    std::size_t back(std::size_t at) const {
        int depth = 0;
        while (at > 0) {
            const Token& t = tokens_[at - 1];
            if (closes(t)) ++depth;
            if (opens(t) && depth-- == 0) break;
            if (depth == 0 && (compares(t) || joins(t))) break;
            --at;
        }
        return at;
    }
    /// Where it ends that begins at `at`.
    std::size_t on(std::size_t at) const {
        int depth = 0;
        for (; at < tokens_.size(); ++at) {
            const Token& t = tokens_[at];
            if (opens(t)) ++depth;
            if (closes(t) && depth-- == 0) break;
            if (depth == 0 && (compares(t) || joins(t))) break;
        }
        return at;
    }
    std::string textOf(Stretch part) const {
        if (part.empty()) return {};
        const Token& last = tokens_[part.end - 1];
        const std::size_t from = byteOf(words_, tokens_[part.first].column),
                          to = byteOf(words_, last.column + last.length);
        // A setting is a letter longer than its word.
        const bool brace = to < text_.size() && text_[to] == '}';
        return text_.substr(from, to - from + (brace ? 1 : 0));
    }
    const std::string &text_, &words_;
    const std::vector<Token>& tokens_;
    std::size_t at_;
};

double roundStepFor(double length) {
    const double rough = length / kSteps, power = std::pow(10, std::floor(std::log10(rough)));
    for (const double n : {1.0, 2.0, 5.0})
        if (n * power >= rough * 0.999) return n * power;
    return 10 * power;
}

/// The multiple of the step, without what binary fractions leave behind.
double multiple(double step, double n) {
    return step >= 1 ? n * step : n / std::round(1 / step);
}

/// Whole steps from low to high, both within.
StartingRange inSteps(const std::string& name, double low, double value, double high) {
    const double step = roundStepFor(high - low);
    const double first = std::floor(low / step + 1e-9), last = std::ceil(high / step - 1e-9);
    StartingRange out;
    out.vary = {name, multiple(step, first), multiple(step, last), static_cast<int>(last - first) + 1};
    out.value = multiple(step, std::clamp(std::round(value / step), first, last));
    return out;
}

}  // namespace

std::optional<SettingPlace> placeOfSetting(const std::string& text, const std::string& name) {
    const std::string words = withWords(text);
    std::size_t written = text.find("{" + name + "}");
    while (written != std::string::npos && words[written] == '{')
        written = text.find("{" + name + "}", written + 1);
    if (written == std::string::npos) return {};
    SettingPlace out;
    for (std::size_t i = written + name.size() + 2; i < text.size() && std::isalpha(text[i]) != 0; ++i)
        out.unit += text[i];
    if (!out.unit.empty()) return out;
    const std::vector<Token> tokens = tokenize(words);
    for (std::size_t i = 0; i < tokens.size(); ++i)
        if (byteOf(words, tokens[i].column) == written) return Comparison(text, words, tokens, i).place();
    return out;
}

std::optional<StartingRange> rangeFromValues(const std::string& name, std::vector<double>& values,
                                             SettingSide side) {
    std::erase_if(values, [](double v) { return !std::isfinite(v); });
    if (values.size() < kFewest) return {};
    std::sort(values.begin(), values.end());
    const double middle = quantileOfSorted(values, 0.5), top = quantileOfSorted(values, 0.99),
                 far = quantileOfSorted(values, 0.999), low = quantileOfSorted(values, 0.01),
                 deep = quantileOfSorted(values, 0.001);
    const bool above = side == SettingSide::Above;
    const double end = above ? std::min(values.back(), middle + kSpikeReach * (far - middle))
                             : std::max(values.front(), middle - kSpikeReach * (middle - deep));
    const double from = std::min(middle, end), to = std::max(middle, end);
    if (!(to - from > 1e-9 * std::max(std::abs(from), std::abs(to)))) return {};
    return inSteps(name, from, above ? top : low, to);
}

std::optional<StartingRange> rangeForTime(const std::string& name, const std::string& unit) {
    struct Scale {
        const char* unit;
        double low, value, high;
        int steps;
    };
    static constexpr Scale kScales[] = {{"ms", 100, 500, 1000, 10}, {"s", 10, 60, 120, 12},
                                        {"m", 10, 30, 120, 12},     {"h", 2, 6, 24, 12},
                                        {"d", 1, 7, 14, 14},        {"w", 1, 2, 8, 8}};
    for (const Scale& s : kScales)
        if (unit == s.unit) return StartingRange{{name, s.low, s.high, s.steps}, s.value};
    return {};
}

StartingRange rangeAround(const std::string& name, double value) {
    StartingRange out =
        value == 0 ? inSteps(name, -1, 0, 1)
                   : inSteps(name, std::min(value / 2, value * 2), value, std::max(value / 2, value * 2));
    out.value = value;
    return out;
}

void reach(Vary& vary, double value) {
    if (!std::isfinite(value) || vary.steps < 2 || (value >= vary.low && value <= vary.high)) return;
    const double step = (vary.high - vary.low) / (vary.steps - 1);
    const double more = std::ceil((value < vary.low ? vary.low - value : value - vary.high) / step - 1e-9);
    if (more > 4 * kSteps) {
        // Too many of these steps: longer ones over the whole.
        vary = inSteps(vary.name, std::min(vary.low, value), value, std::max(vary.high, value)).vary;
        return;
    }
    const double edge = std::round((value < vary.low ? vary.low : vary.high) / step);
    if (value < vary.low)
        vary.low = multiple(step, edge - more);
    else
        vary.high = multiple(step, edge + more);
    vary.steps += static_cast<int>(more);
}

}  // namespace jacinth
