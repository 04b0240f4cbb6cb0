#include "core/base/utf8.h"

#include <algorithm>

namespace jacinth {
namespace {

/// Bytes of the character at the start of `text`; 0 where it is not valid. `cutOff` is set where the text
/// ends inside it.
std::size_t characterLength(std::string_view text, bool& cutOff) {
    const auto at = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    cutOff = false;
    const unsigned char first = at(0);
    if (first < 0x80) return 1;
    const std::size_t length = first >= 0xC2 && first <= 0xDF   ? 2
                               : (first & 0xF0) == 0xE0         ? 3
                               : first >= 0xF0 && first <= 0xF4 ? 4
                                                                : 0;
    if (length == 0) return 0;
    for (std::size_t i = 1; i < length; ++i) {
        if (i >= text.size()) {
            cutOff = true;
            return 0;
        }
        const unsigned char c = at(i);
        // Overlong forms, surrogates, and what lies beyond U+10FFFF show in the second byte.
        const unsigned char low = i > 1           ? 0x80
                                  : first == 0xE0 ? 0xA0
                                  : first == 0xF0 ? 0x90
                                                  : 0x80,
                            high = i > 1           ? 0xBF
                                   : first == 0xED ? 0x9F
                                   : first == 0xF4 ? 0x8F
                                                   : 0xBF;
        if (c < low || c > high) return 0;
    }
    return length;
}

/// Where the first byte that is no UTF-8 stands; the end of the text where there is none or a character is
/// cut off by it.
std::size_t firstInvalid(std::string_view text, bool& cutOff) {
    std::size_t i = 0;
    cutOff = false;
    while (i < text.size()) {
        const std::size_t n = characterLength(text.substr(i), cutOff);
        if (n == 0) return cutOff ? text.size() : i;
        i += n;
    }
    return i;
}

}  // namespace

void appendUtf8(std::uint32_t c, std::string& out) {
    if (c < 0x80) {
        out += static_cast<char>(c);
    } else if (c < 0x800) {
        out += {static_cast<char>(0xC0 | (c >> 6)), static_cast<char>(0x80 | (c & 0x3F))};
    } else if (c < 0x10000) {
        out += {static_cast<char>(0xE0 | (c >> 12)), static_cast<char>(0x80 | ((c >> 6) & 0x3F)),
                static_cast<char>(0x80 | (c & 0x3F))};
    } else {
        out += {static_cast<char>(0xF0 | (c >> 18)), static_cast<char>(0x80 | ((c >> 12) & 0x3F)),
                static_cast<char>(0x80 | ((c >> 6) & 0x3F)), static_cast<char>(0x80 | (c & 0x3F))};
    }
}

bool isUtf8(std::string_view text, bool mayBeCutOff) {
    bool cutOff = false;
    return firstInvalid(text, cutOff) == text.size() && (mayBeCutOff || !cutOff);
}

std::string asUtf8(std::string_view text, std::size_t most) {
    std::string out;
    while (!text.empty()) {
        bool cutOff = false;
        const std::size_t n = characterLength(text, cutOff);
        if (out.size() + (n == 0 ? 3 : n) > most) break;
        if (n == 0)
            appendUtf8(0xFFFD, out);
        else
            out += text.substr(0, n);
        text.remove_prefix(std::max<std::size_t>(n, 1));
    }
    return out;
}

std::size_t nextCharacter(std::string_view text, std::size_t at) {
    if (at >= text.size()) return text.size();
    ++at;
    while (at < text.size() && (static_cast<unsigned char>(text[at]) & 0xC0) == 0x80) ++at;
    return at;
}

}  // namespace jacinth
