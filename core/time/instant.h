// Instants and durations: the standard's types, in nanoseconds. An instant and a duration do not mix, and a
// plain number is neither: where one becomes the other (in the file, in JSON, on an axis) a function below
// says so. Both are as small and as fast as the int64 they hold; 292 years either side of 1970 fit.
#pragma once

#include <chrono>
#include <cstdint>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

using Duration = std::chrono::nanoseconds;
using Instant = std::chrono::time_point<std::chrono::system_clock, Duration>;  ///< UTC

inline constexpr Duration kNanosecond = Duration(1);  ///< the least difference of two instants
inline constexpr Duration kMillisecond = std::chrono::milliseconds(1);
inline constexpr Duration kSecond = std::chrono::seconds(1);
inline constexpr Duration kMinute = std::chrono::minutes(1);
inline constexpr Duration kHour = std::chrono::hours(1);
inline constexpr Duration kDay = 24 * kHour;
inline constexpr Duration kWeek = 7 * kDay;
inline constexpr Instant kNoInstant = Instant::min();

/// Nanoseconds since 1970-01-01T00:00:00Z, as files and JSON hold an instant.
constexpr std::int64_t epochNanoseconds(Instant t) {
    return t.time_since_epoch().count();
}
constexpr Instant fromEpochNanoseconds(std::int64_t ns) {
    return Instant(Duration(ns));
}

// As real numbers, for calculations. Exact up to 2^53 ns (104 days); beyond that to the nearest double.
constexpr double toNanoseconds(Duration d) {
    return static_cast<double>(d.count());
}
constexpr double toSeconds(Duration d) {
    return toNanoseconds(d) / 1e9;
}
constexpr double toSeconds(Instant sinceEpoch) {
    return toSeconds(sinceEpoch.time_since_epoch());
}
constexpr double toHours(Duration d) {
    return toNanoseconds(d) / toNanoseconds(kHour);
}
/// Cut to whole nanoseconds towards zero. The number must fit.
constexpr Duration fromNanoseconds(double ns) {
    return Duration(static_cast<std::int64_t>(ns));
}
constexpr Duration fromSeconds(double s) {
    return fromNanoseconds(s * 1e9);
}
/// `d` times `factor`, cut to whole nanoseconds towards zero.
constexpr Duration scaled(Duration d, double factor) {
    return fromNanoseconds(toNanoseconds(d) * factor);
}

/// A stretch of time, start included, end not, unless a function says otherwise.
struct TimeRange {
    Instant from;
    Instant to;
    Duration length() const { return to - from; }
    bool contains(Instant t) const { return t >= from && t < to; }
    bool operator==(const TimeRange&) const = default;
};

/// `2026-04-05T14:12:00Z`, with as many decimals of a second as are needed (none, 3, 6 or 9).
std::string toIso(Instant t);
/// Writes what toIso gives, several times as fast where times follow each other: the date is made once a day.
class IsoTimes {
  public:
    void append(Instant t, std::string& out);

  private:
    Instant day_ = kNoInstant;  ///< start of the day that date_ is of
    std::string date_;          ///< with the T behind it
};

/// Reads ISO 8601 with `Z` or an offset (`+02:00`). A date alone is midnight UTC. Fails on anything else.
Result<Instant> fromIso(std::string_view text);

/// Reads `20m`, `1.5h`, `250ms`, `2d 6h`, `1w`. Units: ms s m h d w. Fails on anything else or on no unit.
Result<Duration> parseDuration(std::string_view text);

/// Shortest reading form: `20m`, `1h 30m`, `2d`. Exact to the millisecond.
std::string formatDuration(Duration d);

/// For people: `2 h 41 min`, `34 min`, `12 s`, `3 d 4 h`; two units at most, rounded.
std::string sayDuration(Duration d);

}  // namespace jacinth
