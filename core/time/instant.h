// Instants and durations: int64 nanoseconds, instants counted from 1970-01-01T00:00:00Z.
#pragma once

#include <cstdint>
#include <limits>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jacinth {

using Instant = std::int64_t;   ///< nanoseconds UTC since 1970
using Duration = std::int64_t;  ///< nanoseconds

inline constexpr Duration kMillisecond = 1'000'000;
inline constexpr Duration kSecond = 1'000'000'000;
inline constexpr Duration kMinute = 60 * kSecond;
inline constexpr Duration kHour = 60 * kMinute;
inline constexpr Duration kDay = 24 * kHour;
inline constexpr Duration kWeek = 7 * kDay;
inline constexpr Instant kNoInstant = std::numeric_limits<Instant>::min();

inline double toSeconds(Duration d) {
    return static_cast<double>(d) / 1e9;
}
inline double toHours(Duration d) {
    return static_cast<double>(d) / static_cast<double>(kHour);
}

/// A stretch of time, start included, end not, unless a function says otherwise.
struct TimeRange {
    Instant from = 0;
    Instant to = 0;
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
