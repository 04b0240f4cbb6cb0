#include "source/time_columns.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>

#include "core/base/text.h"

namespace jacinth {
namespace {

bool namesTime(const std::string& header) {
    static const std::array<const char*, 8> names{"time",      "timestamp", "date",       "datetime",
                                                  "date time", "date/time", "time stamp", "utc"};
    const std::string lower = lowerCase(trimmed(header));
    return std::find(names.begin(), names.end(), lower) != names.end();
}

Result<int> columnNamed(const std::string& file, const TextHead& head, std::string_view name) {
    const int at = indexOf(head.header, name);
    if (at < 0)
        return Error{
            fmt::format("{} has no column `{}`; it has {}", file, name, fmt::join(head.header, ", "))};
    return at;
}

bool mostAreClocks(const TextHead& head, int column) {
    const auto cells = cellsOfColumn(head, column);
    const auto clocks =
        std::count_if(cells.begin(), cells.end(), [](std::string_view c) { return isClock(c); });
    return clocks * 2 > static_cast<std::ptrdiff_t>(cells.size());
}

bool holdsTimes(const TextHead& head, int column) {
    const TimeFormEvidence seen = evidenceOf(head, column);
    return seen.mostAreTimes();
}

/// In full and in short; a short one counts after the parts before it only, as `min` may be a least value.
constexpr std::array<std::array<const char*, 3>, 6> kPartNames{{{"year", "yr", "yyyy"},
                                                                {"month", "mon", "mm"},
                                                                {"day", "dd", "dy"},
                                                                {"hour", "hr", "hh"},
                                                                {"minute", "min", "mi"},
                                                                {"second", "sec", "ss"}}};

/// `Year+Month+Day`, in this order; the last may be a time of day.
Status takeDateParts(const std::string& file, const TextHead& head, const std::vector<std::string>& names,
                     TextLayout& layout) {
    for (std::size_t i = 0; i < names.size(); ++i) {
        const auto at = columnNamed(file, head, names[i]);
        if (!at) return at.error();
        const bool clock = i + 1 == names.size() && mostAreClocks(head, *at);
        if (!clock && i >= layout.dateParts.size())
            return Error{
                fmt::format("{}: a time has a year, month, day, hour, minute and second at most", file)};
        (clock ? layout.clockColumn : layout.dateParts[i]) = *at;
    }
    layout.timeColumn = layout.dateParts[0];
    return Done{};
}

/// Columns called year and month, and those that go on from there.
bool findDateParts(const TextHead& head, TextLayout& layout) {
    std::array<int, 6> found{};
    for (std::size_t i = 0; i < found.size(); ++i) {
        found[i] = -1;
        if (i > 0 && found[i - 1] < 0) continue;
        for (const char* name : kPartNames[i])
            if (found[i] < 0) found[i] = indexOf(head.header, name);
    }
    if (found[0] < 0 || found[1] < 0) return false;
    layout.dateParts = found;
    layout.timeColumn = found[0];
    for (std::size_t i = 0; i < head.header.size() && found[2] >= 0 && found[3] < 0; ++i)
        if (mostAreClocks(head, static_cast<int>(i))) layout.clockColumn = static_cast<int>(i);
    return true;
}

}  // namespace

int indexOf(const std::vector<std::string>& header, std::string_view name) {
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

TimeFormEvidence evidenceOf(const TextHead& head, int column) {
    TimeFormEvidence out;
    for (const std::string_view cell : cellsOfColumn(head, column)) out.add(cell, 0);
    return out;
}

bool isYearAlone(const TextHead& head, int column) {
    const auto cells = cellsOfColumn(head, column);
    return lowerCase(head.header[static_cast<std::size_t>(column)]) == "year" && !cells.empty() &&
           std::all_of(cells.begin(), cells.end(), [](std::string_view c) {
               return trimmed(c).size() == 4 && trimmed(c) >= "1800" && trimmed(c) <= "2199";
           });
}

/// Time in one column, or a date in one and a time of day in another, or the parts of a date in several.
Status findTimeColumns(const std::string& file, const TextHead& head, const LayoutHints& hints,
                       TextLayout& layout) {
    if (!hints.timeColumn.empty() && indexOf(head.header, hints.timeColumn) < 0) {
        const std::size_t plus = hints.timeColumn.find('+');
        std::vector<std::string> names;
        for (std::size_t at = 0; at <= hints.timeColumn.size();) {
            const std::size_t end = std::min(hints.timeColumn.find('+', at), hints.timeColumn.size());
            names.emplace_back(trimmed(std::string_view(hints.timeColumn).substr(at, end - at)));
            at = end + 1;
        }
        const bool secondIsClock = names.size() == 2 && indexOf(head.header, names[1]) >= 0 &&
                                   mostAreClocks(head, indexOf(head.header, names[1]));
        if (names.size() > 2 || (names.size() == 2 && lowerCase(names[0]) == "year" && !secondIsClock))
            return takeDateParts(file, head, names, layout);
        if (plus != std::string::npos) {
            const auto date =
                columnNamed(file, head, trimmed(std::string_view(hints.timeColumn).substr(0, plus)));
            if (!date) return date.error();
            const auto clock =
                columnNamed(file, head, trimmed(std::string_view(hints.timeColumn).substr(plus + 1)));
            if (!clock) return clock.error();
            layout.timeColumn = *date;
            layout.clockColumn = *clock;
            return Done{};
        }
    }
    if (!hints.timeColumn.empty()) {
        const auto at = columnNamed(file, head, hints.timeColumn);
        if (!at) return at.error();
        layout.timeColumn = *at;
        return Done{};
    }
    const auto columns = static_cast<int>(head.header.size());
    layout.timeColumn = -1;
    for (int i = 0; i < columns && layout.timeColumn < 0; ++i)
        if (namesTime(head.header[static_cast<std::size_t>(i)]) && !mostAreClocks(head, i))
            layout.timeColumn = i;
    for (int i = 0; i < columns && layout.timeColumn < 0; ++i)
        if (holdsTimes(head, i) && !readNumber(trimmed(cellsOfColumn(head, i).front()), false))
            layout.timeColumn = i;
    if (layout.timeColumn < 0 && findDateParts(head, layout)) return Done{};
    for (int i = 0; i < columns && layout.timeColumn < 0; ++i)
        if (isYearAlone(head, i)) layout.timeColumn = i;
    if (layout.timeColumn < 0)
        return Error{
            fmt::format("{} has no time column: no header says time, and no column holds times. Name it "
                        "(Columns: time, or "
                        "--time)",
                        file)};
    // A date alone beside a column of times of day: the two are one time.
    const auto dates = cellsOfColumn(head, layout.timeColumn);
    const bool datesAlone = !dates.empty() && std::all_of(dates.begin(), dates.end(), [](std::string_view c) {
        return c.find(':') == std::string_view::npos;
    });
    for (int i = 0; i < columns && datesAlone && layout.clockColumn < 0; ++i)
        if (i != layout.timeColumn &&
            lowerCase(head.header[static_cast<std::size_t>(i)]).find('/') == std::string::npos &&
            mostAreClocks(head, i))
            layout.clockColumn = i;
    return Done{};
}

bool TextLayout::isOfTime(int column) const {
    return column == timeColumn || column == clockColumn ||
           (hasDateParts() && std::find(dateParts.begin(), dateParts.end(), column) != dateParts.end());
}

std::string TextLayout::joinedTime(const std::vector<std::string_view>& fields) const {
    const auto field = [&](int column) {
        return column < 0 ? std::string_view() : trimmed(fields[static_cast<std::size_t>(column)]);
    };
    std::string out;
    if (hasDateParts()) {
        const std::string_view day = dateParts[2] < 0 ? "1" : field(dateParts[2]);
        out = fmt::format("{}-{:0>2}-{:0>2}", field(dateParts[0]), field(dateParts[1]), day);
        if (dateParts[3] >= 0)
            out += fmt::format(" {:0>2}:{:0>2}:{:0>2}", field(dateParts[3]), field(dateParts[4]),
                               field(dateParts[5]));
    } else {
        out = std::string(field(timeColumn));
    }
    if (clockColumn >= 0) out += fmt::format(" {}", field(clockColumn));
    return out;
}

}  // namespace jacinth
