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

/// A number as it is written by people and programs: digits, a sign only where it is negative, no zeros
/// before them, a fraction, an exponent. `007`, `+7` and `1,5` are texts.
bool looksLikeNumber(std::string_view text);

/// A field of a CSV file: quoted where it has to be, also for blanks at its ends.
std::string csvField(const std::string& text);
/// The same, always quoted.
std::string quotedField(const std::string& text);
/// The same; a text that a spreadsheet would run as a formula gets an apostrophe before it (see
/// withGuardEscaped).
std::string guardedField(const std::string& text);
/// A text of a CSV file in which an apostrophe before one of `= + - @`, a tab or another apostrophe is a
/// guard: one that has it by itself gets another. withoutGuard takes either away again, so that a text comes
/// back as it was, whether the file was guarded or not.
std::string withGuardEscaped(const std::string& text);
std::string withoutGuard(std::string_view text);

}  // namespace jacinth
