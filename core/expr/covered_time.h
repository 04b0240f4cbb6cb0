// Where a signal has a value, and how much of a window.
#pragma once

#include <optional>

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
    explicit CoveredTime(const Signal& x) : known_(knownTimeOf(x)) { findStretch(); }
    /// Is the window covered as a whole? Quick, as most lie where the one before did.
    bool isWhole(Instant begin, Instant end) {
        if (end > stretch_.to && nextStretch_ <= known_.gaps.size()) passTo(end);
        return begin >= stretch_.from && end <= stretch_.to;
    }
    Duration over(Instant begin, Instant end) {
        const Instant from = std::max(begin, known_.whole.from), to = std::min(end, known_.whole.to);
        if (to <= from) return {};
        if (known_.gaps.empty()) return to - from;
        return (to - from) - (lostUntil(to, end_) - lostUntil(from, begin_));
    }
    /// How much windows are covered that are as wide as the first and end from its end to `lastEnd`: all of
    /// them alike, or, where all begin inside one gap, each by as much more as it ends later. None where it
    /// is neither. Begins and ends rise, with those of over().
    struct Even {
        Duration ofFirst;
        bool grows;
    };
    std::optional<Even> evenly(Instant firstBegin, Instant firstEnd, Instant lastEnd) {
        const Instant lastBegin = lastEnd - (firstEnd - firstBegin);
        if (firstBegin < known_.whole.from || lastEnd > known_.whole.to) return {};
        const Duration before = lostUntil(firstBegin, begin_), until = lostUntil(firstEnd, end_);
        if (gapBegins(end_, lastEnd)) return {};
        const bool grows = gapBegins(begin_, lastBegin);
        if (grows && (!gapBegins(begin_, firstBegin) || known_.gaps[begin_.gap].to < lastBegin)) return {};
        return Even{(firstEnd - firstBegin) - (until - before), grows};
    }
    bool everyKnotHasAValue() const { return !known_.anyMissing; }

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
    bool gapBegins(const Place& place, Instant before) const {
        return place.gap < known_.gaps.size() && known_.gaps[place.gap].from < before;
    }
    /// The stretch between the gaps that the window's end has reached.
    void passTo(Instant end) {
        while (end > stretch_.to && nextStretch_ <= known_.gaps.size()) findStretch();
    }
    void findStretch() {
        const std::size_t n = known_.gaps.size();
        stretch_ = {nextStretch_ == 0 ? known_.whole.from : known_.gaps[nextStretch_ - 1].to,
                    nextStretch_ < n ? known_.gaps[nextStretch_].from : known_.whole.to};
        ++nextStretch_;
    }
    KnownTime known_;
    Place begin_, end_;
    TimeRange stretch_;  ///< without gaps
    std::size_t nextStretch_ = 0;
};

}  // namespace jacinth
