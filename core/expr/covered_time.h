// Where a signal has a value, and how much of a window.
#pragma once

#include "core/expr/signal.h"

namespace jacinth {

/// From the first knot to the last (or for ever, where what is held goes on), without the gaps.
struct KnownTime {
    TimeRange whole;              ///< empty where no knot is
    std::vector<TimeRange> gaps;  ///< inside `whole`, by time
    bool anyMissing = false;      ///< is there a knot without a value?
};
KnownTime knownTimeOf(const Signal& x);

/// The time with a value in windows whose beginnings and ends rise. Exact, however long the record is.
class CoveredTime {
  public:
    explicit CoveredTime(const Signal& x) : known_(knownTimeOf(x)) {}
    Duration over(Instant begin, Instant end) {
        const Instant from = std::max(begin, known_.whole.from), to = std::min(end, known_.whole.to);
        if (to <= from) return {};
        if (known_.gaps.empty()) return to - from;
        return (to - from) - (lostUntil(to, end_) - lostUntil(from, begin_));
    }
    bool everyKnotHasAValue() const { return !known_.anyMissing; }
    /// A window inside of it is covered as a whole; nowhere where there are gaps.
    TimeRange withoutGaps() const { return known_.gaps.empty() ? known_.whole : TimeRange{}; }

  private:
    struct Place {
        std::size_t gap = 0;
        Duration lost{};  ///< in the gaps before
    };
    Duration lostUntil(Instant t, Place& place) const {
        while (place.gap < known_.gaps.size() && known_.gaps[place.gap].to <= t)
            place.lost += known_.gaps[place.gap++].length();
        const bool inside = place.gap < known_.gaps.size() && known_.gaps[place.gap].from < t;
        return inside ? place.lost + (t - known_.gaps[place.gap].from) : place.lost;
    }
    KnownTime known_;
    Place begin_, end_;
};

}  // namespace jacinth
