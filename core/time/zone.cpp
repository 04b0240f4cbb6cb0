#include "core/time/zone.h"

#include <date/tz.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace jacinth {
namespace {

constexpr std::array<const char*, 12> kMonthNames{"Jan", "Feb", "Mar", "Apr", "May", "Jun",
                                                  "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"};

using LocalTime = date::local_time<std::chrono::nanoseconds>;

Instant clampSeconds(std::chrono::seconds s) {
    constexpr std::chrono::seconds most(9'000'000'000);
    return Instant(std::clamp(s, -most, most));
}

}  // namespace

bool WallTime::valid() const {
    return (date::year(year) / month / day).ok() && year >= 1700 && year <= 2200 && hour >= 0 && hour < 24 &&
           minute >= 0 && minute < 60 && second >= 0 && second < 60;
}

Duration WallTime::sinceLocalEpoch() const {
    const auto days = date::local_days(date::year(year) / month / day).time_since_epoch();
    return days + hour * kHour + minute * kMinute + second * kSecond + fraction;
}

Zone::Zone() : zone_(date::locate_zone("Etc/UTC")) {}

Result<Zone> Zone::named(std::string_view name) {
    try {
        Zone zone;
        zone.zone_ = date::locate_zone(std::string(name == "UTC" ? "Etc/UTC" : name));
        zone.name_ = name;
        return zone;
    } catch (const std::runtime_error&) {
        return Error{fmt::format("`{}` is not a time zone; write it like Europe/Oslo", name)};
    }
}

const Zone::Offset& Zone::offsetAt(Instant t) const {
    if (t >= last_.from && t < last_.to) return last_;
    const auto info = zone_->get_info(date::floor<std::chrono::seconds>(t));
    last_ = {clampSeconds(info.begin.time_since_epoch()), clampSeconds(info.end.time_since_epoch()),
             info.offset};
    return last_;
}

WallTime Zone::wall(Instant t) const {
    const Instant local = t + offsetAt(t).offset;
    const auto day = date::floor<date::days>(local);
    const date::year_month_day ymd(day);
    const Duration ofDay = local - day;
    return {static_cast<int>(ymd.year()),
            static_cast<int>(static_cast<unsigned>(ymd.month())),
            static_cast<int>(static_cast<unsigned>(ymd.day())),
            static_cast<int>(ofDay / kHour),
            static_cast<int>(ofDay / kMinute % 60),
            static_cast<int>(ofDay / kSecond % 60),
            ofDay % kSecond};
}

WallInstant Zone::instant(const WallTime& wall) const {
    const Duration local = wall.sinceLocalEpoch();
    // Well inside the last offset's stretch there can be no gap or overlap: the common case for a file's
    // rows.
    if (const auto at = instantWellInside(local)) return {WallKind::Unique, *at, *at};
    const auto info = zone_->get_info(LocalTime(local));
    const Instant first(local - info.first.offset);
    if (info.result == date::local_info::unique) {
        offsetAt(first);
        return {WallKind::Unique, first, first};
    }
    const Instant second(local - info.second.offset);
    if (info.result == date::local_info::ambiguous) return {WallKind::Twice, first, second};
    const Instant change = clampSeconds(info.first.end.time_since_epoch());
    return {WallKind::Skipped, change, change};
}

Instant Zone::startOfDay(Instant t) const {
    WallTime w = wall(t);
    w.hour = w.minute = w.second = 0;
    w.fraction = {};
    return instant(w).instant;
}

Instant Zone::addDays(Instant midnight, int n) const {
    return startOfDay(midnight + n * kDay + kHour * 12);
}

std::string Zone::date(Instant t) const {
    const WallTime w = wall(t);
    return fmt::format("{} {} {}", w.day, kMonthNames[w.month - 1], w.year);
}

std::string Zone::shortDate(Instant t) const {
    const WallTime w = wall(t);
    return fmt::format("{} {}", w.day, kMonthNames[w.month - 1]);
}

std::string Zone::clock(Instant t) const {
    const WallTime w = wall(t);
    return fmt::format("{:02}:{:02}", w.hour, w.minute);
}

std::string Zone::text(Instant t) const {
    return date(t) + " " + clock(t);
}

std::string Zone::shortText(Instant t) const {
    return shortDate(t) + " " + clock(t);
}

std::string Zone::preciseText(Instant t) const {
    return fmt::format("{}:{:02}", text(t), wall(t).second);
}

}  // namespace jacinth
