// Rows and fields of delimited text (RFC 4180, with other separators), without copying.
#pragma once

#include <cstdint>
#include <deque>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/text.h"

namespace jacinth {

/// May a quoted field hold line ends? In a table of numbers it may not: there a quote that does not close in
/// its line is a slip, and what follows it are rows.
enum class Quotes { WithinLine, OverLines };

/// Walks the rows of a text. Every line that is not blank belongs to exactly one row. Fields are views into
/// the text; a field with doubled quotes is unescaped into storage that lives until the next row.
class RowReader {
  public:
    /// With OverLines a quoted field may hold up to kLongestQuoted bytes, and a row over several lines must
    /// have as many fields as the first row read; otherwise its first line is a row by itself.
    RowReader(std::string_view text, char separator, Quotes quotes = Quotes::WithinLine);
    /// The next row that is not blank; false at the end.
    bool next();
    const std::vector<std::string_view>& fields() const { return fields_; }
    /// Did field `i` stand in quotes? Then its blanks belong to it.
    bool isQuoted(std::size_t i) const { return quoted_[i]; }
    /// Why the row cannot be cut into fields; empty where it can.
    const char* trouble() const { return trouble_; }
    std::int64_t line() const { return line_; }               ///< of the row's start, from 1
    std::int64_t linesRead() const { return nextLine_ - 1; }  ///< blank ones and the row's own included
    std::size_t position() const { return at_; }              ///< bytes read so far
    std::string_view raw() const { return raw_; }

    static constexpr std::size_t kLongestQuoted = 32 << 10;

  private:
    enum class Cut { Whole, OpenQuote, TextAfterQuote };
    Cut cut(std::string_view row);
    bool cutOverLines(std::size_t start, std::size_t firstEnd);
    std::string_view text_;
    char separator_;
    Quotes quotes_;
    std::size_t at_ = 0;
    std::size_t usualFields_ = 0;
    std::int64_t line_ = 0, nextLine_ = 1;
    const char* trouble_ = "";
    std::string_view raw_;
    std::vector<std::string_view> fields_;
    std::vector<bool> quoted_;  ///< of each of them
    std::deque<std::string> unescaped_;
};

/// Without the byte-order mark of UTF-8, if there is one.
std::string_view withoutMark(std::string_view text);

}  // namespace jacinth
