// Text to tokens. Never fails: what it cannot read becomes an Unknown token, which the parser reports.
#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <numeric>

#include "core/expr/ast.h"

namespace jacinth {
namespace {

constexpr std::array<std::string_view, 11> kKeywords{"and", "or", "not",    "for",     "over",   "since",
                                                     "is",  "in", "during", "between", "samples"};

bool isWordStart(unsigned char c) {
    return std::isalpha(c) || c == '_' || c >= 0x80;
}
bool isWordPart(unsigned char c) {
    return std::isalnum(c) || c == '_' || c >= 0x80;
}

class Lexer {
  public:
    explicit Lexer(std::string_view text) : text_(text) {}

    std::vector<Token> all() {
        std::vector<Token> out;
        while (true) {
            skipBlank();
            if (at_ >= text_.size()) break;
            const std::size_t start = at_;
            const int column = column_;
            Token token = next();
            advanceColumn(start);
            token.column = column;
            token.length = column_ - column;
            out.push_back(std::move(token));
        }
        out.push_back({TokenKind::End, "end of text", 0, {}, column_, 0});
        return out;
    }

  private:
    unsigned char peek(std::size_t ahead = 0) const {
        return at_ + ahead < text_.size() ? static_cast<unsigned char>(text_[at_ + ahead]) : 0;
    }

    void skipBlank() {
        const std::size_t start = at_;
        while (at_ < text_.size() && std::isspace(peek())) ++at_;
        advanceColumn(start);
    }

    // Columns count characters, not bytes: a continuation byte of UTF-8 adds none.
    void advanceColumn(std::size_t start) {
        for (std::size_t i = start; i < at_; ++i)
            if ((static_cast<unsigned char>(text_[i]) & 0xC0) != 0x80) ++column_;
    }

    Token next() {
        const unsigned char c = peek();
        if (c == '#') return comment();
        if (std::isdigit(c) || (c == '.' && std::isdigit(peek(1)))) return number();
        if (c == '"') return quoted('"', TokenKind::Text);
        if (c == '`') return quoted('`', TokenKind::Path);
        if (c == '@') {
            ++at_;
            Token token = word();
            token.kind = token.text.empty() ? TokenKind::Unknown : TokenKind::Role;
            if (token.text.empty()) token.text = "@";
            return token;
        }
        if (isWordStart(c)) return word();
        return symbol();
    }

    Token comment() {
        const std::size_t start = at_;
        while (at_ < text_.size() && text_[at_] != '\n') ++at_;
        return {TokenKind::Comment, std::string(text_.substr(start, at_ - start))};
    }

    Token number() {
        const std::size_t start = at_;
        double value = 0;
        const auto [end, code] = std::from_chars(text_.data() + at_, text_.data() + text_.size(), value);
        at_ = end - text_.data();
        if (code != std::errc()) return unknown(start, std::max<std::size_t>(1, at_ - start));
        const std::size_t unit = at_;
        while (isWordPart(peek())) ++at_;
        const std::string whole(text_.substr(start, at_ - start));
        if (at_ == unit) return {TokenKind::Number, whole, value};
        const Result<Duration> duration = parseDuration(whole);
        if (!duration) return {TokenKind::Unknown, whole};
        return {TokenKind::DurationWord, whole, 0, *duration};
    }

    Token quoted(char mark, TokenKind kind) {
        // The mark itself is written twice inside.
        const std::size_t start = at_++;
        std::string inside;
        while (true) {
            const std::size_t end = text_.find(mark, at_);
            if (end == std::string_view::npos) return unknown(start, text_.size() - start);
            inside += text_.substr(at_, end - at_);
            at_ = end + 1;
            if (peek() != static_cast<unsigned char>(mark)) break;
            inside += mark;
            ++at_;
        }
        return {kind, std::move(inside)};
    }

    Token word() {
        const std::size_t start = at_;
        while (isWordPart(peek())) ++at_;
        std::string text(text_.substr(start, at_ - start));
        const bool keyword = std::find(kKeywords.begin(), kKeywords.end(), text) != kKeywords.end();
        return {keyword ? TokenKind::Keyword : TokenKind::Word, std::move(text)};
    }

    Token symbol() {
        for (const std::string_view two : {"<=", ">=", "!="})
            if (text_.substr(at_, 2) == two) {
                at_ += 2;
                return {TokenKind::Symbol, std::string(two)};
            }
        const char c = text_[at_++];
        if (std::string_view("<>=+-*/^(),").find(c) == std::string_view::npos)
            return {TokenKind::Unknown, std::string(1, c)};
        return {TokenKind::Symbol, std::string(1, c)};
    }

    Token unknown(std::size_t start, std::size_t length) {
        at_ = start + length;
        return {TokenKind::Unknown, std::string(text_.substr(start, std::min<std::size_t>(length, 40)))};
    }

    std::string_view text_;
    std::size_t at_ = 0;
    int column_ = 1;
};

/// Damerau-Levenshtein (optimal string alignment): two letters swapped count once. Row by row.
int editDistance(std::string_view a, std::string_view b) {
    const std::size_t wide = b.size() + 1;
    std::vector<int> rows(3 * wide);
    int *before = rows.data(), *last = before + wide, *row = last + wide;
    std::iota(last, last + wide, 0);
    for (std::size_t i = 1; i <= a.size(); ++i) {
        row[0] = static_cast<int>(i);
        for (std::size_t j = 1; j <= b.size(); ++j) {
            row[j] = std::min({last[j] + 1, row[j - 1] + 1, last[j - 1] + (a[i - 1] != b[j - 1])});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                row[j] = std::min(row[j], before[j - 2] + 1);
        }
        std::swap(before, last);
        std::swap(last, row);
    }
    return last[b.size()];
}

}  // namespace

std::vector<Token> tokenize(std::string_view text) {
    return Lexer(text).all();
}

std::string quotedPath(const std::string& path) {
    std::string out = "`";
    for (const char c : path) out += c == '`' ? std::string("``") : std::string(1, c);
    return out + "`";
}

std::string nearestName(const std::string& name, const std::vector<std::string>& known) {
    if (name.size() > 200) return {};
    std::string best;
    int least = static_cast<int>(name.size()) / 2 + 1;
    for (const std::string& k : known) {
        // As many letters as one is longer have to go at least.
        const auto longer = std::max(k.size(), name.size()) - std::min(k.size(), name.size());
        if (k.size() > 200 || static_cast<int>(longer) >= least) continue;
        const int distance = editDistance(name, k);
        if (distance < least) {
            least = distance;
            best = k;
        }
    }
    return best;
}

std::string durationWord(Duration d) {
    constexpr std::array<std::pair<Duration, const char*>, 3> units{
        {{kHour, "h"}, {kMinute, "m"}, {kSecond, "s"}}};
    for (const auto& [unit, name] : units)
        if (d % unit == Duration::zero()) return std::to_string(d / unit) + name;
    return std::to_string(d / kMillisecond) + "ms";
}

std::string sayNearest(const std::string& name, const std::vector<std::string>& known) {
    const std::string near = nearestName(name, known);
    return near.empty() ? std::string() : "; nearest is `" + near + "`";
}

}  // namespace jacinth
