#include "source/time_reader.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <vector>

#include "source/row_reader.h"

namespace jacinth {
namespace {

/// Takes up to `most` digits; how many, or 0.
int takeNumber(std::string_view& text, int most, int& value) {
    int digits = 0;
    value = 0;
    while (digits < most && !text.empty() && text.front() >= '0' && text.front() <= '9') {
        value = value * 10 + (text.front() - '0');
        text.remove_prefix(1);
        ++digits;
    }
    return digits;
}

bool takeOneOf(std::string_view& text, std::string_view any, char* found = nullptr) {
    if (text.empty() || any.find(text.front()) == std::string_view::npos) return false;
    if (found) *found = text.front();
    text.remove_prefix(1);
    return true;
}

bool takeDate(std::string_view& text, DateOrder order, WallTime& wall) {
    std::array<int, 3> part{};
    char first = 0, second = 0;
    const int digits = takeNumber(text, 4, part[0]);
    if (digits == 0 || !takeOneOf(text, "-./", &first) || !takeNumber(text, 2, part[1]) ||
        !takeOneOf(text, "-./", &second) || first != second)
        return false;
    const int last = takeNumber(text, 4, part[2]);
    if (order == DateOrder::YearFirst) {
        if (digits != 4 || last == 0 || last > 2) return false;
        wall.year = part[0], wall.month = part[1], wall.day = part[2];
        return true;
    }
    if (last != 4 || digits > 2) return false;
    wall.year = part[2];
    wall.day = order == DateOrder::DayFirst ? part[0] : part[1];
    wall.month = order == DateOrder::DayFirst ? part[1] : part[0];
    return true;
}

bool takeFraction(std::string_view& text, Duration& fraction) {
    Duration unit = kSecond / 10;
    if (text.empty() || text.front() < '0' || text.front() > '9') return false;
    for (; !text.empty() && text.front() >= '0' && text.front() <= '9'; text.remove_prefix(1), unit /= 10)
        fraction += (text.front() - '0') * unit;
    return true;
}

bool takeClock(std::string_view& text, WallTime& wall) {
    if (!takeNumber(text, 2, wall.hour) || !takeOneOf(text, ":") || !takeNumber(text, 2, wall.minute))
        return false;
    if (!takeOneOf(text, ":")) return true;
    if (!takeNumber(text, 2, wall.second)) return false;
    return !takeOneOf(text, ".,") || takeFraction(text, wall.fraction);
}

bool takeOffset(std::string_view text, std::optional<Duration>& offset) {
    text = trimmed(text);
    if (text.empty()) return true;
    if (text == "Z" || text == "z") {
        offset = 0;
        return true;
    }
    char sign = 0;
    int hours = 0, minutes = 0;
    if (!takeOneOf(text, "+-", &sign) || takeNumber(text, 2, hours) != 2) return false;
    takeOneOf(text, ":");
    if (!text.empty() && takeNumber(text, 2, minutes) != 2) return false;
    if (!text.empty() || hours > 18 || minutes > 59) return false;
    offset = (sign == '-' ? -1 : 1) * (hours * kHour + minutes * kMinute);
    return true;
}

}  // namespace

const char* dateOrderName(DateOrder order) {
    switch (order) {
        case DateOrder::YearFirst:
            return "year first";
        case DateOrder::DayFirst:
            return "day first";
        case DateOrder::MonthFirst:
            return "month first";
    }
    return "";
}

std::optional<TimeParts> takeTimeApart(std::string_view text, DateOrder order) {
    text = trimmed(text);
    TimeParts parts;
    if (!takeDate(text, order, parts.wall)) return {};
    if (!text.empty()) {
        if (!takeOneOf(text, "T t")) return {};
        while (takeOneOf(text, " ")) {
        }
        if (!takeClock(text, parts.wall) || !takeOffset(text, parts.offset)) return {};
    }
    if (!parts.wall.valid()) return {};
    return parts;
}

/// The form nearly every row has, 2026-03-01 12:00:00 with a fraction or a Z or neither, without taking the
/// date apart anew for every row. Anything else is left to takeTimeApart.
std::optional<Instant> TimeReader::readUsual(std::string_view text) {
    if (order_ != DateOrder::YearFirst || text.size() < 19 || text.size() > 30 || text[4] != '-' ||
        (text[10] != ' ' && text[10] != 'T') || text[13] != ':' || text[16] != ':')
        return {};
    const auto two = [&](std::size_t at) {
        const int a = text[at] - '0', b = text[at + 1] - '0';
        return a < 0 || a > 9 || b < 0 || b > 9 ? -1 : a * 10 + b;
    };
    const int hour = two(11), minute = two(14), second = two(17);
    if (hour < 0 || hour > 23 || minute < 0 || minute > 59 || second < 0 || second > 59) return {};
    if (day_ != text.substr(0, 10)) {
        const auto parts = takeTimeApart(text.substr(0, 10), order_);
        if (!parts) return {};
        day_ = text.substr(0, 10);
        dayStart_ = parts->wall.localNanoseconds();
    }
    std::string_view rest = text.substr(19);
    Duration fraction = 0;
    if (!rest.empty() && rest.front() == '.') {
        rest.remove_prefix(1);
        if (!takeFraction(rest, fraction)) return {};
    }
    const bool utc = rest == "Z";
    if (!rest.empty() && !utc) return {};
    const std::int64_t local = dayStart_ + hour * kHour + minute * kMinute + second * kSecond + fraction;
    if (utc) {
        sawOffset_ = true;
        return local;
    }
    return zone_.instantWellInside(local);
}

Result<Instant> TimeReader::read(std::string_view text) {
    if (const auto usual = readUsual(text)) return last_ = *usual;
    const auto parts = takeTimeApart(text, order_);
    if (!parts) return Error{fmt::format("`{}` is no time ({})", text.substr(0, 60), dateOrderName(order_))};
    if (parts->offset) {
        sawOffset_ = true;
        return last_ = parts->wall.localNanoseconds() - *parts->offset;
    }
    const WallInstant at = zone_.instant(parts->wall);
    if (at.kind == WallKind::Skipped)
        return Error{fmt::format("time {} does not exist in {}", trimmed(text), zone_.name())};
    if (at.kind == WallKind::Twice) {
        ++twice_;
        if (last_ != kNoInstant && last_ > at.instant && last_ <= at.second) return last_ = at.second;
    }
    return last_ = at.instant;
}

std::optional<DateOrder> guessDateOrder(const std::vector<std::string_view>& texts) {
    for (const DateOrder order : {DateOrder::YearFirst, DateOrder::DayFirst, DateOrder::MonthFirst}) {
        const bool fits = !texts.empty() && std::all_of(texts.begin(), texts.end(), [&](std::string_view t) {
            return takeTimeApart(t, order).has_value();
        });
        if (fits) return order;
    }
    return {};
}

}  // namespace jacinth
