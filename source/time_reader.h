// Times in text files: ISO 8601, dates in any order, with AM/PM, by a pattern, or counted since 1970.
#pragma once

#include <array>
#include <optional>
#include <string_view>
#include <vector>

#include "core/time/zone.h"

namespace jacinth {

/// How times are written. The epoch forms count from 1970-01-01T00:00:00Z and may have decimals.
enum class TimeForm {
    YearFirst,
    DayFirst,
    MonthFirst,
    EpochSeconds,
    EpochMilliseconds,
    EpochMicroseconds,
    EpochNanoseconds,
    Pattern
};

struct TimeFormat {
    TimeForm form = TimeForm::YearFirst;
    std::string pattern;  ///< of Pattern: %Y %y %m %d %b %H %I %M %S %f %p %z, and what stands between them
    bool operator==(const TimeFormat&) const = default;
};
/// `year-first`, `day-first`, `month-first`, `epoch-s`, `epoch-ms`, `epoch-us`, `epoch-ns`, or the pattern.
std::string timeFormatName(const TimeFormat& format);
Result<TimeFormat> timeFormatNamed(const std::string& text);  ///< the same, read
std::string sayTimeFormat(const TimeFormat& format);          ///< for people: `day first`

/// Takes a text apart without a zone. `offset` is set where the text carries one. None where the text is
/// written otherwise, or names a day or a time of day that there is not.
struct TimeParts {
    WallTime wall;
    std::optional<Duration> offset;
};
std::optional<TimeParts> takeTimeApart(std::string_view text, const TimeFormat& format);

/// Turns a column of times into instants. Keeps the last instant, to distinguish the two hours of an autumn
/// night: a wall time that happened twice is the first one unless that would go back in the file.
class TimeReader {
  public:
    TimeReader(TimeFormat format, Zone zone) : format_(std::move(format)), zone_(std::move(zone)) {}
    TimeReader(TimeForm form, Zone zone) : TimeReader(TimeFormat{form, {}}, std::move(zone)) {}
    /// The same reader as it would be after a row at `last`.
    TimeReader after(Instant last) const {
        TimeReader out(format_, zone_);
        out.last_ = last;
        return out;
    }
    Instant last() const { return last_; }  ///< kNoInstant before the first time that could be read

    /// The instant, or the reason why there is none: “time 2026-03-29 02:30 does not exist in Europe/Oslo”.
    Result<Instant> read(std::string_view text);
    std::int64_t twice() const { return twice_; }  ///< how many wall times so far happened twice
    bool sawOffset() const { return sawOffset_; }  ///< was there a time with Z or an offset?

  private:
    std::optional<Instant> readUsual(std::string_view text);
    std::optional<Instant> readEpoch(std::string_view text) const;
    bool countsFrom1970() const;
    TimeFormat format_;
    Zone zone_;
    Instant last_ = kNoInstant;
    std::string day_;      ///< the date last read, as written
    Duration dayStart_{};  ///< of day_, since the zone's own 1970
    std::int64_t twice_ = 0;
    bool sawOffset_ = false;
};

/// What a column of times can be. Add every time; the counts say which forms are possible.
class TimeFormEvidence {
  public:
    void add(std::string_view text, std::int64_t line);
    bool mostAreTimes() const;  ///< more than half of the texts can be read as times of one form
    /// The form that most of those texts have that are times. None where there are none, or where day first
    /// and month first both fit and nothing decides (`ambiguous`). Dates with dots are day first unless a
    /// text says otherwise: nobody writes the month first with dots.
    std::optional<TimeFormat> form() const;
    bool ambiguous() const;
    /// Some texts are only possible day first and others only month first: what to say about it.
    std::optional<std::string> contradiction() const;
    /// Is there a text that is only possible in one of the two orders? And what to say about the first.
    bool decides() const { return onlyDayFirst_.count + onlyMonthFirst_.count > 0; }
    std::string decidingText() const;
    const std::string& example() const { return example_; }  ///< an ambiguous text

  private:
    struct Sight {
        std::int64_t count = 0, line = 0;
        std::string text;
        void see(std::string_view text, std::int64_t line);
    };
    std::int64_t seen_ = 0, yearFirst_ = 0, both_ = 0, dotted_ = 0;
    std::array<std::int64_t, 4> epoch_{};  ///< seconds, milliseconds, microseconds, nanoseconds
    Sight onlyDayFirst_, onlyMonthFirst_;
    std::string example_;
};

/// Is the text a time of day without a date (`14:05`, `2:05:30 PM`)?
bool isClock(std::string_view text);

}  // namespace jacinth
