// Lines above the header of a table that are not part of it: titles, the name of the plant, when it was made.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

/// How often a sign stands in a line outside of quotes.
std::size_t countOutsideQuotes(std::string_view line, char sign);

/// Lines at the start of a text that are titles: each is cut into fewer fields than the table below, whose
/// first line holds neither a number nor a time, and is followed by at least three lines of as many fields. 0
/// where nothing speaks for titles. `separator` is one character or `tab`; any of `; tab | ,` where empty.
std::int64_t titleLinesIn(std::string_view text, const std::string& separator = {});
/// As said, a number from 0 to 1000, or as found where nothing is said.
Result<std::int64_t> titleLinesOf(std::string_view text, const std::string& said,
                                  const std::string& separator);
/// The text behind so many lines.
std::string_view withoutLines(std::string_view text, std::int64_t lines);

}  // namespace jacinth
