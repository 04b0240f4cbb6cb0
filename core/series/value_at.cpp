#include "core/series/value_at.h"

#include <algorithm>
#include <limits>

namespace jacinth {
namespace {
constexpr double kMissing = std::numeric_limits<double>::quiet_NaN();
constexpr std::size_t kNone = std::numeric_limits<std::size_t>::max();

std::size_t usableAtOrBefore(const SeriesView& s, std::size_t end) {
    while (end > 0)
        if (s.usable(--end)) return end;
    return kNone;
}

std::size_t usableFrom(const SeriesView& s, std::size_t i) {
    for (; i < s.size(); ++i)
        if (s.usable(i)) return i;
    return kNone;
}

/// The value at t, not a sample's time: `a` is the last usable sample before, the next one is sought from
/// `at`.
double between(const SeriesView& s, const Bridging& bridging, std::size_t a, std::size_t at, Instant t) {
    if (a == kNone) return kMissing;
    if (bridging.kind != TagKind::Continuous)
        return t - s.times[a] <= bridging.longestGap ? s.values[a] : kMissing;
    const std::size_t b = usableFrom(s, at);
    if (b == kNone || s.times[b] - s.times[a] > bridging.longestGap) return kMissing;
    const double share = static_cast<double>(t - s.times[a]) / static_cast<double>(s.times[b] - s.times[a]);
    return s.values[a] + share * (s.values[b] - s.values[a]);
}

}  // namespace

double valueAt(const SeriesView& s, const Bridging& bridging, Instant t) {
    const std::size_t at = firstNotBefore(s.times, t);
    if (at < s.size() && s.times[at] == t && s.usable(at)) return s.values[at];
    return between(s, bridging, usableAtOrBefore(s, at), at, t);
}

double ValueWalk::at(Instant t) {
    for (; next_ < series_.size() && series_.times[next_] < t; ++next_)
        if (series_.usable(next_)) before_ = next_;
    if (next_ < series_.size() && series_.times[next_] == t && series_.usable(next_))
        return series_.values[next_];
    return between(series_, bridging_, before_, next_, t);
}

double meanOver(const SeriesView& s, const Bridging& bridging, TimeRange range) {
    double area = 0, covered = 0;
    // The last sample at or before the start: its line or its held value reaches into the range.
    const auto after = std::upper_bound(s.times.begin(), s.times.end(), range.from) - s.times.begin();
    std::size_t first = usableAtOrBefore(s, static_cast<std::size_t>(after));
    if (first == kNone) first = usableFrom(s, 0);
    while (first != kNone && s.times[first] < range.to) {
        const std::size_t next = usableFrom(s, first + 1);
        const Instant a = s.times[first];
        Instant b = next == kNone ? range.to : s.times[next];
        const bool line = bridging.kind == TagKind::Continuous;
        if (line && (next == kNone || b - a > bridging.longestGap)) {
            first = next;
            continue;
        }
        if (!line && bridging.longestGap != kWithoutEnd) b = std::min(b, a + bridging.longestGap);
        const Instant from = std::max(a, range.from), to = std::min(b, range.to);
        if (to > from) {
            const double step = static_cast<double>(b - a);
            const double va = s.values[first];
            const double vb = line ? s.values[next] : va;
            const double at0 = va + (vb - va) * static_cast<double>(from - a) / step;
            const double at1 = va + (vb - va) * static_cast<double>(to - a) / step;
            area += (at0 + at1) / 2 * static_cast<double>(to - from);
            covered += static_cast<double>(to - from);
        }
        first = next;
    }
    return covered * 2 >= static_cast<double>(range.length()) && covered > 0 ? area / covered : kMissing;
}

}  // namespace jacinth
