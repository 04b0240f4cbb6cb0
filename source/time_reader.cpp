#include "source/time_reader.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/text.h"

namespace jacinth {
namespace {

struct NamedForm {
    TimeForm form;
    const char* name;
    const char* words;
};
constexpr std::array<NamedForm, 7> kForms{
    {{TimeForm::YearFirst, "year-first", "year first"},
     {TimeForm::DayFirst, "day-first", "day first"},
     {TimeForm::MonthFirst, "month-first", "month first"},
     {TimeForm::EpochSeconds, "epoch-s", "seconds since 1970"},
     {TimeForm::EpochMilliseconds, "epoch-ms", "milliseconds since 1970"},
     {TimeForm::EpochMicroseconds, "epoch-us", "microseconds since 1970"},
     {TimeForm::EpochNanoseconds, "epoch-ns", "nanoseconds since 1970"}}};

constexpr std::array<TimeForm, 4> kEpochForms{TimeForm::EpochSeconds, TimeForm::EpochMilliseconds,
                                              TimeForm::EpochMicroseconds, TimeForm::EpochNanoseconds};
constexpr std::array<std::int64_t, 4> kEpochUnits{1'000'000'000, 1'000'000, 1000, 1};  ///< in ns

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

void takeBlanks(std::string_view& text) {
    while (takeOneOf(text, " ")) {
    }
}

bool takeDate(std::string_view& text, TimeForm form, WallTime& wall) {
    std::array<int, 3> part{};
    char first = 0, second = 0;
    const int digits = takeNumber(text, 4, part[0]);
    if (digits == 0 || !takeOneOf(text, "-./", &first) || !takeNumber(text, 2, part[1]) ||
        !takeOneOf(text, "-./", &second) || first != second)
        return false;
    const int last = takeNumber(text, 4, part[2]);
    if (form == TimeForm::YearFirst) {
        if (digits != 4 || last == 0 || last > 2) return false;
        wall.year = part[0], wall.month = part[1], wall.day = part[2];
        return true;
    }
    if (last != 4 || digits > 2) return false;
    wall.year = part[2];
    wall.day = form == TimeForm::DayFirst ? part[0] : part[1];
    wall.month = form == TimeForm::DayFirst ? part[1] : part[0];
    return true;
}

std::size_t digitsAhead(std::string_view text) {
    return std::min(text.find_first_not_of("0123456789"), text.size());
}

/// `20260329`, alone or before a time of day: eight digits, or fourteen with a clock to the second. Twelve
/// would be milliseconds since 1970 as well. The years are those that records are of, so that counts and
/// numbers of parts are rarely taken for days.
bool takeCompactDate(std::string_view& text, WallTime& wall) {
    const std::size_t digits = digitsAhead(text);
    if (digits != 8 && digits != 14) return false;
    std::string_view rest = text;
    takeNumber(rest, 4, wall.year), takeNumber(rest, 2, wall.month), takeNumber(rest, 2, wall.day);
    if (wall.year < 1970 || wall.year > 2099 || !wall.valid()) return false;
    text = rest;
    return true;
}

bool takeFraction(std::string_view& text, Duration& fraction) {
    Duration unit = kSecond / 10;
    if (text.empty() || text.front() < '0' || text.front() > '9') return false;
    for (; !text.empty() && text.front() >= '0' && text.front() <= '9'; text.remove_prefix(1), unit /= 10)
        fraction += (text.front() - '0') * unit;
    return true;
}

/// `AM` and `PM` behind a clock of twelve hours; a clock without them stays as it is.
bool takeHalfOfDay(std::string_view& text, WallTime& wall) {
    std::string_view rest = text;
    takeBlanks(rest);
    const std::string half = lowerCase(rest.substr(0, 2));
    if (half != "am" && half != "pm") return true;
    if (wall.hour < 1 || wall.hour > 12) return false;
    wall.hour = wall.hour % 12 + (half == "pm" ? 12 : 0);
    text = rest.substr(2);
    return true;
}

bool takeClock(std::string_view& text, WallTime& wall) {
    if (!takeNumber(text, 2, wall.hour) || !takeOneOf(text, ":") || !takeNumber(text, 2, wall.minute))
        return false;
    if (takeOneOf(text, ":")) {
        if (!takeNumber(text, 2, wall.second)) return false;
        if (takeOneOf(text, ".,") && !takeFraction(text, wall.fraction)) return false;
    }
    return takeHalfOfDay(text, wall);
}

/// `0230` or `023015`, with a fraction behind the seconds.
bool takeCompactClock(std::string_view& text, WallTime& wall) {
    const std::size_t digits = digitsAhead(text);
    if (digits != 4 && digits != 6) return false;
    takeNumber(text, 2, wall.hour), takeNumber(text, 2, wall.minute);
    if (digits == 4) return true;
    takeNumber(text, 2, wall.second);
    return !takeOneOf(text, ".,") || takeFraction(text, wall.fraction);
}

bool takeOffset(std::string_view text, std::optional<Duration>& offset) {
    text = trimmed(text);
    if (text.empty()) return true;
    if (text == "Z" || text == "z" || text == "UTC") {
        offset = Duration{};
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

bool takeMonthName(std::string_view& text, int& month) {
    static constexpr std::array<const char*, 12> kMonths{"jan", "feb", "mar", "apr", "may", "jun",
                                                         "jul", "aug", "sep", "oct", "nov", "dec"};
    const std::string name = lowerCase(text.substr(0, 3));
    const auto found = std::find(kMonths.begin(), kMonths.end(), name);
    if (found == kMonths.end()) return false;
    month = static_cast<int>(found - kMonths.begin()) + 1;
    text.remove_prefix(3);
    return true;
}

/// One letter of a pattern.
bool takeByLetter(std::string_view& text, char letter, TimeParts& parts) {
    WallTime& w = parts.wall;
    switch (letter) {
        case 'Y':
            return takeNumber(text, 4, w.year) == 4;
        case 'y':
            if (takeNumber(text, 2, w.year) != 2) return false;
            w.year += w.year < 70 ? 2000 : 1900;
            return true;
        case 'm':
            return takeNumber(text, 2, w.month) > 0;
        case 'b':
            return takeMonthName(text, w.month);
        case 'd':
            return takeNumber(text, 2, w.day) > 0;
        case 'H':
        case 'I':
            return takeNumber(text, 2, w.hour) > 0;
        case 'M':
            return takeNumber(text, 2, w.minute) > 0;
        case 'S':
            return takeNumber(text, 2, w.second) > 0;
        case 'f':
            return takeFraction(text, w.fraction);
        case 'p': {
            const std::string half = lowerCase(text.substr(0, 2));
            return (half == "am" || half == "pm") && takeHalfOfDay(text, w);
        }
        case 'z': {
            const bool good = takeOffset(text, parts.offset);
            text = {};
            return good;
        }
        default:
            return letter == '%' && takeOneOf(text, "%");
    }
}

std::optional<TimeParts> takeByPattern(std::string_view text, std::string_view pattern) {
    TimeParts parts;
    parts.wall.year = 1970, parts.wall.month = 1, parts.wall.day = 1;
    while (!pattern.empty()) {
        if (pattern.front() == '%' && pattern.size() > 1) {
            if (!takeByLetter(text, pattern[1], parts)) return {};
            pattern.remove_prefix(2);
        } else {
            if (!takeOneOf(text, pattern.substr(0, 1))) return {};
            pattern.remove_prefix(1);
        }
    }
    if (!text.empty() || !parts.wall.valid()) return {};
    return parts;
}

/// Whole units and decimals of one, exact: a double has too few digits for nanoseconds.
std::optional<Instant> readCount(std::string_view text, std::int64_t unit) {
    const bool minus = !text.empty() && text.front() == '-';
    if (minus) text.remove_prefix(1);
    std::int64_t whole = 0;
    std::size_t digits = 0;
    while (digits < text.size() && text[digits] >= '0' && text[digits] <= '9' && digits < 19)
        whole = whole * 10 + (text[digits++] - '0');
    if (digits == 0 || digits >= 19) {
        if (digits != 19 || unit != 1) return {};
    }
    if (whole < 0 || whole > std::numeric_limits<std::int64_t>::max() / unit - 1) return {};
    std::int64_t t = whole * unit;
    text.remove_prefix(digits);
    if (!text.empty()) {
        if (text.front() != '.' && text.front() != ',') return {};
        text.remove_prefix(1);
        if (text.empty()) return {};
        for (std::int64_t place = unit / 10; !text.empty(); text.remove_prefix(1), place /= 10) {
            if (text.front() < '0' || text.front() > '9') return {};
            t += (text.front() - '0') * place;
        }
    }
    return fromEpochNanoseconds(minus ? -t : t);
}

}  // namespace

std::string timeFormatName(const TimeFormat& format) {
    for (const NamedForm& f : kForms)
        if (f.form == format.form) return f.name;
    return format.pattern;
}

std::string sayTimeFormat(const TimeFormat& format) {
    for (const NamedForm& f : kForms)
        if (f.form == format.form) return f.words;
    return format.pattern;
}

Result<TimeFormat> timeFormatNamed(const std::string& text) {
    for (const NamedForm& f : kForms)
        if (text == f.name || text == f.words) return TimeFormat{f.form, {}};
    if (text.find('%') == std::string::npos) {
        std::vector<const char*> names;
        for (const NamedForm& f : kForms) names.push_back(f.name);
        return Error{fmt::format("`{}` is not a time format; {} are, or a pattern like %d/%m/%Y %H:%M", text,
                                 fmt::join(names, ", "))};
    }
    for (std::size_t i = 0; i + 1 < text.size(); ++i)
        if (text[i] == '%' && std::string_view("YymdbHIMSfpz%").find(text[++i]) == std::string_view::npos)
            return Error{fmt::format(
                "`%{}` means nothing in a time format; %Y %y %m %d %b %H %I %M %S %f %p %z do", text[i])};
    if (text.back() == '%' && (text.size() < 2 || text[text.size() - 2] != '%'))
        return Error{"a time format cannot end with a single %"};
    return TimeFormat{TimeForm::Pattern, text};
}

std::optional<TimeParts> takeTimeApart(std::string_view text, const TimeFormat& format) {
    text = trimmed(text);
    if (format.form == TimeForm::Pattern) return takeByPattern(text, format.pattern);
    TimeParts parts;
    const bool compact = format.form == TimeForm::YearFirst && takeCompactDate(text, parts.wall);
    if (!compact && !takeDate(text, format.form, parts.wall)) return {};
    if (!text.empty()) {
        if (!takeOneOf(text, "T t") && !(compact && digitsAhead(text) == 6)) return {};
        takeBlanks(text);
        const bool clock = (compact && takeCompactClock(text, parts.wall)) || takeClock(text, parts.wall);
        if (!clock || !takeOffset(text, parts.offset)) return {};
    }
    if (!parts.wall.valid()) return {};
    return parts;
}

bool isClock(std::string_view text) {
    text = trimmed(text);
    WallTime wall;
    wall.year = 2000, wall.month = 1, wall.day = 1;
    return takeClock(text, wall) && text.empty() && wall.valid();
}

bool TimeReader::countsFrom1970() const {
    return std::find(kEpochForms.begin(), kEpochForms.end(), format_.form) != kEpochForms.end();
}

std::optional<Instant> TimeReader::readEpoch(std::string_view text) const {
    const auto at = std::find(kEpochForms.begin(), kEpochForms.end(), format_.form) - kEpochForms.begin();
    return readCount(trimmed(text), kEpochUnits[static_cast<std::size_t>(at)]);
}

/// The form nearly every row has, 2026-03-01 12:00:00 with a fraction or a Z or neither, without taking the
/// date apart again for every row. Anything else is left to takeTimeApart.
std::optional<Instant> TimeReader::readUsual(std::string_view text) {
    if (format_.form != TimeForm::YearFirst || text.size() < 19 || text.size() > 30 || text[4] != '-' ||
        (text[10] != ' ' && text[10] != 'T') || text[13] != ':' || text[16] != ':')
        return {};
    const auto two = [&](std::size_t at) {
        const int a = text[at] - '0', b = text[at + 1] - '0';
        return a < 0 || a > 9 || b < 0 || b > 9 ? -1 : a * 10 + b;
    };
    const int hour = two(11), minute = two(14), second = two(17);
    if (hour < 0 || hour > 23 || minute < 0 || minute > 59 || second < 0 || second > 59) return {};
    if (day_ != text.substr(0, 10)) {
        const auto parts = takeTimeApart(text.substr(0, 10), format_);
        if (!parts) return {};
        day_ = text.substr(0, 10);
        dayStart_ = parts->wall.sinceLocalEpoch();
    }
    std::string_view rest = text.substr(19);
    Duration fraction{};
    if (!rest.empty() && rest.front() == '.') {
        rest.remove_prefix(1);
        if (!takeFraction(rest, fraction)) return {};
    }
    const bool utc = rest == "Z";
    if (!rest.empty() && !utc) return {};
    const Duration local = dayStart_ + hour * kHour + minute * kMinute + second * kSecond + fraction;
    if (utc) {
        sawOffset_ = true;
        return Instant(local);
    }
    return zone_.instantWellInside(local);
}

Result<Instant> TimeReader::read(std::string_view text) {
    if (const auto usual = readUsual(text)) return last_ = *usual;
    if (countsFrom1970()) {
        const auto t = readEpoch(text);
        if (!t)
            return Error{fmt::format("`{}` is not a time ({})", text.substr(0, 60), sayTimeFormat(format_))};
        sawOffset_ = true;
        return last_ = *t;
    }
    const auto parts = takeTimeApart(text, format_);
    if (!parts) {
        if (trimmed(text).empty()) return Error{"there is no time"};
        return Error{fmt::format("`{}` is not a time ({})", text.substr(0, 60), sayTimeFormat(format_))};
    }
    if (parts->offset) {
        sawOffset_ = true;
        return last_ = Instant(parts->wall.sinceLocalEpoch() - *parts->offset);
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

void TimeFormEvidence::Sight::see(std::string_view what, std::int64_t where) {
    if (count++ > 0) return;
    line = where;
    text = what.substr(0, 40);
}

void TimeFormEvidence::add(std::string_view text, std::int64_t line) {
    text = trimmed(text);
    if (text.empty()) return;
    ++seen_;
    if (takeTimeApart(text, {TimeForm::YearFirst, {}})) {
        ++yearFirst_;
        return;
    }
    const bool day = takeTimeApart(text, {TimeForm::DayFirst, {}}).has_value(),
               month = takeTimeApart(text, {TimeForm::MonthFirst, {}}).has_value();
    if (day && month) {
        // The fifth of May is the same day in either order.
        const auto parts = takeTimeApart(text, {TimeForm::DayFirst, {}});
        ++both_;
        dotted_ += text.find('.') < 3;
        if (example_.empty() && parts->wall.day != parts->wall.month) example_ = text.substr(0, 40);
    } else if (day) {
        onlyDayFirst_.see(text, line);
    } else if (month) {
        onlyMonthFirst_.see(text, line);
    } else if (const auto count = readCount(text, 1); count && *count > Instant{}) {
        // 1973 to 2286 in seconds has nine to ten digits; each finer unit has three more.
        const double digits = std::floor(std::log10(static_cast<double>(epochNanoseconds(*count)))) + 1;
        for (std::size_t i = 0; i < epoch_.size(); ++i)
            if (digits >= 9 + 3 * static_cast<double>(i) && digits <= 10 + 3 * static_cast<double>(i))
                ++epoch_[i];
    } else if (const auto whole = text.find_first_of(".,"); whole != std::string_view::npos) {
        if (const auto seconds = readCount(text, kSecond.count()); seconds && whole >= 9 && whole <= 10)
            ++epoch_[0];
    }
}

bool TimeFormEvidence::ambiguous() const {
    return !example_.empty() && both_ > yearFirst_ && onlyDayFirst_.count == 0 &&
           onlyMonthFirst_.count == 0 && dotted_ == 0;
}

bool TimeFormEvidence::mostAreTimes() const {
    const std::int64_t dayOrMonth = both_ + std::max(onlyDayFirst_.count, onlyMonthFirst_.count);
    return std::max({yearFirst_, dayOrMonth, *std::max_element(epoch_.begin(), epoch_.end())}) * 2 > seen_;
}

std::optional<TimeFormat> TimeFormEvidence::form() const {
    const std::int64_t dayOrMonth = both_ + onlyDayFirst_.count + onlyMonthFirst_.count;
    const auto epoch = std::max_element(epoch_.begin(), epoch_.end());
    const std::int64_t most = std::max({yearFirst_, dayOrMonth, *epoch});
    if (most == 0) return {};
    if (yearFirst_ == most) return TimeFormat{TimeForm::YearFirst, {}};
    if (dayOrMonth == most) {
        if (ambiguous()) return {};
        const bool month = onlyMonthFirst_.count > onlyDayFirst_.count;
        return TimeFormat{month ? TimeForm::MonthFirst : TimeForm::DayFirst, {}};
    }
    return TimeFormat{kEpochForms[static_cast<std::size_t>(epoch - epoch_.begin())], {}};
}

std::optional<std::string> TimeFormEvidence::contradiction() const {
    if (onlyDayFirst_.count == 0 || onlyMonthFirst_.count == 0) return {};
    return fmt::format("line {} (`{}`) can only be day first and line {} (`{}`) only month first",
                       onlyDayFirst_.line, onlyDayFirst_.text, onlyMonthFirst_.line, onlyMonthFirst_.text);
}

std::string TimeFormEvidence::decidingText() const {
    const bool day = onlyDayFirst_.count > 0;
    const Sight& sight = day ? onlyDayFirst_ : onlyMonthFirst_;
    return fmt::format("line {} (`{}`) can only be {} first", sight.line, sight.text, day ? "day" : "month");
}

}  // namespace jacinth
