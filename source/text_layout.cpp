#include "source/text_layout.h"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

#include "core/base/utf8.h"
#include "source/event_forms.h"
#include "source/number_signs.h"
#include "source/time_columns.h"

namespace jacinth {
namespace {

constexpr std::size_t kHeadRows = 2000;
constexpr std::size_t kHeadBytes = 4 << 20;
constexpr std::size_t kPartBytes = 256 << 10;

/// The separator that cuts the header into most fields.
char guessSeparator(std::string_view text) {
    text.remove_prefix(std::min(text.find_first_not_of("\r\n"), text.size()));
    const std::string_view header = text.substr(0, text.find('\n'));
    char best = ',';
    std::size_t most = 0;
    for (const char c : {';', '\t', '|', ','}) {
        const std::size_t n = countOutsideQuotes(header, c);
        if (n > most) {
            most = n;
            best = c;
        }
    }
    return best;
}

Result<char> separatorOf(std::string_view text, const LayoutHints& hints) {
    if (hints.separator.empty()) return guessSeparator(text);
    if (hints.separator == "tab" || hints.separator == "\\t") return '\t';
    if (hints.separator.size() != 1 || hints.separator == "\"" || hints.separator == "\n")
        return Error{
            fmt::format("`{}` cannot separate columns; one character can, or `tab`", hints.separator)};
    return hints.separator[0];
}

Status checkIsText(const std::string& name, std::string_view text) {
    const std::string_view head = text.substr(0, 65536);
    if (trimmed(head).empty()) return Error{fmt::format("{} is empty", name)};
    if (std::memchr(head.data(), 0, head.size()))
        return Error{fmt::format("{} is not a text file: it holds binary data", name)};
    const auto odd =
        std::count_if(head.begin(), head.end(), [](unsigned char c) { return c < 0x20 && !std::isspace(c); });
    if (odd * 100 > static_cast<std::ptrdiff_t>(head.size()))
        return Error{fmt::format("{} is not a text file: it holds binary data", name)};
    return Done{};
}

/// Calls `row` with every whole row of the parts below the header; lines of the start only have a number.
template <typename F>
void forEachRow(const TextParts& parts, char separator, std::size_t fields, F row) {
    const auto walk = [&](std::string_view text, bool numbered) {
        RowReader rows(text, separator);
        rows.next();  // the header, or a line that may be cut off
        while (rows.next())
            if (rows.fields().size() == fields) row(rows.fields(), numbered ? rows.line() : 0);
    };
    walk(parts.start, true);
    walk(parts.middle, false);
    walk(parts.end, false);
}

Status findTimeFormat(const std::string& file, const TextParts& parts, const TextHead& head,
                      const LayoutHints& hints, TextLayout& layout) {
    if (!hints.timeFormat.empty()) {
        const auto format = timeFormatNamed(hints.timeFormat);
        if (!format) return format.error();
        layout.timeFormat = *format;
        return Done{};
    }
    if (layout.hasDateParts()) return Done{};  // joined year first
    if (isYearAlone(head, layout.timeColumn)) {
        layout.timeFormat = {TimeForm::Pattern, "%Y"};
        return Done{};
    }
    TimeFormEvidence seen = evidenceOf(head, layout.timeColumn);
    if (const auto form = seen.form();
        !form || form->form == TimeForm::DayFirst || form->form == TimeForm::MonthFirst) {
        seen = {};
        forEachRow(parts, layout.separator, head.header.size(), [&](const auto& fields, std::int64_t line) {
            seen.add(fields[static_cast<std::size_t>(layout.timeColumn)], line);
        });
    }
    if (seen.ambiguous()) {
        const auto order = orderOfDates(seen, hints);
        layout.timeFormat = order.value_or(TimeFormat{TimeForm::DayFirst, {}});
        if (!order) layout.timeQuestion = timeQuestion(file, seen);
        return Done{};
    }
    const auto form = seen.form();
    if (!form) {
        const auto cells = cellsOfColumn(head, layout.timeColumn);
        return Error{
            fmt::format("{}: column `{}` holds no times that can be read (`{}`); say the format (Times, or "
                        "--time-format)",
                        file, head.header[static_cast<std::size_t>(layout.timeColumn)],
                        cells.empty() ? "" : cells.front())};
    }
    layout.timeFormat = *form;
    return Done{};
}

Status findSigns(const std::string& file, const TextParts& parts, const TextHead& head,
                 const LayoutHints& hints, TextLayout& layout) {
    NumberSigns seen;
    const auto add = [&](const auto& fields) {
        for (std::size_t i = 0; i < fields.size(); ++i)
            if (const int at = static_cast<int>(i); !layout.isOfTime(at)) seen.add(trimmed(fields[i]));
    };
    for (const auto& row : head.rows) add(row);
    if (seen.ambiguous())
        forEachRow(parts, layout.separator, head.header.size(),
                   [&](const auto& fields, std::int64_t) { add(fields); });
    if (!hints.decimal.empty()) {
        if (hints.decimal != "." && hints.decimal != ",")
            return Error{fmt::format("`{}` cannot be a decimal mark; `.` and `,` can", hints.decimal)};
        layout.decimalComma = hints.decimal == ",";
        layout.thousands = seen.thousandsWhere(layout.decimalComma);
        return Done{};
    }
    layout.decimalComma = seen.decimalComma();
    layout.thousands = seen.thousandsWhere(layout.decimalComma);
    if (seen.ambiguous())
        layout.numberQuestion = fmt::format(
            "{}: in numbers like `{}` the comma can stand before decimals or between thousands; say which "
            "(Decimals, or --decimal `.` or `,`)",
            file, seen.example());
    return Done{};
}

bool holdsStates(const TextHead& head, int column, const TextLayout& layout) {
    std::ptrdiff_t numbers = 0, texts = 0;
    for (const std::string_view cell : cellsOfColumn(head, column)) {
        const std::string_view c = trimmed(cell);
        if (readNumber(c, layout))
            ++numbers;
        else
            texts += !layout.meansNoValue(c);
    }
    return texts > numbers;
}

Status fillLong(const std::string& file, const TextHead& head, const LayoutHints& hints, TextLayout& layout) {
    const auto find = [&](const std::string& said, std::initializer_list<const char*> usual) {
        if (!said.empty()) return indexOf(head.header, said);
        for (const char* name : usual)
            if (const int at = indexOf(head.header, name); at >= 0) return at;
        return -1;
    };
    layout.tagColumn = find(hints.tagColumn, {"tag", "name", "point", "item"});
    layout.valueColumn = find(hints.valueColumn, {"value", "val", "reading"});
    layout.qualityColumn = find(hints.qualityColumn, {"quality", "status"});
    if (layout.tagColumn < 0 || layout.valueColumn < 0)
        return Error{
            fmt::format("{0} has no column for the {1}; it has {2}. Name it (Columns: {1}, or --{1})", file,
                        layout.tagColumn < 0 ? "tag" : "value", fmt::join(head.header, ", "))};
    if (!hints.qualityColumn.empty() && layout.qualityColumn < 0)
        return Error{fmt::format("{} has no column `{}`", file, hints.qualityColumn)};
    for (const std::string& h : head.header) layout.columns.push_back({h, {}, {}, false});
    return Done{};
}

/// A list of stops has no tags to name.
std::string orATableOfEvents(const std::vector<std::string>& header) {
    std::vector<std::string> kinds;
    for (const std::string& kind : eventKinds())
        if (hasColumnsOf(kind, header)) kinds.push_back(kind);
    if (kinds.empty()) return {};
    return fmt::format(
        ". Its columns would fit a table of {0}: such a file is taken where its name says so, like "
        "`{1}.csv`, or by `import-events --as {1}`",
        fmt::join(kinds, ", "), kinds.front());
}

Status fillWide(const std::string& file, const TextHead& head, const LayoutHints& hints, TextLayout& layout) {
    std::size_t tags = 0;
    for (std::size_t i = 0; i < head.header.size(); ++i) {
        LayoutColumn column = columnFromHeader(head.header[i], hints.asset, layout.names.get());
        if (const int at = static_cast<int>(i); !layout.isOfTime(at)) {
            if (!column.trouble.empty()) return Error{fmt::format("{}: {}", file, column.trouble)};
            if (column.name.asset.empty())
                return Error{
                    fmt::format("{}: the header `{}` names no asset; write it like `Asset/Tag`, or say the "
                                "asset of the whole file (Asset, or --asset){}",
                                file, head.header[i], orATableOfEvents(head.header))};
            if (column.name.tag.empty()) return Error{fmt::format("{}: column {} has no name", file, i + 1)};
            column.states = holdsStates(head, at, layout);
            ++tags;
        }
        layout.columns.push_back(std::move(column));
    }
    if (tags == 0) return Error{fmt::format("{} has a time column and no other", file)};
    return Done{};
}

/// Two columns of one name would be two values of one tag at one time: nobody could say which counts.
Status checkHeader(const std::string& file, const std::vector<std::string>& header) {
    std::set<std::string> seen, twice;
    for (const std::string& h : header) {
        if (!isUtf8(h))
            return Error{fmt::format(
                "{}: the header is not valid in this encoding; choose another (Encoding, or --encoding)",
                file)};
        const MappedName c = cutAtFirstSlash(h, "");
        if (!h.empty() && !seen.insert(c.asset + "/" + c.tag).second) twice.insert(h);
    }
    if (twice.empty()) return Done{};
    return Error{fmt::format("{}: the header names {} more than once ({}). Nothing of it was imported", file,
                             twice.size() == 1 ? "a column" : "columns", fmt::join(twice, ", "))};
}

std::set<std::string> textsIn(const std::string& listed) {
    std::set<std::string> out;
    std::string_view rest = listed;
    while (!rest.empty()) {
        const std::size_t end = std::min(rest.find('|'), rest.size());
        if (const auto text = trimmed(rest.substr(0, end)); !text.empty()) out.insert(lowerCase(text));
        rest.remove_prefix(std::min(end + 1, rest.size()));
    }
    return out;
}

/// Decodes a part that begins and ends anywhere.
Result<std::string> decodedPart(const TextSource& source, const TextCoding& coding, std::uint64_t at) {
    at &= ~std::uint64_t{1};  // UTF-16 has units of two bytes
    const auto bytes = source.part(at, kPartBytes + 1);
    if (!bytes) return bytes.error();
    std::string out;
    Decoder decoder(coding.encoding, coding.carriageReturns);
    decoder.decode(*bytes, out);
    return out;
}

/// Title lines become blank ones: what follows keeps the numbers of its lines.
Status blankTitleLines(const std::string& name, const LayoutHints& hints, TextParts& parts) {
    const auto lines = titleLinesOf(parts.start, hints.titleLines, hints.separator);
    if (!lines) return lines.error();
    const std::string_view rest = withoutLines(parts.start, *lines);
    if (rest.empty() && *lines > 0)
        return Error{
            fmt::format("{} has {} lines or fewer: none is left below its title lines", name, *lines)};
    parts.titleLines = *lines;
    parts.start = std::string(static_cast<std::size_t>(*lines), '\n') + std::string(rest);
    return Done{};
}

}  // namespace

Result<TextParts> partsOf(const TextSource& source, const LayoutHints& hints) {
    const auto coding = codingOf(source);
    if (!coding) return Error{fmt::format("{}: {}", source.name, coding.error().message)};
    TextParts out;
    out.coding = *coding;
    if (!hints.encoding.empty()) {
        const auto said = encodingNamed(hints.encoding);
        if (!said) return said.error();
        out.coding.encoding = *said;
    }
    TextStream stream(source, out.coding);
    while (out.start.size() < kHeadBytes) {
        const auto more = stream.read(out.start, kHeadBytes - out.start.size());
        if (!more) return Error{fmt::format("{}: {}", source.name, more.error().message)};
        if (!*more) {
            out.whole = true;
            break;
        }
    }
    if (checkIsText(source.name, out.start))
        if (const Status titles = blankTitleLines(source.name, hints, out); !titles) return titles.error();
    if (out.whole) return out;
    // All but the last line, which may go on beyond what was read.
    out.start.resize(out.start.rfind('\n') + 1);
    if (out.start.empty())
        return Error{fmt::format("{} is not a table: its first line is longer than {} MB", source.name,
                                 kHeadBytes >> 20)};
    if (out.coding.packed) return out;
    auto middle = decodedPart(source, out.coding, source.size() / 2);
    if (!middle) return middle.error();
    auto end =
        decodedPart(source, out.coding, source.size() - std::min<std::uint64_t>(source.size(), kPartBytes));
    if (!end) return end.error();
    out.middle = std::move(*middle);
    out.end = std::move(*end);
    return out;
}

std::optional<TimeFormat> orderOfDates(const TimeFormEvidence& seen, const LayoutHints& hints) {
    if (!seen.ambiguous()) return {};
    for (const TimeForm form : {TimeForm::DayFirst, TimeForm::MonthFirst})
        if (const TimeFormat format{form, {}}; timeFormatName(format) == hints.dateOrder) return format;
    return {};
}

std::string timeQuestion(const std::string& file, const TimeFormEvidence& seen) {
    return fmt::format(
        "{}: times like `{}` can be read day first or month first; say which (Times, or --time-format "
        "day-first or month-first)",
        file, seen.example());
}

Status checkEnd(const std::string& name, std::string_view text, char separator, std::size_t fields) {
    if (text.empty() || text.back() == '\n') return Done{};
    const std::size_t start = text.rfind('\n') + 1;
    RowReader last(text.substr(start), separator);
    if (last.next() && (*last.trouble() || last.fields().size() < fields))
        return Error{fmt::format(
            "{} stops in the middle of its last row (`{}`): it was cut off. Nothing of it was imported", name,
            asUtf8(last.raw(), 60))};
    return Done{};
}

Result<TextHead> readHead(const std::string& name, const TextParts& parts, const LayoutHints& hints,
                          std::size_t rows, NoRows noRows) {
    if (const Status text = checkIsText(name, parts.start); !text) return text.error();
    TextHead head;
    const auto separator = separatorOf(parts.start, hints);
    if (!separator) return separator.error();
    head.separator = *separator;
    RowReader reader(parts.start, head.separator);
    while (head.rows.size() < rows && reader.next()) {
        std::vector<std::string> row(reader.fields().begin(), reader.fields().end());
        if (!head.header.empty()) {
            head.rows.push_back(std::move(row));
            continue;
        }
        if (*reader.trouble())
            return Error{fmt::format("{}: the header cannot be read: {}", name, reader.trouble())};
        for (std::string& h : row) h = trimmed(h);
        head.header = std::move(row);
        if (const Status good = checkHeader(name, head.header); !good) return good.error();
    }
    if (head.rows.empty() && noRows == NoRows::Refused)
        return Error{fmt::format("{} has a header and no rows", name)};
    const std::string_view last = parts.whole ? parts.start : parts.end;
    if (const Status end = checkEnd(name, last, head.separator, head.header.size()); !end) return end.error();
    return head;
}

Result<TextLayout> guessLayout(const TextSource& source, const LayoutHints& hints) {
    const auto parts = partsOf(source, hints);
    if (!parts) return parts.error();
    return guessLayout(source.name, *parts, hints);
}

Result<TextLayout> guessLayout(const std::string& name, const TextParts& parts, const LayoutHints& hints) {
    auto head = readHead(name, parts, hints, kHeadRows);
    if (!head) return head.error();
    TextLayout layout;
    layout.coding = parts.coding;
    layout.titleLines = parts.titleLines;
    layout.separator = head->separator;
    if (!hints.names.isEmpty()) {
        const auto names = NameMapping::from(hints.names);
        if (!names) return names.error();
        layout.names = *names;
    }
    layout.noValue = textsIn(hints.noValue.empty() ? kNoValueTexts : hints.noValue);
    if (const Status time = findTimeColumns(name, *head, hints, layout); !time) return time.error();
    if (const Status format = findTimeFormat(name, parts, *head, hints, layout); !format)
        return format.error();
    if (const Status signs = findSigns(name, parts, *head, hints, layout); !signs) return signs.error();
    const bool looksLong = indexOf(head->header, "tag") >= 0 && indexOf(head->header, "value") >= 0;
    layout.longForm =
        hints.longForm.value_or(looksLong || !hints.tagColumn.empty() || !hints.valueColumn.empty());
    const Status filled =
        layout.longForm ? fillLong(name, *head, hints, layout) : fillWide(name, *head, hints, layout);
    if (!filled) return filled.error();
    return layout;
}

LayoutColumn columnFromHeader(const std::string& header, const std::string& otherwise,
                              const NameMapping* names) {
    LayoutColumn out;
    out.header = header;
    if (!names) {
        out.name = cutAtFirstSlash(header, otherwise);
        return out;
    }
    const auto mapped = names->map(header, otherwise);
    if (mapped)
        out.name = *mapped;
    else
        out.trouble = mapped.error().message;
    return out;
}

}  // namespace jacinth
