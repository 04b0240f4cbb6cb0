// What a stretch of samples looks like without its samples: the figures of the pyramid and of a pixel column.
#pragma once

#include <algorithm>

#include "core/base/missing.h"
#include "core/series/series.h"

namespace jacinth {

/// Figures over the usable samples of a stretch; `count` counts all, `usable` those that carry the figures.
/// firstTime and lastTime are those of all samples. With no usable sample the values are NaN.
struct Summary {
    Instant firstTime{}, lastTime{};
    std::uint32_t count = 0, usable = 0;
    double first = kMissing;
    double last = kMissing;
    double least = kMissing;
    double greatest = kMissing;
    double sum = 0;

    void add(Instant t, double value, bool isUsable) {
        if (count == 0) firstTime = t;
        lastTime = t;
        ++count;
        if (!isUsable) return;
        if (usable == 0) {
            first = least = greatest = value;
        } else {
            least = std::min(least, value);
            greatest = std::max(greatest, value);
        }
        last = value;
        sum += value;
        ++usable;
    }
    void merge(const Summary& later);
};

Summary summarize(const SeriesView& series);

/// Puts what lies in time order into `columns` pixel columns over `range`: keeps first, least, greatest and
/// last of each. Feed it summaries or samples of any fineness; columns without samples do not appear in the
/// result.
class ColumnBuilder {
  public:
    ColumnBuilder(TimeRange range, int columns);
    /// Is a stretch this long narrow enough to be drawn from its summary alone?
    bool fits(Instant firstTime, Instant lastTime) const { return lastTime - firstTime < width_; }
    void add(const Summary& part);
    void add(const SeriesView& samples);
    std::vector<Summary> take() { return std::move(out_); }

  private:
    std::int64_t columnOf(Instant t) const;
    TimeRange range_;
    Duration width_;
    std::int64_t current_ = std::numeric_limits<std::int64_t>::min();
    std::vector<Summary> out_;
};

}  // namespace jacinth
