#include "core/series/summary.h"

#include <algorithm>

namespace jacinth {

void Summary::merge(const Summary& later) {
    if (later.count == 0) return;
    if (count == 0) {
        *this = later;
        return;
    }
    lastTime = later.lastTime;
    count += later.count;
    if (later.usable == 0) return;
    if (usable == 0) {
        first = later.first;
        least = later.least;
        greatest = later.greatest;
    } else {
        least = std::min(least, later.least);
        greatest = std::max(greatest, later.greatest);
    }
    last = later.last;
    sum += later.sum;
    usable += later.usable;
}

Summary summarize(const SeriesView& series) {
    Summary out;
    for (std::size_t i = 0; i < series.size(); ++i)
        out.add(series.times[i], series.values[i], series.usable(i));
    return out;
}

ColumnBuilder::ColumnBuilder(TimeRange range, int columns)
    : range_(range), width_(std::max(kNanosecond, range.length() / std::max(1, columns))) {}

std::int64_t ColumnBuilder::columnOf(Instant t) const {
    const Duration d = t - range_.from;
    return d >= Duration::zero() ? d / width_ : -1 - (-d - kNanosecond) / width_;
}

void ColumnBuilder::add(const Summary& part) {
    if (part.count == 0) return;
    const std::int64_t column = columnOf(part.firstTime);
    if (column == current_ && !out_.empty()) {
        out_.back().merge(part);
    } else {
        out_.push_back(part);
        current_ = column;
    }
}

void ColumnBuilder::add(const SeriesView& samples) {
    Instant columnEnd = kNoInstant;  // a division a column, not a sample
    for (std::size_t i = 0; i < samples.size(); ++i) {
        if (samples.times[i] >= columnEnd) {
            const std::int64_t column = columnOf(samples.times[i]);
            if (column != current_ || out_.empty()) out_.emplace_back();
            current_ = column;
            columnEnd = range_.from + (column + 1) * width_;
        }
        out_.back().add(samples.times[i], samples.values[i], samples.usable(i));
    }
}

}  // namespace jacinth
