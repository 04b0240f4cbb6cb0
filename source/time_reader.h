// Times in text files: ISO 8601, year first or day first, with an offset or by a plant's wall clock.
#pragma once

#include <optional>
#include <string_view>
#include <vector>

#include "core/time/zone.h"

namespace jacinth {

enum class DateOrder { YearFirst, DayFirst, MonthFirst };
const char* dateOrderName(DateOrder order);

/// Turns a column of times into instants. Keeps the last instant, to tell the two hours of an autumn night
/// apart: a wall time that happened twice is the first one unless that would go back in the file.
class TimeReader {
  public:
    TimeReader(DateOrder order, Zone zone) : order_(order), zone_(std::move(zone)) {}
    /// The same reader as it would be after a row at `last`.
    TimeReader after(Instant last) const {
        TimeReader out(order_, zone_);
        out.last_ = last;
        return out;
    }
    Instant last() const { return last_; }  ///< kNoInstant before the first time that could be read

    /// The instant, or the reason why there is none: “time 2026-03-29 02:30 does not exist in Europe/Oslo”.
    Result<Instant> read(std::string_view text);
    std::int64_t twice() const { return twice_; }  ///< how many wall times so far happened twice
    bool sawOffset() const { return sawOffset_; }  ///< was there a time with Z or an offset?

  private:
    DateOrder order_;
    Zone zone_;
    std::optional<Instant> readUsual(std::string_view text);
    Instant last_ = kNoInstant;
    std::string day_;  ///< the date last read, as written
    std::int64_t dayStart_ = 0;
    std::int64_t twice_ = 0;
    bool sawOffset_ = false;
};

/// Takes a text apart without a zone. `offset` is set where the text carries one.
struct TimeParts {
    WallTime wall;
    std::optional<Duration> offset;
};
std::optional<TimeParts> takeTimeApart(std::string_view text, DateOrder order);

/// The order that fits every one of the texts, or none.
std::optional<DateOrder> guessDateOrder(const std::vector<std::string_view>& texts);

}  // namespace jacinth
