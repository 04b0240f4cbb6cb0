// Rows and fields of delimited text (RFC 4180, with other separators), without copying.
#pragma once

#include <cstdint>
#include <deque>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/text.h"

namespace jacinth {

/// Walks the rows of a text. Fields are views into the text; a field with doubled quotes is unescaped into
/// storage that lives until the next row.
class RowReader {
  public:
    RowReader(std::string_view text, char separator);
    /// The next row that is not blank; false at the end.
    bool next();
    const std::vector<std::string_view>& fields() const { return fields_; }
    std::int64_t line() const { return line_; }    ///< of the row's start, from 1
    std::size_t position() const { return at_; }   ///< bytes read so far
    bool openQuote() const { return openQuote_; }  ///< the row's last quote was never closed
    std::string_view raw() const { return raw_; }

  private:
    std::string_view takeQuoted();
    std::string_view text_;
    char separator_;
    std::size_t at_ = 0;
    std::int64_t line_ = 0, nextLine_ = 1;
    bool openQuote_ = false;
    std::string_view raw_;
    std::vector<std::string_view> fields_;
    std::deque<std::string> unescaped_;
};

/// Without the byte-order mark of UTF-8, if there is one.
std::string_view withoutMark(std::string_view text);

}  // namespace jacinth
