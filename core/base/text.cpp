#include "core/base/text.h"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace jacinth {

std::string_view trimmed(std::string_view text) {
    const auto blank = [](char c) { return c == ' ' || (c >= '\t' && c <= '\r'); };
    while (!text.empty() && blank(text.front())) text.remove_prefix(1);
    while (!text.empty() && blank(text.back())) text.remove_suffix(1);
    return text;
}

std::string onOneLine(std::string text) {
    for (char& c : text)
        if (static_cast<unsigned char>(c) < 0x20 || c == 0x7F) c = ' ';
    return text;
}

std::string lowerCase(std::string_view text) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
    return out;
}

std::optional<double> finiteNumber(std::string_view text) {
    double value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(value)) return {};
    return value;
}

bool looksLikeNumber(std::string_view text) {
    if (!finiteNumber(text)) return false;
    if (text.front() == '-') text.remove_prefix(1);
    const auto digit = [](char c) { return c >= '0' && c <= '9'; };
    if (text.empty() || !digit(text.front())) return false;
    return text.front() != '0' || text.size() == 1 || !digit(text[1]);
}

std::string quotedField(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"') out += '"';
        out += c;
    }
    return out + "\"";
}

std::string csvField(const std::string& text) {
    const bool blankEnds = trimmed(text).size() != text.size();
    return blankEnds || text.find_first_of(",\"\n\r") != std::string::npos ? quotedField(text) : text;
}

namespace {

/// What comes after a guarding apostrophe.
bool isGuarded(std::string_view text) {
    return text.size() > 1 && text[0] == '\'' &&
           std::string_view("=+-@\t\r'").find(text[1]) != std::string_view::npos;
}

}  // namespace

std::string withGuardEscaped(const std::string& text) {
    return isGuarded(text) ? "'" + text : text;
}

std::string withoutGuard(std::string_view text) {
    return std::string(isGuarded(text) ? text.substr(1) : text);
}

std::string guardedField(const std::string& text) {
    const bool runs =
        !text.empty() && std::string_view("=+-@\t\r").find(text.front()) != std::string_view::npos;
    return csvField(runs && !finiteNumber(text) ? "'" + text : withGuardEscaped(text));
}

}  // namespace jacinth
