// How a text file is laid out: guessed from its first rows, or said by the user.
#pragma once

#include <optional>
#include <vector>

#include "source/row_reader.h"
#include "source/text_file.h"
#include "source/time_reader.h"

namespace jacinth {

/// What the user says about a file; the rest is guessed.
struct LayoutHints {
    std::optional<bool> longForm;
    std::string timeColumn, tagColumn, valueColumn, qualityColumn;
    std::string zone;   ///< of times without offset; the study's where empty
    std::string asset;  ///< for headers or tags that name none
};

/// A column of a wide file, or its part in a long one.
struct LayoutColumn {
    std::string header;  ///< as written
    std::string asset, tag, unit;
    bool states = false;  ///< holds names of states, not numbers
};

struct TextLayout {
    char separator = ',';
    bool decimalComma = false;
    bool longForm = false;
    DateOrder dateOrder = DateOrder::YearFirst;
    int timeColumn = 0;
    int tagColumn = -1, valueColumn = -1, qualityColumn = -1;  ///< long form only
    std::vector<LayoutColumn> columns;                         ///< one a field of the header
};

/// The header's fields and up to `rows` rows below it. Fails on what is no table of text: empty, binary, a
/// header alone, a last row that stops in the middle.
struct TextHead {
    char separator = ',';
    std::vector<std::string> header;
    std::vector<std::vector<std::string>> rows;
};
Result<TextHead> readHead(const TextSource& source, std::size_t rows);

/// A file cut off while it was written ends without a line end, in a row with too few fields or an open
/// quote. `source` may be the last part of a text.
Status checkEnd(const TextSource& source, char separator, std::size_t fields);

/// Fails with a message for the user where there is no time column or a header names no asset.
Result<TextLayout> guessLayout(const TextSource& source, const LayoutHints& hints);

/// `Kiln 3/Air-off temp [°C]` → asset, tag, unit. Without `/` the asset is `otherwise`.
LayoutColumn columnFromHeader(const std::string& header, const std::string& otherwise);

/// A number in full, with decimal point or comma; nothing else in the field. NaN and infinities are no
/// numbers.
std::optional<double> readNumber(std::string_view field, bool decimalComma);

}  // namespace jacinth
