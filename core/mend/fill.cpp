#include "core/mend/fill.h"

#include <algorithm>
#include <cmath>

#include "core/mend/interpolate.h"
#include "core/series/value_at.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::size_t kMostFitted = 400;
constexpr std::size_t kAnchors = 16;  // usable samples on either side that a curve goes through

Duration anchorReach(Duration spacing) {
    return 2 * static_cast<std::int64_t>(kAnchors) * spacing;
}

/// Usable samples on either side of a gap, in time order, at most so many on each and within a time.
struct Sides {
    std::vector<Instant> times;
    std::vector<double> values;
    std::size_t before = 0;  ///< how many of them lie before the gap
};

Sides sidesOf(const SeriesView& s, const Gap& gap, std::size_t most, Duration within) {
    Sides out;
    if (gap.before > 0) {
        const Instant end = s.times[gap.before - 1];
        for (std::size_t i = gap.before; i-- > 0 && out.times.size() < most && end - s.times[i] <= within;)
            if (s.usable(i)) out.times.push_back(s.times[i]), out.values.push_back(s.values[i]);
        std::reverse(out.times.begin(), out.times.end());
        std::reverse(out.values.begin(), out.values.end());
        out.before = out.times.size();
    }
    if (gap.after < s.size()) {
        const Instant start = s.times[gap.after];
        for (std::size_t i = gap.after, n = 0; i < s.size() && n < most && s.times[i] - start <= within; ++i)
            if (s.usable(i)) out.times.push_back(s.times[i]), out.values.push_back(s.values[i]), ++n;
    }
    return out;
}

double secondsFrom(Instant start, Instant t) {
    return toSeconds(t - start);
}

std::vector<Instant> gridIn(const SeriesView& s, const Gap& gap, Duration spacing) {
    std::vector<Instant> out;
    const Instant start = s.times[gap.before - 1], end = s.times[gap.after];
    if (spacing <= Duration::zero() || samplesToFill({start, end}, spacing) > kMostFilled) return out;
    const std::int64_t first =
        gap.filled.from <= start ? 1 : std::max<std::int64_t>(1, (gap.filled.from - start) / spacing);
    // The last one is not put closer to the sample after the gap than half a spacing.
    for (Instant t = start + first * spacing; t + spacing / 2 <= end && t <= gap.filled.to; t += spacing)
        if (t >= gap.filled.from) out.push_back(t);
    return out;
}

Series samplesAt(const std::vector<Instant>& times, const auto& valueOf) {
    Series out;
    for (const Instant t : times)
        if (const double v = valueOf(t); std::isfinite(v)) out.push(t, v, Quality::Uncertain);
    return out;
}

Series bridged(const SeriesView& s, const Gap& gap, const BridgeFix& bridge, Duration spacing) {
    const Instant start = s.times[gap.before - 1], end = s.times[gap.after];
    if (end - start > bridge.longest) return {};
    const std::vector<Instant> times = gridIn(s, gap, spacing);
    const double a = s.values[gap.before - 1], b = s.values[gap.after];
    if (bridge.way == BridgeFix::Way::Hold) return samplesAt(times, [&](Instant) { return a; });
    if (bridge.way == BridgeFix::Way::Line)
        return samplesAt(times, [&](Instant t) {
            return a + (b - a) * (toNanoseconds(t - start) / toNanoseconds(end - start));
        });
    const Sides sides = sidesOf(s, gap, kAnchors, anchorReach(spacing));
    std::vector<double> x;
    for (const Instant t : sides.times) x.push_back(secondsFrom(start, t));
    const PiecewiseCubic curve = bridge.way == BridgeFix::Way::Cubic
                                     ? PiecewiseCubic::monotone(x, sides.values)
                                     : PiecewiseCubic::natural(x, sides.values);
    return samplesAt(times, [&](Instant t) { return curve.at(secondsFrom(start, t)); });
}

/// y = a + b·x; moved without scaling where the twin stands still or hardly anything can be compared.
struct Scaled {
    double a = 0, b = 1;
    bool known = false;
};

Scaled scaleOf(const Sides& sides, const SeriesView& twin, const Bridging& bridging) {
    std::vector<double> x, y;
    for (std::size_t i = 0; i < sides.times.size(); ++i) {
        const double v = valueAt(twin, bridging, sides.times[i]);
        if (!std::isfinite(v)) continue;
        x.push_back(v);
        y.push_back(sides.values[i]);
    }
    if (x.empty()) return {};
    const double spread = *std::max_element(x.begin(), x.end()) - *std::min_element(x.begin(), x.end());
    const Line line = x.size() >= 8 && spread > 0 ? fitLine(x, y) : Line{};
    if (x.size() >= 8 && std::isfinite(line.slope) && spread > 0) return {line.intercept, line.slope, true};
    double sum = 0;
    for (std::size_t i = 0; i < x.size(); ++i) sum += y[i] - x[i];
    return {sum / static_cast<double>(x.size()), 1, true};
}

Series borrowed(const SeriesView& s, const Gap& gap, const BorrowFix& borrow, Duration spacing,
                const TwinSamples& twinOf) {
    const Instant start = s.times[gap.before - 1], end = s.times[gap.after];
    const Series twin = twinOf({start - borrow.margin, end + borrow.margin + kNanosecond});
    const Bridging bridging{TagKind::Continuous,
                            defaultLongestGap(TagKind::Continuous, medianSpacing(twin.times))};
    const Sides sides = sidesOf(s, gap, s.size(), borrow.margin);
    const Scaled scale = scaleOf(sides, twin, bridging);
    if (!scale.known) return {};
    const auto missing = [&](Instant t, double value) {
        const double v = valueAt(twin, bridging, t);
        return std::isfinite(v) ? value - (scale.a + scale.b * v) : 0.0;
    };
    // What is left at both ends is taken away by a line, so that the fill meets both.
    const double atStart = missing(start, s.values[gap.before - 1]),
                 atEnd = missing(end, s.values[gap.after]);
    return samplesAt(gridIn(s, gap, spacing), [&](Instant t) {
        const double share = toNanoseconds(t - start) / toNanoseconds(end - start);
        return scale.a + scale.b * valueAt(twin, bridging, t) + atStart + (atEnd - atStart) * share;
    });
}

/// The sum of squares that is left by v = floor + c·exp(−t/τ), with floor and c by least squares.
double leftBy(const std::vector<double>& t, const std::vector<double>& v, double tau) {
    std::vector<double> e;
    for (const double at : t) e.push_back(std::exp(-at / tau));
    const Line line = fitLine(e, v);
    if (!std::isfinite(line.slope)) return std::numeric_limits<double>::infinity();
    double sum = 0;
    for (std::size_t i = 0; i < v.size(); ++i) {
        const double left = v[i] - line.intercept - line.slope * e[i];
        sum += left * left;
    }
    return sum;
}

/// τ of the samples before the gap in seconds, by golden-section search over its logarithm; none for too few.
std::optional<double> fittedTau(const Sides& sides) {
    std::vector<double> t, v;
    // Some hundred of them say as much as all.
    const std::size_t step = 1 + sides.before / kMostFitted;
    for (std::size_t i = 0; i < sides.before; i += step) {
        t.push_back(secondsFrom(sides.times[0], sides.times[i]));
        v.push_back(sides.values[i]);
    }
    if (t.size() < 4 || t.back() <= 0) return {};
    // Between a twentieth and ten times of what is seen; outside of that it is not a decay.
    double low = std::log(t.back() / 20), high = std::log(t.back() * 10);
    const double ratio = (std::sqrt(5.0) - 1) / 2;
    double a = high - ratio * (high - low), b = low + ratio * (high - low);
    double atA = leftBy(t, v, std::exp(a)), atB = leftBy(t, v, std::exp(b));
    for (int i = 0; i < 40; ++i) {
        if (atA < atB) {
            high = b, b = a, atB = atA;
            a = high - ratio * (high - low);
            atA = leftBy(t, v, std::exp(a));
        } else {
            low = a, a = b, atA = atB;
            b = low + ratio * (high - low);
            atB = leftBy(t, v, std::exp(b));
        }
    }
    return std::exp((low + high) / 2);
}

Series decayed(const SeriesView& s, const Gap& gap, const DecayFix& decay, Duration spacing) {
    const Instant start = s.times[gap.before - 1], end = s.times[gap.after];
    const std::optional<double> tau =
        decay.tau ? toSeconds(*decay.tau) : fittedTau(sidesOf(s, gap, s.size(), decay.margin));
    if (!tau) return {};
    const double a = s.values[gap.before - 1], b = s.values[gap.after];
    // Through both ends: floor + (a − floor)·e = b at the end of the gap.
    const double rest = std::exp(-secondsFrom(start, end) / *tau);
    const double floor = (b - a * rest) / (1 - rest);
    if (!std::isfinite(floor)) return {};
    return samplesAt(gridIn(s, gap, spacing), [&](Instant t) {
        return floor + (a - floor) * std::exp(-secondsFrom(start, t) / *tau);
    });
}

}  // namespace

std::int64_t samplesToFill(TimeRange gap, Duration spacing) {
    return spacing <= Duration::zero() ? 0 : gap.length() / spacing;
}

std::vector<Gap> gapsIn(const SeriesView& s, const Fix& fix, Duration spacing, bool over) {
    std::vector<Gap> out;
    std::optional<std::size_t> last;
    bool unusable = false;
    for (std::size_t i = 0; i < s.size() && (!last || s.times[*last] <= fix.to); ++i) {
        const bool replaced = over && s.times[i] >= fix.from && s.times[i] <= fix.to;
        if (replaced || !s.usable(i)) {
            unusable = true;
            continue;
        }
        const bool gap = last && (unusable || s.times[i] - s.times[*last] > 2 * spacing);
        if (gap && s.times[i] > fix.from && s.times[*last] < fix.to)
            out.push_back({*last + 1,
                           i,
                           {std::max(fix.from, s.times[*last] + kNanosecond),
                            std::min(fix.to, s.times[i] - kNanosecond)}});
        last = i;
        unusable = false;
    }
    return out;
}

Series fillOf(const SeriesView& series, const Gap& gap, const Fix& fix, Duration spacing,
              const TwinSamples& twin) {
    if (const auto* bridge = std::get_if<BridgeFix>(&fix.body)) return bridged(series, gap, *bridge, spacing);
    if (const auto* borrow = std::get_if<BorrowFix>(&fix.body))
        return borrowed(series, gap, *borrow, spacing, twin);
    if (const auto* decay = std::get_if<DecayFix>(&fix.body)) return decayed(series, gap, *decay, spacing);
    return {};
}

Duration fillReach(const Fix& fix, Duration spacing) {
    const Duration anchors = anchorReach(spacing);
    if (const auto* bridge = std::get_if<BridgeFix>(&fix.body)) return anchors + bridge->longest;
    if (const auto* borrow = std::get_if<BorrowFix>(&fix.body)) return std::max(anchors, borrow->margin);
    if (const auto* decay = std::get_if<DecayFix>(&fix.body)) return std::max(anchors, decay->margin);
    return {};
}

}  // namespace jacinth
