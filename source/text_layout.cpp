#include "source/text_layout.h"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

namespace jacinth {
namespace {

constexpr std::size_t kHeadRows = 2000;

std::size_t countOutsideQuotes(std::string_view line, char c) {
    bool quoted = false;
    std::size_t n = 0;
    for (const char x : line) {
        if (x == '"') quoted = !quoted;
        n += !quoted && x == c;
    }
    return n;
}

/// The separator that cuts the header into most fields and the rows below into the same number.
char guessSeparator(std::string_view text) {
    const std::string_view header = text.substr(0, text.find('\n'));
    char best = ',';
    std::size_t most = 0;
    for (const char c : {';', '\t', ','}) {
        const std::size_t n = countOutsideQuotes(header, c);
        if (n > most) {
            most = n;
            best = c;
        }
    }
    return best;
}

Status checkIsText(const TextSource& source) {
    const std::string_view head = source.text.substr(0, 65536);
    if (trimmed(withoutMark(head)).empty()) return Error{fmt::format("{} is empty", source.name)};
    if (std::memchr(head.data(), 0, head.size()))
        return Error{fmt::format("{} is no text: it holds binary data", source.name)};
    const auto odd =
        std::count_if(head.begin(), head.end(), [](unsigned char c) { return c < 0x20 && !std::isspace(c); });
    if (odd * 100 > static_cast<std::ptrdiff_t>(head.size()))
        return Error{fmt::format("{} is no text: it holds binary data", source.name)};
    return Done{};
}

bool namesTime(const std::string& header) {
    static const std::array<const char*, 8> names{"time",      "timestamp", "date",       "datetime",
                                                  "date time", "date/time", "time stamp", "utc"};
    const std::string lower = lowerCase(trimmed(header));
    return std::find(names.begin(), names.end(), lower) != names.end();
}

int indexOf(const std::vector<std::string>& header, const std::string& name) {
    for (std::size_t i = 0; i < header.size(); ++i)
        if (header[i] == name || lowerCase(header[i]) == lowerCase(name)) return static_cast<int>(i);
    return -1;
}

std::vector<std::string_view> cellsOfColumn(const TextHead& head, int column) {
    std::vector<std::string_view> out;
    for (const auto& row : head.rows)
        if (static_cast<std::size_t>(column) < row.size() && !trimmed(row[column]).empty())
            out.push_back(row[column]);
    return out;
}

/// Most cells of the column are times of one order: that order. A few slips do not matter here; they become
/// bad rows.
std::optional<DateOrder> orderOfColumn(const TextHead& head, int column) {
    const auto cells = cellsOfColumn(head, column);
    if (cells.empty()) return {};
    if (const auto all = guessDateOrder(cells)) return all;
    for (const DateOrder order : {DateOrder::YearFirst, DateOrder::DayFirst, DateOrder::MonthFirst}) {
        const auto fits = std::count_if(cells.begin(), cells.end(), [&](std::string_view c) {
            return takeTimeApart(c, order).has_value();
        });
        if (fits * 2 > static_cast<std::ptrdiff_t>(cells.size())) return order;
    }
    return {};
}

Result<int> findTimeColumn(const TextSource& source, const TextHead& head, const LayoutHints& hints) {
    if (!hints.timeColumn.empty()) {
        const int at = indexOf(head.header, hints.timeColumn);
        if (at < 0)
            return Error{fmt::format("{} has no column `{}`; it has {}", source.name, hints.timeColumn,
                                     fmt::join(head.header, ", "))};
        return at;
    }
    for (std::size_t i = 0; i < head.header.size(); ++i)
        if (namesTime(head.header[i])) return static_cast<int>(i);
    for (std::size_t i = 0; i < head.header.size(); ++i)
        if (orderOfColumn(head, static_cast<int>(i))) return static_cast<int>(i);
    return Error{
        fmt::format("{} has no time column: no header says time, and no column holds times", source.name)};
}

/// A comma stands for the decimal point where cells read as numbers only that way.
bool guessDecimalComma(const TextHead& head, int timeColumn) {
    int commas = 0, points = 0;
    for (const auto& row : head.rows)
        for (std::size_t i = 0; i < row.size(); ++i) {
            if (static_cast<int>(i) == timeColumn) continue;
            const std::string_view cell = trimmed(row[i]);
            if (cell.find(',') != std::string_view::npos && readNumber(cell, true)) ++commas;
            if (cell.find('.') != std::string_view::npos && readNumber(cell, false)) ++points;
        }
    return commas > points;
}

bool holdsStates(const TextHead& head, int column, bool decimalComma) {
    const auto cells = cellsOfColumn(head, column);
    const auto texts = std::count_if(cells.begin(), cells.end(), [&](std::string_view c) {
        return !readNumber(trimmed(c), decimalComma);
    });
    return texts * 2 > static_cast<std::ptrdiff_t>(cells.size());
}

Status fillLong(const TextSource& source, const TextHead& head, const LayoutHints& hints,
                TextLayout& layout) {
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
        return Error{fmt::format("{} has no column for the {}; it has {}", source.name,
                                 layout.tagColumn < 0 ? "tag" : "value", fmt::join(head.header, ", "))};
    if (!hints.qualityColumn.empty() && layout.qualityColumn < 0)
        return Error{fmt::format("{} has no column `{}`", source.name, hints.qualityColumn)};
    return Done{};
}

Status fillWide(const TextSource& source, const TextHead& head, const LayoutHints& hints,
                TextLayout& layout) {
    for (std::size_t i = 0; i < head.header.size(); ++i) {
        LayoutColumn column = columnFromHeader(head.header[i], hints.asset);
        if (static_cast<int>(i) != layout.timeColumn) {
            if (column.asset.empty())
                return Error{fmt::format(
                    "{}: the header `{}` names no asset; write it like `Kiln 3/Air-off temp`, or say "
                    "the asset of the whole file",
                    source.name, head.header[i])};
            if (column.tag.empty())
                return Error{fmt::format("{}: column {} has no name", source.name, i + 1)};
            column.states = holdsStates(head, static_cast<int>(i), layout.decimalComma);
        }
        layout.columns.push_back(std::move(column));
    }
    if (layout.columns.size() < 2)
        return Error{fmt::format("{} has a time column and no other", source.name)};
    return Done{};
}

}  // namespace

Status checkEnd(const TextSource& source, char separator, std::size_t fields) {
    const std::string_view text = source.text;
    if (text.empty() || text.back() == '\n') return Done{};
    const std::size_t start = text.rfind('\n') + 1;
    RowReader last(text.substr(start), separator);
    if (last.next() && (last.openQuote() || last.fields().size() < fields))
        return Error{
            fmt::format("{} stops in the middle of its last row (`{}`): it was cut off. Nothing was imported",
                        source.name, last.raw().substr(0, 60))};
    return Done{};
}

Result<TextHead> readHead(const TextSource& source, std::size_t rows) {
    if (const Status text = checkIsText(source); !text) return text.error();
    const std::string_view body = withoutMark(source.text);
    TextHead head;
    head.separator = guessSeparator(body);
    RowReader reader(body, head.separator);
    while (head.rows.size() < rows && reader.next()) {
        std::vector<std::string> row(reader.fields().begin(), reader.fields().end());
        if (head.header.empty()) {
            for (std::string& h : row) h = trimmed(h);
            head.header = std::move(row);
        } else {
            head.rows.push_back(std::move(row));
        }
    }
    if (head.rows.empty()) return Error{fmt::format("{} has a header and no rows", source.name)};
    if (const Status end = checkEnd({source.name, body}, head.separator, head.header.size()); !end)
        return end.error();
    return head;
}

Result<TextLayout> guessLayout(const TextSource& source, const LayoutHints& hints) {
    const auto head = readHead(source, kHeadRows);
    if (!head) return head.error();
    TextLayout layout;
    layout.separator = head->separator;
    const auto time = findTimeColumn(source, *head, hints);
    if (!time) return time.error();
    layout.timeColumn = *time;
    const auto order = orderOfColumn(*head, layout.timeColumn);
    if (!order)
        return Error{
            fmt::format("{}: column `{}` holds no times that can be read (`{}`); year first or day first can",
                        source.name, head->header[layout.timeColumn],
                        head->rows[0].size() > static_cast<std::size_t>(layout.timeColumn)
                            ? head->rows[0][layout.timeColumn]
                            : "")};
    layout.dateOrder = *order;
    layout.decimalComma = guessDecimalComma(*head, layout.timeColumn);
    const bool looksLong = indexOf(head->header, "tag") >= 0 && indexOf(head->header, "value") >= 0;
    layout.longForm =
        hints.longForm.value_or(looksLong || !hints.tagColumn.empty() || !hints.valueColumn.empty());
    const Status filled =
        layout.longForm ? fillLong(source, *head, hints, layout) : fillWide(source, *head, hints, layout);
    if (!filled) return filled.error();
    if (layout.longForm)
        for (const std::string& h : head->header) layout.columns.push_back({h, "", "", "", false});
    return layout;
}

LayoutColumn columnFromHeader(const std::string& header, const std::string& otherwise) {
    LayoutColumn out;
    out.header = header;
    std::string name(trimmed(header));
    if (!name.empty() && name.back() == ']') {
        const std::size_t open = name.rfind('[');
        if (open != std::string::npos) {
            out.unit = trimmed(std::string_view(name).substr(open + 1, name.size() - open - 2));
            name = std::string(trimmed(std::string_view(name).substr(0, open)));
        }
    }
    const std::size_t slash = name.find('/');
    out.asset = slash == std::string::npos ? otherwise
                                           : std::string(trimmed(std::string_view(name).substr(0, slash)));
    out.tag =
        slash == std::string::npos ? name : std::string(trimmed(std::string_view(name).substr(slash + 1)));
    return out;
}

/// Up to 15 digits with a point: both parts of the quotient are exact, so their quotient is the nearest
/// double (Clinger 1990). None where the field is written otherwise.
std::optional<double> readPlainNumber(std::string_view field, char point) {
    static constexpr std::array<double, 16> kTens{1,   1e1, 1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                                  1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15};
    std::size_t i = field[0] == '-';
    const std::size_t start = i;
    std::size_t points = 0, decimals = 0;
    std::uint64_t digits = 0;
    if (field.size() - i > 16) return {};
    for (; i < field.size(); ++i) {
        const char c = field[i];
        if (c >= '0' && c <= '9') {
            digits = digits * 10 + static_cast<std::uint64_t>(c - '0');
            decimals += points;
        } else if (c == point && points == 0 && i > start) {
            points = 1;
        } else {
            return {};
        }
    }
    if (i - start - points == 0 || i - start - points > 15) return {};
    const double value = static_cast<double>(digits) / kTens[decimals];
    return start ? -value : value;
}

std::optional<double> readNumber(std::string_view field, bool decimalComma) {
    if (field.empty() || field.size() > 64) return {};
    if (const auto plain = readPlainNumber(field, decimalComma ? ',' : '.')) return plain;
    std::array<char, 64> copy;
    const char* begin = field.data();
    if (decimalComma && std::memchr(field.data(), ',', field.size())) {
        std::replace_copy(field.begin(), field.end(), copy.begin(), ',', '.');
        begin = copy.data();
    }
    if (*begin == '+') ++begin;
    const char* end =
        (begin >= copy.data() && begin <= copy.data() + 1 ? copy.data() : field.data()) + field.size();
    double value = 0;
    const auto result = fast_float::from_chars(begin, end, value);
    if (result.ec != std::errc() || result.ptr != end || !std::isfinite(value)) return {};
    return value;
}

}  // namespace jacinth
