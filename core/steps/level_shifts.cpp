#include "core/steps/level_shifts.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <span>

#include "core/stats/segments.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::size_t kInARow = 4;
constexpr double kLeastShift = 7;
constexpr double kUneven = 0.4;
constexpr double kAgrees = 2.5;  // of a kind of stretch that says the same, in what is usual
constexpr double kLeastT = 5;
constexpr double kLeastWandering = 10;  // t of a record whose values depend on each other: it turns by itself

double medianOf(const std::vector<double>& x, std::size_t from, std::size_t to) {
    return median(
        {x.begin() + static_cast<std::ptrdiff_t>(from), x.begin() + static_cast<std::ptrdiff_t>(to)});
}

/// Even before and after: no slope, no wear that a repair ended. At least two values more on either side.
bool evenAround(const std::vector<double>& x, std::size_t j, double size) {
    const std::size_t m = kInARow;
    if (j < m + 2 || j + m + 2 > x.size()) return false;
    const auto even = [&](double near, double far) {
        return std::abs(near - far) <= kUneven * std::abs(size);
    };
    return even(medianOf(x, j - m, j), medianOf(x, j >= 2 * m ? j - 2 * m : 0, j - m)) &&
           even(medianOf(x, j, j + m), medianOf(x, j + m, std::min(x.size(), j + 2 * m)));
}

/// All before lie on one side of all after, one on either side excepted.
bool separate(const std::vector<double>& x, std::size_t before, std::size_t after, double size) {
    const auto part = [&](std::size_t from) {
        std::vector<double> out(x.begin() + static_cast<std::ptrdiff_t>(from),
                                x.begin() + static_cast<std::ptrdiff_t>(from + kInARow));
        std::sort(out.begin(), out.end());
        return out;
    };
    const auto a = part(before), b = part(after);
    return size > 0 ? a[kInARow - 2] < b[1] : a[1] > b[kInARow - 2];
}

/// The stretches of one kind, and how far four of them lie from the four before.
struct KindLevels {
    std::vector<RecurringStretch> stretches;
    std::vector<double> levels, difference;  // 0 near the ends
    double usual = 0;

    void finish(double resolution) {
        const std::size_t m = kInARow;
        difference.assign(levels.size(), 0);
        std::vector<double> sizes;
        for (std::size_t j = m; j + m <= levels.size(); ++j) {
            difference[j] = medianOf(levels, j, j + m) - medianOf(levels, j - m, j);
            sizes.push_back(std::abs(difference[j]));
        }
        if (levels.size() >= 3 * m) usual = std::max(1.4826 * median(std::move(sizes)), resolution);
    }
    bool enough() const { return usual > 0; }
};

std::vector<KindLevels> kindsOf(const std::vector<StretchLevel>& byStretch, double resolution) {
    std::map<int, KindLevels> kinds;
    for (const StretchLevel& s : byStretch) {
        kinds[s.stretch.kind].stretches.push_back(s.stretch);
        kinds[s.stretch.kind].levels.push_back(s.level);
    }
    std::vector<KindLevels> out;
    for (auto& [kind, of] : kinds) {
        of.finish(resolution);
        if (of.enough()) out.push_back(std::move(of));
    }
    return out;
}

Instant middleOf(TimeRange range) {
    return range.from + range.length() / 2;
}

std::vector<LevelShift> shiftsOfKind(const KindLevels& of) {
    const std::size_t m = kInARow;
    std::vector<LevelShift> out;
    for (std::size_t j = m; j + m <= of.levels.size(); ++j) {
        const double size = std::abs(of.difference[j]);
        if (size < kLeastShift * of.usual || !evenAround(of.levels, j, of.difference[j]) ||
            !separate(of.levels, j - m, j, of.difference[j]))
            continue;
        LevelShift shift;
        // Half of a stretch decides on its median.
        shift.between = {middleOf(of.stretches[j - 1].range), middleOf(of.stretches[j].range)};
        shift.reach = {of.stretches[j - m].range.from, of.stretches[j + m - 1].range.to};
        shift.seen = of.stretches[j].range.from;
        shift.size = of.difference[j];
        shift.error = of.usual;
        shift.score = size / of.usual;
        shift.change = std::abs(of.levels[j] - of.levels[j - 1]);
        out.push_back(shift);
    }
    return out;
}

/// One of those that tell of the same: of overlapping reach and the same sign, the one that changes most from
/// one stretch to the next. Others of about the same time and size
/// sharpen the size.
std::vector<LevelShift> joined(std::vector<LevelShift> all) {
    std::sort(all.begin(), all.end(),
              [](const auto& a, const auto& b) { return a.change / a.error > b.change / b.error; });
    std::vector<LevelShift> out;
    for (const LevelShift& s : all) {
        const auto same = std::find_if(out.begin(), out.end(), [&](const LevelShift& o) {
            return s.reach.from < o.reach.to && o.reach.from < s.reach.to;
        });
        if (same == out.end()) {
            out.push_back(s);
            continue;
        }
        if (s.between.from >= same->between.to || same->between.from >= s.between.to ||
            s.size * same->size < 0 || std::abs(s.size) < std::abs(same->size) / 2 ||
            std::abs(s.size) > 2 * std::abs(same->size))
            continue;
        const Estimate both = together({{same->size, same->error}, {s.size, s.error}});
        same->size = both.size;
        same->error = both.error;
        same->score = std::max(same->score, s.score);
    }
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.seen < b.seen; });
    return out;
}

/// How far the levels of one kind before and after a moment lie apart; nothing where they are not separate.
/// The stretch that holds the moment is left out.
std::optional<Estimate> shiftOfKind(const KindLevels& of, Instant at) {
    std::size_t next = 0;
    while (next < of.stretches.size() && of.stretches[next].range.from < at) ++next;
    const std::size_t last = next > 0 && of.stretches[next - 1].range.to > at ? next - 1 : next;
    if (last < kInARow || next + kInARow > of.levels.size()) return {};
    const double size = medianOf(of.levels, next, next + kInARow) - medianOf(of.levels, last - kInARow, last);
    if (!separate(of.levels, last - kInARow, next, size)) return {};
    return Estimate{size, of.usual};
}

/// A kind of stretch shows a shift of this sign and about this size.
bool agrees(const KindLevels& of, Instant at, double size) {
    const auto shift = shiftOfKind(of, at);
    return shift && shift->size / size > 0.4 && shift->size / size < 2.5 &&
           std::abs(shift->size) >= kAgrees * shift->error;
}

/// What it costs that the levels of one kind change at `cut`: squares of the distances from the medians
/// before and after in what is usual, none more than 9, so that no odd stretch decides.
double costOfCut(const KindLevels& of, TimeRange reach, Instant cut) {
    std::vector<double> before, after;
    for (std::size_t i = 0; i < of.levels.size(); ++i) {
        const Instant middle = middleOf(of.stretches[i].range);
        if (middle >= reach.from && middle <= reach.to)
            (middle < cut ? before : after).push_back(of.levels[i]);
    }
    double cost = 0;
    for (const auto* part : {&before, &after}) {
        if (part->empty()) continue;
        const double level = median(*part);
        for (const double v : *part) cost += std::min(9.0, std::pow((v - level) / of.usual, 2));
    }
    return cost;
}

/// Narrows the time of a shift: where the levels of all kinds that agree fit two levels best, and everywhere
/// where they fit nearly as well (3.84 more: 95 % by the likelihood ratio). False where the best is at an
/// end: then it is not a shift.
bool locate(const std::vector<KindLevels>& kinds, LevelShift& shift) {
    std::vector<const KindLevels*> agree;
    std::vector<Instant> middles;
    for (const KindLevels& of : kinds) {
        if (!agrees(of, middleOf(shift.between), shift.size)) continue;
        agree.push_back(&of);
        for (const RecurringStretch& s : of.stretches)
            if (const Instant m = middleOf(s.range); m >= shift.reach.from && m <= shift.reach.to)
                middles.push_back(m);
    }
    std::sort(middles.begin(), middles.end());
    if (middles.size() < 4) return true;
    std::vector<double> cost(middles.size(), 0);  // of a change just before each
    for (std::size_t i = 0; i < middles.size(); ++i)
        for (const KindLevels* of : agree) cost[i] += costOfCut(*of, shift.reach, middles[i]);
    const auto best = std::min_element(cost.begin() + 1, cost.end());
    const double most = *best + 3.84;
    std::size_t from = static_cast<std::size_t>(best - cost.begin()), to = from;
    while (from > 1 && cost[from - 1] <= most) --from;
    while (to + 1 < middles.size() && cost[to + 1] <= most) ++to;
    shift.between = {middles[from - 1], middles[to]};
    shift.seen = middles[to];
    return from > 1 && to + 1 < middles.size();
}

Moved movedIn(const std::vector<KindLevels>& of, Instant at) {
    Moved out;
    for (const int sign : {1, -1}) {
        std::vector<Estimate> kinds;
        double clearest = 0;
        for (const KindLevels& kind : of) {
            const auto shift = shiftOfKind(kind, at);
            if (!shift || sign * shift->size < kAgrees * shift->error) continue;
            kinds.push_back(*shift);
            clearest = std::max(clearest, std::abs(shift->size) / shift->error);
        }
        if ((kinds.size() >= 2 || clearest >= kLeastShift) && kinds.size() >= out.kinds) {
            out.by = together(kinds);
            out.kinds = kinds.size();
        }
    }
    return out;
}

double meanOf(const std::vector<double>& x, std::size_t from, std::size_t to) {
    return mean(std::span(x).subspan(from, to - from));
}

/// Standard deviation of the values, from differences over `lag`: where values depend on each other, it grows
/// with the lag until they do not.
double spreadOver(const std::vector<double>& x, std::size_t lag) {
    std::vector<double> apart;
    for (std::size_t i = lag; i < x.size(); ++i) apart.push_back(std::abs(x[i] - x[i - lag]));
    return 1.4826 * median(std::move(apart)) / std::sqrt(2.0);
}

/// How values spread once they do not depend on each other, and how much neighbours do: the correlation r
/// that differences of neighbours show against differences far apart. A mean of n of them is as certain as
/// one of n (1 − r)/(1 + r) independent values.
struct Independence {
    double spread = 0, correlation = 0;
    explicit Independence(const std::vector<double>& x) {
        spread = spreadOver(x, std::max<std::size_t>(2, x.size() / 8));
        const double near = spreadOver(x, 1);
        correlation = spread > 0 ? std::clamp(1 - near * near / (spread * spread), 0.0, 0.999) : 0;
    }
    double inflation() const { return (1 + correlation) / (1 - correlation); }
    bool wanders() const { return correlation > 0.5; }
};

/// The level changes at the cut, not over the whole segments: the nearest quarters on both sides differ by 60
/// % of what the segments do, or more.
bool changesAtCut(const std::vector<double>& x, std::size_t from, std::size_t cut, std::size_t to) {
    const std::size_t before = std::max<std::size_t>(1, (cut - from) / 4),
                      after = std::max<std::size_t>(1, (to - cut) / 4);
    const double whole = meanOf(x, cut, to) - meanOf(x, from, cut);
    const double near = meanOf(x, cut, cut + after) - meanOf(x, cut - before, cut);
    return near / whole >= 1 - kUneven;
}

std::vector<LevelShift> shiftsOfMean(const std::vector<double>& levels, const BlockGrid& grid) {
    std::vector<double> x;
    std::vector<Instant> at;
    for (std::size_t i = 0; i < levels.size(); ++i)
        if (!std::isnan(levels[i])) x.push_back(levels[i]), at.push_back(grid.start(i));
    if (x.size() < 20) return {};
    const Independence alone(x);
    if (!(alone.spread > 0)) return {};
    const double variance = alone.spread * alone.spread * alone.inflation();
    std::vector<std::size_t> cuts = meanChanges(x, 2 * variance * std::log(static_cast<double>(x.size())));
    cuts.insert(cuts.begin(), 0);
    cuts.push_back(x.size());
    std::vector<LevelShift> out;
    for (std::size_t c = 1; c + 1 < cuts.size(); ++c) {
        const std::size_t from = cuts[c - 1], cut = cuts[c], to = cuts[c + 1];
        LevelShift s;
        const auto off = static_cast<std::size_t>(alone.inflation()) - 1;  // the time is not known better
        s.between =
            s.reach = {at[cut - 1 > from + off ? cut - 1 - off : from], at[std::min(cut + off, to - 1)]};
        s.seen = at[cut];
        s.size = meanOf(x, cut, to) - meanOf(x, from, cut);
        s.error =
            std::sqrt(variance * (1 / static_cast<double>(cut - from) + 1 / static_cast<double>(to - cut)));
        s.score = std::abs(s.size) / s.error;
        if (s.score >= (alone.wanders() ? kLeastWandering : kLeastT) && changesAtCut(x, from, cut, to))
            out.push_back(s);
    }
    return out;
}

}  // namespace

std::vector<LevelShift> levelShifts(const TagScan& scan, const BlockGrid& grid) {
    if (scan.byScale.empty() && scan.byStretch.empty()) return shiftsOfMean(scan.levels.levels(), grid);
    const std::vector<KindLevels> kinds = kindsOf(scan.byStretch, scan.resolution);
    std::vector<LevelShift> all;
    for (const KindLevels& of : kinds) {
        const auto some = shiftsOfKind(of);
        all.insert(all.end(), some.begin(), some.end());
    }
    all = joined(std::move(all));
    std::erase_if(all, [&](LevelShift& shift) {
        const auto agree = std::count_if(kinds.begin(), kinds.end(), [&](const KindLevels& of) {
            return agrees(of, middleOf(shift.between), shift.size);
        });
        return (kinds.size() > 2 && agree < 2) || !locate(kinds, shift);
    });
    return all;
}

Moved movedAt(const TagScan& scan, Instant at) {
    return movedIn(kindsOf(scan.byStretch, scan.resolution), at);
}

Moved movedInAnyScale(const TagScan& scan, Instant at) {
    Moved out;
    for (const auto& byStretch : scan.byScale) {
        const Moved moved = movedIn(kindsOf(byStretch, scan.resolution), at);
        if (moved.kinds > out.kinds) out = moved;
    }
    return out;
}

}  // namespace jacinth
