// Small helpers for texts.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace jacinth {

std::string_view trimmed(std::string_view text);  ///< without blanks at either end
std::string onOneLine(std::string text);          ///< control characters become blanks
std::string lowerCase(std::string_view text);     ///< A to Z only

/// The number that the whole text is, with decimal point; none for NaN and infinities.
std::optional<double> finiteNumber(std::string_view text);

/// A field of a CSV file: quoted where it has to be.
std::string csvField(const std::string& text);
/// The same; a text that a spreadsheet would run as a formula gets an apostrophe before it.
std::string guardedField(const std::string& text);

}  // namespace jacinth
