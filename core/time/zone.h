// The plant's wall clock: named zones of the IANA database, with the two nights a year that are not like
// others.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/base/result.h"
#include "core/time/instant.h"

namespace date {
class time_zone;
}

namespace jacinth {

/// What a wall-clock reading turned out to be.
enum class WallKind {
    Unique,   ///< happened once
    Skipped,  ///< did not exist: clocks were put forward over it
    Twice,    ///< happened twice: clocks were put back over it
};

/// Civil date and time of day, without zone.
struct WallTime {
    int year = 1970, month = 1, day = 1, hour = 0, minute = 0, second = 0;
    Duration fraction{};               ///< within the second
    bool valid() const;                ///< is there such a date and such a time of day?
    Duration sinceLocalEpoch() const;  ///< since 1970-01-01T00:00:00 by the same clock
};

/// The instant of a wall-clock reading. For `Twice`, `instant` is the first and `second` the later one;
/// for `Skipped` both are the moment at which the clocks were put forward.
struct WallInstant {
    WallKind kind = WallKind::Unique;
    Instant instant{};
    Instant second{};
};

/// A time zone. Cheap to copy. Conversions remember the last offset, so a column of times costs little.
class Zone {
  public:
    Zone();  ///< UTC
    static Result<Zone> named(std::string_view name);

    const std::string& name() const { return name_; }
    WallTime wall(Instant t) const;
    WallInstant instant(const WallTime& wall) const;
    /// The instant of a wall clock given as time since its own 1970-01-01T00:00:00, where the last conversion
    /// shows that no change of the clocks is near; else none, and instant() has to look.
    std::optional<Instant> instantWellInside(Duration sinceLocalEpoch) const {
        const Instant guess(sinceLocalEpoch - last_.offset);
        if (guess < last_.from + kDay || guess >= last_.to - kDay) return {};
        return guess;
    }

    Instant startOfDay(Instant t) const;  ///< midnight at or before t, by this zone's clock
    Instant addDays(Instant midnight,
                    int n) const;  ///< the midnight n calendar days on (23, 24 or 25 h each)

    std::string date(Instant t) const;         ///< `5 Apr 2026`
    std::string shortDate(Instant t) const;    ///< `5 Apr`
    std::string clock(Instant t) const;        ///< `14:12`
    std::string text(Instant t) const;         ///< `5 Apr 2026 14:12`
    std::string shortText(Instant t) const;    ///< `5 Apr 14:12`
    std::string preciseText(Instant t) const;  ///< `5 Apr 2026 14:12:30`

  private:
    struct Offset {
        Instant from = Instant(kNanosecond), to = Instant();  ///< at first an empty stretch
        Duration offset{};
    };
    const Offset& offsetAt(Instant t) const;

    const date::time_zone* zone_ = nullptr;
    std::string name_ = "UTC";
    mutable Offset last_;
};

}  // namespace jacinth
