#include "core/series/series.h"

#include <algorithm>

namespace jacinth {

SeriesView SeriesView::within(TimeRange range) const {
    const std::size_t a = firstNotBefore(times, range.from);
    const std::size_t b = std::max(a, firstNotBefore(times, range.to));
    return {times.subspan(a, b - a), values.subspan(a, b - a),
            quality.empty() ? quality : quality.subspan(a, b - a)};
}

void Series::reserve(std::size_t n) {
    times.reserve(n);
    values.reserve(n);
}

void Series::clear() {
    times.clear();
    values.clear();
    quality.clear();
}

void Series::append(const SeriesView& more) {
    if (!more.quality.empty() || !quality.empty()) {
        quality.resize(times.size(), Quality::Good);
        for (std::size_t i = 0; i < more.size(); ++i) quality.push_back(more.qualityAt(i));
    }
    times.insert(times.end(), more.times.begin(), more.times.end());
    values.insert(values.end(), more.values.begin(), more.values.end());
}

std::size_t firstNotBefore(std::span<const Instant> times, Instant t) {
    return std::lower_bound(times.begin(), times.end(), t) - times.begin();
}

Duration medianSpacing(std::span<const Instant> times) {
    if (times.size() < 2) return {};
    std::vector<Duration> gaps(times.size() - 1);
    for (std::size_t i = 0; i + 1 < times.size(); ++i) gaps[i] = times[i + 1] - times[i];
    const auto middle = gaps.begin() + gaps.size() / 2;
    std::nth_element(gaps.begin(), middle, gaps.end());
    return *middle;
}

Duration defaultLongestGap(TagKind kind, Duration spacing) {
    return kind == TagKind::Continuous && spacing > Duration::zero() ? 10 * spacing : kWithoutEnd;
}

Series mergeSeries(const SeriesView& older, const SeriesView& newer) {
    Series out;
    out.reserve(older.size() + newer.size());
    if (older.empty() || newer.empty() || older.times.back() < newer.times.front()) {
        out.append(older);
        out.append(newer);
        return out;
    }
    std::size_t i = 0, j = 0;
    while (i < older.size() || j < newer.size()) {
        const bool takeNewer = i == older.size() || (j < newer.size() && newer.times[j] <= older.times[i]);
        if (takeNewer) {
            if (i < older.size() && older.times[i] == newer.times[j]) ++i;
            out.push(newer.times[j], newer.values[j], newer.qualityAt(j));
            ++j;
        } else {
            out.push(older.times[i], older.values[i], older.qualityAt(i));
            ++i;
        }
    }
    return out;
}

}  // namespace jacinth
