// How a text file is laid out: guessed from its start, middle and end, or said by the user.
#pragma once

#include <array>
#include <optional>
#include <set>
#include <vector>

#include "source/chunks.h"
#include "source/name_mapping.h"
#include "source/record_source.h"
#include "source/row_reader.h"
#include "source/time_reader.h"
#include "source/title_lines.h"

namespace jacinth {

/// What the user says about a file; the rest is guessed.
struct LayoutHints {
    std::optional<bool> longForm;
    /// `Date+Clock` for a date and a time of day in two columns; `Year+Month+Day+Hour` and so on for the
    /// parts of a date, or a time of day as the last of them.
    std::string timeColumn;
    std::string tagColumn, valueColumn, qualityColumn;
    std::string timeFormat;  ///< see timeFormatNamed
    std::string dateOrder;   ///< `day-first` or `month-first`: where the file can be read either way
    std::string separator;   ///< one character, or `tab`
    std::string decimal;     ///< `.` or `,`
    std::string encoding;    ///< see encodingNamed
    std::string titleLines;  ///< above the header, a number; found where empty
    std::string zone;        ///< of times without offset; the study's where empty
    std::string asset;       ///< for headers or tags that name none
    /// Texts among numbers that say that there is no value, separated by `|`; kNoValueTexts where empty.
    std::string noValue;
    OtherUnits units = OtherUnits::Refuse;  ///< of tags that the study has in another unit
    NameSettings names;                     ///< what names become
};

/// Read among numbers as “there was no value”, in any case of letters.
inline constexpr const char* kNoValueTexts =
    "bad|no data|nodata|no "
    "value|error|err|fail|failed|fault|invalid|n/a|na|#n/a|nan|null|none|missing|unknown|"
    "-|--|---|?|*";

/// A column of a wide file, or its part in a long one.
struct LayoutColumn {
    std::string header;   ///< as written
    MappedName name;      ///< what it becomes in the study
    std::string trouble;  ///< why it becomes nothing; empty where it does
    bool states = false;  ///< most of what was looked at are names of states, not numbers
};

struct TextLayout {
    TextCoding coding;
    char separator = ',';
    bool decimalComma = false;
    char thousands = 0;  ///< between groups of three digits; 0 for none
    bool longForm = false;
    TimeFormat timeFormat;
    int timeColumn = 0;
    int clockColumn = -1;  ///< where the time of day stands in a column of its own
    /// Year, month, day, hour, minute and second where these stand in columns of their own; −1 for those that
    /// do not. The first is timeColumn then.
    std::array<int, 6> dateParts{-1, -1, -1, -1, -1, -1};
    std::int64_t titleLines = 0;                               ///< above the header
    int tagColumn = -1, valueColumn = -1, qualityColumn = -1;  ///< long form only
    std::vector<LayoutColumn> columns;                         ///< one per field of the header
    std::set<std::string> noValue;                             ///< in lower case
    std::shared_ptr<const NameMapping> names;                  ///< null for the usual cut at the first slash
    /// What the parts of the file that were looked at do not decide, in words that say how to decide it;
    /// empty where all is clear. For the dates all of the file is looked through before anything is stored.
    std::string timeQuestion, numberQuestion;

    bool hasDateParts() const { return dateParts[1] >= 0; }
    bool timeInOneColumn() const { return clockColumn < 0 && !hasDateParts(); }
    bool isOfTime(int column) const;
    /// What the columns of the time say together, as one text.
    std::string joinedTime(const std::vector<std::string_view>& fields) const;

    bool meansNoValue(std::string_view text) const { return noValue.contains(lowerCase(text)); }
};

/// Parts of a text in UTF-8 and whole lines: its start (up to 4 MB; title lines are blank in it), and, of a
/// plain file, its middle and its end (256 KiB each; empty where the start holds all).
struct TextParts {
    std::string start, middle, end;
    bool whole = false;  ///< `start` is all of it
    TextCoding coding;
    std::int64_t titleLines = 0;
};
Result<TextParts> partsOf(const TextSource& source, const LayoutHints& hints);

/// The header's fields and up to `rows` rows below it. Fails on what is not a table of text: empty, binary, a
/// header alone, a last row that stops in the middle, a header that names a column twice.
struct TextHead {
    char separator = ',';
    std::vector<std::string> header;
    std::vector<std::vector<std::string>> rows;
};
enum class NoRows { Refused, Allowed };  ///< a list of events may be empty: nothing happened
Result<TextHead> readHead(const std::string& name, const TextParts& parts, const LayoutHints& hints,
                          std::size_t rows, NoRows noRows = NoRows::Refused);

/// A file cut off while it was written ends without a line end, in a row with too few fields or an open
/// quote. `text` may be the last part of it.
Status checkEnd(const std::string& name, std::string_view text, char separator, std::size_t fields);

/// Fails with a message for the user where there is no time column or a header names no asset.
Result<TextLayout> guessLayout(const TextSource& source, const LayoutHints& hints);
Result<TextLayout> guessLayout(const std::string& name, const TextParts& parts, const LayoutHints& hints);

/// Which of the two it is where all rows can be read day first and month first: as said; none is to be asked.
std::optional<TimeFormat> orderOfDates(const TimeFormEvidence& seen, const LayoutHints& hints);
/// What to ask about times of which day and month cannot be distinguished.
std::string timeQuestion(const std::string& file, const TimeFormEvidence& seen);

/// `Kiln 3/Air-off temp [°C]` → asset, tag, unit, or as `names` maps it. Without an asset it is of
/// `otherwise`.
LayoutColumn columnFromHeader(const std::string& header, const std::string& otherwise,
                              const NameMapping* names = nullptr);

/// A number in full, with decimal point or comma; nothing else in the field. NaN and infinities are not
/// numbers.
std::optional<double> readNumber(std::string_view field, bool decimalComma);
/// The same, with the layout's sign between groups of three digits.
std::optional<double> readNumber(std::string_view field, const TextLayout& layout);

}  // namespace jacinth
