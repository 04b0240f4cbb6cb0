// UTF-8 (RFC 3629): is it, and what to make of text that is not.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace jacinth {

/// Is the text valid UTF-8? With `mayBeCutOff` a character that the end of the text cuts off is valid too.
bool isUtf8(std::string_view text, bool mayBeCutOff = false);

/// The same text with U+FFFD in place of what is not UTF-8, cut at a character so that it has at most `most`
/// bytes.
std::string asUtf8(std::string_view text, std::size_t most);

/// Where the character after the one at `at` begins; the end of the text for the last one.
std::size_t nextCharacter(std::string_view text, std::size_t at);

/// Appends one character (U+0000 to U+10FFFF, no surrogates).
void appendUtf8(std::uint32_t character, std::string& out);

}  // namespace jacinth
