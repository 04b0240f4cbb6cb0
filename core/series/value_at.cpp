#include "core/series/value_at.h"

#include <algorithm>
#include <limits>

#include "core/base/missing.h"

namespace jacinth {
namespace {
constexpr std::size_t kNoPlace = std::numeric_limits<std::size_t>::max();

/// The last usable sample before `end`; none where what was known has ended since.
std::size_t usableBefore(const SeriesView& s, std::size_t end) {
    while (end > 0) {
        if (s.usable(--end)) return end;
        if (s.ends(end)) return kNoPlace;
    }
    return kNoPlace;
}

/// The first usable sample from i on, and the first end on the way there.
struct Following {
    std::size_t sample = kNoPlace;
    std::size_t end = kNoPlace;
};
Following following(const SeriesView& s, std::size_t i) {
    Following out;
    for (; i < s.size(); ++i) {
        if (s.usable(i)) {
            out.sample = i;
            return out;
        }
        if (out.end == kNoPlace && s.ends(i)) out.end = i;
    }
    return out;
}

/// The value at t, not a sample's time: `a` is the last usable sample before, the next one is sought from
/// `at`.
double between(const SeriesView& s, const Bridging& bridging, std::size_t a, std::size_t at, Instant t) {
    if (a == kNoPlace || (at < s.size() && s.times[at] == t && s.ends(at))) return kMissing;
    if (bridging.kind != TagKind::Continuous)
        return t - s.times[a] <= bridging.longestGap ? s.values[a] : kMissing;
    const Following next = following(s, at);
    const std::size_t b = next.sample;
    if (b == kNoPlace || next.end != kNoPlace || s.times[b] - s.times[a] > bridging.longestGap)
        return kMissing;
    const double share = toNanoseconds(t - s.times[a]) / toNanoseconds(s.times[b] - s.times[a]);
    return s.values[a] + share * (s.values[b] - s.values[a]);
}

}  // namespace

double valueAt(const SeriesView& s, const Bridging& bridging, Instant t) {
    const std::size_t at = firstNotBefore(s.times, t);
    if (at < s.size() && s.times[at] == t && s.usable(at)) return s.values[at];
    return between(s, bridging, usableBefore(s, at), at, t);
}

double ValueWalk::at(Instant t) {
    for (; next_ < series_.size() && series_.times[next_] < t; ++next_)
        if (series_.usable(next_))
            before_ = next_;
        else if (series_.ends(next_))
            before_ = kNoPlace;
    if (next_ < series_.size() && series_.times[next_] == t && series_.usable(next_))
        return series_.values[next_];
    return between(series_, bridging_, before_, next_, t);
}

double meanOver(const SeriesView& s, const Bridging& bridging, TimeRange range) {
    double area = 0, covered = 0;
    // The last sample at or before the start: its line or its held value reaches into the range.
    const auto after = std::upper_bound(s.times.begin(), s.times.end(), range.from) - s.times.begin();
    std::size_t first = usableBefore(s, static_cast<std::size_t>(after));
    if (first == kNoPlace) first = following(s, static_cast<std::size_t>(after)).sample;
    while (first != kNoPlace && s.times[first] < range.to) {
        const Following found = following(s, first + 1);
        const std::size_t next = found.sample;
        const Instant a = s.times[first];
        Instant b = next == kNoPlace ? range.to : s.times[next];
        const bool line = bridging.kind == TagKind::Continuous;
        if (line && (next == kNoPlace || found.end != kNoPlace || b - a > bridging.longestGap)) {
            first = next;
            continue;
        }
        if (!line && bridging.longestGap != kWithoutEnd) b = std::min(b, a + bridging.longestGap);
        if (!line && found.end != kNoPlace) b = std::min(b, s.times[found.end]);
        const Instant from = std::max(a, range.from), to = std::min(b, range.to);
        if (to > from) {
            const double step = toNanoseconds(b - a);
            const double va = s.values[first];
            const double vb = line ? s.values[next] : va;
            const double at0 = va + (vb - va) * toNanoseconds(from - a) / step;
            const double at1 = va + (vb - va) * toNanoseconds(to - a) / step;
            area += (at0 + at1) / 2 * toNanoseconds(to - from);
            covered += toNanoseconds(to - from);
        }
        first = next;
    }
    return covered * 2 >= toNanoseconds(range.length()) && covered > 0 ? area / covered : kMissing;
}

}  // namespace jacinth
