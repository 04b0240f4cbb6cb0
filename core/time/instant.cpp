#include "core/time/instant.h"

#include <date/date.h>
#include <fmt/format.h>

#include <array>
#include <cctype>
#include <charconv>
#include <chrono>
#include <cmath>

namespace jacinth {
namespace {

std::string fraction(Duration part) {
    const std::int64_t ns = part.count();
    if (ns == 0) return {};
    if (ns % 1'000'000 == 0) return fmt::format(".{:03}", ns / 1'000'000);
    if (ns % 1'000 == 0) return fmt::format(".{:06}", ns / 1'000);
    return fmt::format(".{:09}", ns);
}

/// Takes exactly `digits` digits off the front of `text`.
bool takeDigits(std::string_view& text, int digits, int& value) {
    if (static_cast<int>(text.size()) < digits) return false;
    value = 0;
    for (int i = 0; i < digits; ++i) {
        if (text[i] < '0' || text[i] > '9') return false;
        value = value * 10 + (text[i] - '0');
    }
    text.remove_prefix(digits);
    return true;
}

bool takeChar(std::string_view& text, std::string_view any) {
    if (text.empty() || any.find(text.front()) == std::string_view::npos) return false;
    text.remove_prefix(1);
    return true;
}

/// Digits after a decimal mark of seconds. More than nine digits are cut.
bool takeFraction(std::string_view& text, Duration& part) {
    Duration unit = kSecond / 10;
    bool any = false;
    part = {};
    while (!text.empty() && std::isdigit(static_cast<unsigned char>(text.front()))) {
        part += (text.front() - '0') * unit;
        unit /= 10;
        text.remove_prefix(1);
        any = true;
    }
    return any;
}

bool takeOffset(std::string_view& text, Duration& offset) {
    if (takeChar(text, "Zz")) {
        offset = {};
        return true;
    }
    if (text.empty() || (text.front() != '+' && text.front() != '-')) return false;
    const int sign = text.front() == '-' ? -1 : 1;
    text.remove_prefix(1);
    int hours = 0, minutes = 0;
    if (!takeDigits(text, 2, hours)) return false;
    takeChar(text, ":");
    if (!text.empty() && !takeDigits(text, 2, minutes)) return false;
    offset = sign * (hours * kHour + minutes * kMinute);
    return hours < 24 && minutes < 60;
}

Duration unitOf(std::string_view name) {
    if (name == "ms") return kMillisecond;
    if (name == "s") return kSecond;
    if (name == "m") return kMinute;
    if (name == "h") return kHour;
    if (name == "d") return kDay;
    if (name == "w") return kWeek;
    return {};
}

}  // namespace

std::string toIso(Instant t) {
    const auto day = date::floor<date::days>(t);
    const date::year_month_day ymd(day);
    const Duration ofDay = t - day;
    return fmt::format("{:04}-{:02}-{:02}T{:02}:{:02}:{:02}{}Z", static_cast<int>(ymd.year()),
                       static_cast<unsigned>(ymd.month()), static_cast<unsigned>(ymd.day()), ofDay / kHour,
                       ofDay / kMinute % 60, ofDay / kSecond % 60, fraction(ofDay % kSecond));
}

void IsoTimes::append(Instant t, std::string& out) {
    if (day_ == kNoInstant || t < day_ || t - day_ >= kDay) {
        const std::string text = toIso(t);
        const std::size_t prefix = text.find('T') + 1;
        date_ = text.substr(0, prefix);
        day_ = date::floor<date::days>(t);
    }
    out += date_;
    const Duration ofDay = t - day_;
    const auto two = [&](std::int64_t n, char after) {
        out += static_cast<char>('0' + n / 10);
        out += static_cast<char>('0' + n % 10);
        if (after) out += after;
    };
    two(ofDay / kHour, ':');
    two(ofDay / kMinute % 60, ':');
    two(ofDay / kSecond % 60, '\0');
    out += fraction(ofDay % kSecond);
    out += 'Z';
}

Result<Instant> fromIso(std::string_view whole) {
    const Error wrong{fmt::format("`{}` is not a time; write it like 2026-04-05T14:12:00Z", whole)};
    std::string_view text = whole;
    int year = 0, month = 0, day = 0, hour = 0, minute = 0, second = 0;
    Duration part{}, offset{};
    if (!takeDigits(text, 4, year) || !takeChar(text, "-") || !takeDigits(text, 2, month) ||
        !takeChar(text, "-") || !takeDigits(text, 2, day))
        return wrong;
    if (!text.empty()) {
        if (!takeChar(text, "Tt ") || !takeDigits(text, 2, hour) || !takeChar(text, ":") ||
            !takeDigits(text, 2, minute))
            return wrong;
        if (takeChar(text, ":")) {
            if (!takeDigits(text, 2, second)) return wrong;
            if (takeChar(text, ".,") && !takeFraction(text, part)) return wrong;
        }
        if (!takeOffset(text, offset) || !text.empty()) return wrong;
    }
    const auto ymd = date::year(year) / month / day;
    if (!ymd.ok() || year < 1700 || year > 2200 || hour > 23 || minute > 59 || second > 59) return wrong;
    return date::sys_days(ymd) + hour * kHour + minute * kMinute + second * kSecond + part - offset;
}

Result<Duration> parseDuration(std::string_view whole) {
    const Error wrong{fmt::format("`{}` is not a duration; write it like 20m, 6h or 7d", whole)};
    std::string_view text = whole;
    double total = 0;
    bool any = false;
    while (true) {
        while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
        if (text.empty()) break;
        double number = 0;
        const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), number);
        if (code != std::errc() || number < 0) return wrong;
        text.remove_prefix(end - text.data());
        while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
        std::size_t letters = 0;
        while (letters < text.size() && std::isalpha(static_cast<unsigned char>(text[letters]))) ++letters;
        const Duration unit = unitOf(text.substr(0, letters));
        if (unit == Duration::zero()) return wrong;
        total += number * toNanoseconds(unit);
        text.remove_prefix(letters);
        any = true;
    }
    if (!any || !(total < 9e18)) return wrong;
    return Duration(std::llround(total));
}

std::string formatDuration(Duration d) {
    if (d == Duration::zero()) return "0s";
    std::string out = d < Duration::zero() ? "-" : "";
    Duration left = d < Duration::zero() ? -d : d;
    const std::array<std::pair<Duration, const char*>, 6> units{
        {{kWeek, "w"}, {kDay, "d"}, {kHour, "h"}, {kMinute, "m"}, {kSecond, "s"}, {kMillisecond, "ms"}}};
    for (const auto& [unit, name] : units) {
        // A week is only written where it stands alone: `7d` reads better than `1w` in the middle of a list.
        if (unit == kWeek && left % kWeek != Duration::zero()) continue;
        if (left < unit) continue;
        if (out.size() > 1) out += ' ';
        out += fmt::format("{}{}", left / unit, name);
        left %= unit;
    }
    return out;
}

std::string sayDuration(Duration d) {
    const char* sign = d < Duration::zero() ? "−" : "";
    const Duration a = d < Duration::zero() ? -d : d;
    if (a == Duration::zero()) return "0 s";
    if (a < kMillisecond / 1000) return fmt::format("{}{:.3g} ns", sign, toNanoseconds(a));
    if (a < kMillisecond) return fmt::format("{}{:.3g} µs", sign, toNanoseconds(a) / 1e3);
    if (a < kMinute) return fmt::format("{}{:.3g} s", sign, toSeconds(a));
    if (a < kHour - kMinute / 2) return fmt::format("{}{} min", sign, (a + kMinute / 2) / kMinute);
    if (a < 2 * kDay) {
        const std::int64_t minutes = (a + kMinute / 2) / kMinute;
        if (minutes % 60 == 0) return fmt::format("{}{} h", sign, minutes / 60);
        return fmt::format("{}{} h {:02} min", sign, minutes / 60, minutes % 60);
    }
    const std::int64_t hours = (a + kHour / 2) / kHour;
    if (hours % 24 == 0) return fmt::format("{}{} d", sign, hours / 24);
    return fmt::format("{}{} d {} h", sign, hours / 24, hours % 24);
}

}  // namespace jacinth
