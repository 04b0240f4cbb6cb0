#include "core/expr/signal.h"

#include <algorithm>
#include <limits>
#include <optional>

#include "core/base/missing.h"

namespace jacinth {
namespace {

/// Reads a signal at rising times in constant time each.
class Walker {
  public:
    explicit Walker(const Signal& s) : s_(s), constant_(s.constant) {}
    double at(Instant t) {
        if (constant_) return s_.values[0];
        while (next_ < s_.times.size() && s_.times[next_] <= t) ++next_;
        if (next_ == 0) return kMissing;
        const std::size_t i = next_ - 1;
        if (s_.stepped || s_.times[i] == t) return s_.values[i];
        if (next_ == s_.times.size()) return kMissing;
        const double share = toNanoseconds(t - s_.times[i]) / toNanoseconds(s_.times[next_] - s_.times[i]);
        return s_.values[i] + share * (s_.values[next_] - s_.values[i]);
    }

  private:
    KnotsView s_;
    bool constant_;
    std::size_t next_ = 0;
};

std::vector<Instant> unionOf(const std::vector<Instant>& a, const std::vector<Instant>& b) {
    std::vector<Instant> out;
    out.reserve(a.size() + b.size());
    std::set_union(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(out));
    return out;
}

/// Just after each knot from which no line goes on.
std::vector<Instant> endsOfLines(const Signal& s) {
    std::vector<Instant> out;
    if (s.constant || s.stepped) return out;
    for (std::size_t i = 0; i < s.times.size(); ++i)
        if (std::isfinite(s.values[i]) && (i + 1 == s.times.size() || !std::isfinite(s.values[i + 1])))
            out.push_back(s.times[i] + kNanosecond);
    return out;
}

Truth truthOf(double d, Comparison c) {
    switch (c) {
        case Comparison::Less:
            return d < 0 ? Truth::True : Truth::False;
        case Comparison::LessEqual:
            return d <= 0 ? Truth::True : Truth::False;
        case Comparison::Greater:
            return d > 0 ? Truth::True : Truth::False;
        case Comparison::GreaterEqual:
            return d >= 0 ? Truth::True : Truth::False;
        case Comparison::Equal:
            return d == 0 ? Truth::True : Truth::False;
        case Comparison::NotEqual:
            return d != 0 ? Truth::True : Truth::False;
    }
    return Truth::Unknown;
}

template <typename F>
Condition mergeConditions(const Condition& a, const Condition& b, F f) {
    Condition out;
    std::size_t i = 0, j = 0;
    Truth va = Truth::Unknown, vb = Truth::Unknown;
    while (i < a.times.size() || j < b.times.size()) {
        Instant t = Instant::max();
        if (i < a.times.size()) t = std::min(t, a.times[i]);
        if (j < b.times.size()) t = std::min(t, b.times[j]);
        if (i < a.times.size() && a.times[i] == t) va = a.values[i++];
        if (j < b.times.size() && b.times[j] == t) vb = b.values[j++];
        out.push(t, f(va, vb));
    }
    return out;
}

}  // namespace

Signal constantSignal(double value) {
    Signal s;
    s.constant = true;
    s.values = {value};
    return s;
}

namespace {

/// Is every sample usable, and what it says known until the next one?
bool isWithoutGaps(const SeriesView& series, const Bridging& bridging) {
    if (!series.quality.empty()) return false;
    if (bridging.kind != TagKind::Continuous && bridging.longestGap != kWithoutEnd) return false;
    for (std::size_t i = 0; i < series.size(); ++i) {
        if (!std::isfinite(series.values[i])) return false;
        if (i > 0 && series.times[i] - series.times[i - 1] > bridging.longestGap) return false;
    }
    return true;
}

Signal emptySignal(const Bridging& bridging, Instant begins) {
    Signal out;
    out.stepped = bridging.kind != TagKind::Continuous;
    out.begins = begins;
    return out;
}

/// How far samples follow the one before `i` without anything between them that would be a knot of its own.
std::size_t endOfRun(const SeriesView& series, const Bridging& bridging, std::size_t i) {
    if (i == 0 || !series.usable(i - 1)) return i;
    while (i < series.size() && series.usable(i) &&
           series.times[i] - series.times[i - 1] <= bridging.longestGap)
        ++i;
    return i;
}

Signal signalWithGaps(const SeriesView& series, const Bridging& bridging, Instant begins) {
    Signal s = emptySignal(bridging, begins);
    std::vector<Instant> times;
    std::vector<double> values;
    times.reserve(series.size() + series.size() / 16);
    values.reserve(times.capacity());
    const auto knot = [&](Instant t, double v) {
        times.push_back(t);
        values.push_back(v);
    };
    const auto known = [&] { return !times.empty() && std::isfinite(values.back()); };
    for (std::size_t i = 0; i < series.size(); ++i) {
        if (const std::size_t end = known() ? endOfRun(series, bridging, i) : i; end > i) {
            times.insert(times.end(), series.times.begin() + i, series.times.begin() + end);
            values.insert(values.end(), series.values.begin() + i, series.values.begin() + end);
            if ((i = end) == series.size()) break;
        }
        const Instant t = series.times[i];
        if (series.ends(i) && known()) knot(t, kMissing);
        if (!series.usable(i)) continue;
        if (known() && bridging.longestGap != kWithoutEnd && t - times.back() > bridging.longestGap)
            knot(times.back() + (s.stepped ? bridging.longestGap : kNanosecond), kMissing);
        knot(t, series.values[i]);
    }
    if (s.stepped && bridging.longestGap != kWithoutEnd && known())
        knot(times.back() + bridging.longestGap, kMissing);
    s.times = std::move(times);
    s.values = std::move(values);
    return s;
}

}  // namespace

Signal signalOf(Series series, const Bridging& bridging, Instant begins) {
    if (!isWithoutGaps(series, bridging)) return signalWithGaps(series, bridging, begins);
    Signal out = emptySignal(bridging, begins);
    out.times = std::move(series.times);
    out.values = std::move(series.values);
    return out;
}

Signal signalOf(const SeriesView& series, const Bridging& bridging, Instant begins) {
    if (!isWithoutGaps(series, bridging)) return signalWithGaps(series, bridging, begins);
    Signal out = emptySignal(bridging, begins);
    out.times = std::vector<Instant>(series.times.begin(), series.times.end());
    out.values = std::vector<double>(series.values.begin(), series.values.end());
    return out;
}

namespace {
double numberOrMissing(double v) {
    return std::isfinite(v) ? v : kMissing;
}

/// One of them is constant, or both have the same knots: the values are calculated in place.
template <typename F>
Signal combineInPlace(Signal a, const Signal& b, F f) {
    std::vector<double>& values = a.values.edit();
    if (b.constant) {
        const double c = b.values[0];
        for (double& v : values) v = numberOrMissing(f(v, c));
    } else {
        const std::vector<double>& others = b.values;
        for (std::size_t i = 0; i < values.size(); ++i) values[i] = numberOrMissing(f(values[i], others[i]));
    }
    return a;
}

template <typename F>
Signal combineWith(Signal a, Signal b, F f) {
    if (a.constant && b.constant) return constantSignal(f(a.values[0], b.values[0]));
    a.states.clear();
    b.states.clear();
    const bool alike = !a.constant && !b.constant && a.stepped == b.stepped && a.times == b.times;
    if (alike) a.begins = std::max(a.begins, b.begins);
    if (b.constant || alike) return combineInPlace(std::move(a), b, f);
    if (a.constant) return combineInPlace(std::move(b), a, [&](double x, double y) { return f(y, x); });
    Signal out;
    out.stepped = a.stepped || b.stepped;
    out.begins = std::max(a.begins, b.begins);
    out.times = unionOf(a.times, b.times);
    // Beside what is held, the end of a line is a knot too, or the last sum would be held on.
    if (out.stepped)
        for (const Signal* s : {&a, &b})
            if (const auto ends = endsOfLines(*s); !ends.empty()) out.times = unionOf(out.times, ends);
    std::vector<double> values;
    values.reserve(out.times.size());
    Walker wa(a), wb(b);
    for (const Instant t : out.times) values.push_back(numberOrMissing(f(wa.at(t), wb.at(t))));
    out.values = std::move(values);
    return out;
}
}  // namespace

Signal combine(Signal a, Signal b, const std::function<double(double, double)>& f) {
    return combineWith(std::move(a), std::move(b), f);
}

Signal combine(Signal a, Signal b, Operator by) {
    const auto with = [&](auto f) { return combineWith(std::move(a), std::move(b), f); };
    switch (by) {
        case Operator::Add:
            return with([](double x, double y) { return x + y; });
        case Operator::Subtract:
            return with([](double x, double y) { return x - y; });
        case Operator::Multiply:
            return with([](double x, double y) { return x * y; });
        case Operator::Divide:
            return with([](double x, double y) { return x / y; });
    }
    return {};
}

Signal transform(Signal a, const std::function<double(double)>& f) {
    for (double& v : a.values.edit()) {
        v = f(v);
        if (!std::isfinite(v)) v = kMissing;
    }
    return a;
}

Signal withKnots(Signal x, const std::vector<Instant>& times) {
    if (x.constant || times.empty()) return x;
    std::vector<Instant> all = unionOf(x.times, times);
    std::vector<double> values;
    values.reserve(all.size());
    Walker walk(x);
    for (const Instant t : all) values.push_back(walk.at(t));
    x.times = std::move(all);
    x.values = std::move(values);
    return x;
}

double signalAt(const Signal& s, Instant t) {
    if (s.constant) return s.values[0];
    const std::size_t next = std::upper_bound(s.times.begin(), s.times.end(), t) - s.times.begin();
    if (next == 0) return kMissing;
    const std::size_t i = next - 1;
    if (s.stepped || s.times[i] == t) return s.values[i];
    if (next == s.times.size()) return kMissing;
    const double share = toNanoseconds(t - s.times[i]) / toNanoseconds(s.times[next] - s.times[i]);
    return s.values[i] + share * (s.values[next] - s.values[i]);
}

void Condition::push(Instant t, Truth v) {
    if (!times.empty() && times.back() == t) {
        values.back() = v;
        if (values.size() > 1 && values[values.size() - 2] == v) {
            times.pop_back();
            values.pop_back();
        }
        return;
    }
    if (!values.empty() && values.back() == v) return;
    times.push_back(t);
    values.push_back(v);
}

Truth conditionAt(const Condition& c, Instant t) {
    const auto after = std::upper_bound(c.times.begin(), c.times.end(), t);
    return after == c.times.begin() ? Truth::Unknown
                                    : c.values[static_cast<std::size_t>(after - c.times.begin()) - 1];
}

Comparison mirrored(Comparison comparison) {
    switch (comparison) {
        case Comparison::Less:
            return Comparison::Greater;
        case Comparison::LessEqual:
            return Comparison::GreaterEqual;
        case Comparison::Greater:
            return Comparison::Less;
        case Comparison::GreaterEqual:
            return Comparison::LessEqual;
        default:
            return comparison;
    }
}

BlockExtremes::BlockExtremes(const Signal& x) {
    const std::vector<double>& values = x.values;
    for (std::size_t from = 0; from < values.size(); from += kKnots) {
        const std::size_t end = std::min(from + kKnots + 1, values.size());
        double least = values[from], greatest = values[from];
        bool missing = false;
        for (std::size_t i = from; i < end; ++i) {
            missing |= std::isnan(values[i]);
            least = std::min(least, values[i]);
            greatest = std::max(greatest, values[i]);
        }
        least_.push_back(missing ? kMissing : least);
        greatest_.push_back(missing ? kMissing : greatest);
    }
}

namespace {

/// Puts down where the comparison of a signal with a level changes, knot by knot.
class LevelCrossings {
  public:
    LevelCrossings(const Signal& x, double level, Comparison comparison)
        : x_(x), level_(level), comparison_(comparison) {}

    void at(std::size_t i) {
        const Instant t = x_.times[i];
        const double v = above(i);
        if (std::isnan(v)) return out_.push(t, Truth::Unknown);
        out_.push(t, truthOf(v, comparison_));
        if (x_.stepped) return;
        const double next = i + 1 < x_.times.size() ? above(i + 1) : kMissing;
        // The sample itself is known, what follows is not.
        if (std::isnan(next)) return out_.push(t + kNanosecond, Truth::Unknown);
        // From a sample exactly on the level the line leaves to the side it heads for.
        if (v == 0) out_.push(t + kNanosecond, truthOf(next, comparison_));
        if ((v < 0 && next > 0) || (v > 0 && next < 0)) {
            const double step = toNanoseconds(x_.times[i + 1] - t);
            out_.push(t + Duration(std::llround(step * (v / (v - next)))), truthOf(next, comparison_));
        }
    }
    /// Most knots lie on the same side as both their neighbours, or are missing as these are: nothing changes
    /// there.
    bool isQuiet(std::size_t i) const {
        if (i == 0 || i + 1 == x_.values.size()) return false;
        const double before = x_.values[i - 1], v = x_.values[i], next = x_.values[i + 1];
        return (before > level_ && v > level_ && next > level_) ||
               (before < level_ && v < level_ && next < level_) ||
               (std::isnan(before) && std::isnan(v) && std::isnan(next));
    }
    std::size_t size() const { return x_.times.size(); }
    Condition take() { return std::move(out_); }

  private:
    double above(std::size_t i) const {
        const double v = x_.values[i] - level_;
        return std::isfinite(v) ? v : kMissing;
    }
    KnotsView x_;
    double level_;
    Comparison comparison_;
    Condition out_;
};

}  // namespace

namespace {
bool allOnOneSide(std::span<const double> values, double level) {
    if (values.front() > level)
        return std::all_of(values.begin(), values.end(), [=](double v) { return v > level; });
    return std::all_of(values.begin(), values.end(), [=](double v) { return v < level; });
}
}  // namespace

Condition compareWithLevel(const Signal& x, double level, Comparison comparison,
                           const BlockExtremes* extremes) {
    if (x.constant) {
        Condition out;
        const double v = x.values[0] - level;
        out.push(kNoInstant, std::isnan(v) ? Truth::Unknown : truthOf(v, comparison));
        return out;
    }
    LevelCrossings crossings(x, level, comparison);
    const std::size_t n = crossings.size();
    const auto isOnOneSide = [&](std::size_t from) {
        if (n - from <= BlockExtremes::kKnots) return false;  // after the last knot nothing is known
        if (extremes) return extremes->onOneSide(from / BlockExtremes::kKnots, level);
        return allOnOneSide(std::span(x.values.get()).subspan(from, BlockExtremes::kKnots + 1), level);
    };
    for (std::size_t from = 0; from < n; from += BlockExtremes::kKnots) {
        if (isOnOneSide(from)) {
            crossings.at(from);
            continue;
        }
        for (std::size_t i = from; i < std::min(n, from + BlockExtremes::kKnots); ++i)
            if (!crossings.isQuiet(i)) crossings.at(i);
    }
    return crossings.take();
}

Condition isOneOf(const Signal& states, const std::vector<int>& codes) {
    Condition out;
    for (std::size_t i = 0; i < states.times.size(); ++i) {
        const double v = states.values[i];
        if (std::isnan(v)) {
            out.push(states.times[i], Truth::Unknown);
            continue;
        }
        const bool found = std::find(codes.begin(), codes.end(), static_cast<int>(v)) != codes.end();
        out.push(states.times[i], found ? Truth::True : Truth::False);
    }
    return out;
}

Condition operator!(const Condition& c) {
    Condition out = c;
    for (Truth& v : out.values)
        if (v != Truth::Unknown) v = v == Truth::True ? Truth::False : Truth::True;
    return out;
}

Condition both(const Condition& a, const Condition& b) {
    return mergeConditions(a, b, [](Truth x, Truth y) {
        if (x == Truth::False || y == Truth::False) return Truth::False;
        return x == Truth::True && y == Truth::True ? Truth::True : Truth::Unknown;
    });
}

Condition either(const Condition& a, const Condition& b) {
    return mergeConditions(a, b, [](Truth x, Truth y) {
        if (x == Truth::True || y == Truth::True) return Truth::True;
        return x == Truth::False && y == Truth::False ? Truth::False : Truth::Unknown;
    });
}

Condition lasting(const Condition& c, Duration d) {
    Condition out;
    // Since when it surely held, and since when, for all that is known, it may have: before the first that is
    // known as well.
    std::optional<Instant> sure, open = kNoInstant;
    const auto heldFrom = [&](Instant since) { return since == kNoInstant ? since : since + d; };
    for (std::size_t i = 0; i < c.times.size(); ++i) {
        const Instant t = c.times[i], end = i + 1 < c.times.size() ? c.times[i + 1] : Instant::max();
        if (c.values[i] == Truth::False) {
            sure = open = {};
            out.push(t, Truth::False);
            continue;
        }
        if (c.values[i] == Truth::Unknown) sure = {};
        if (c.values[i] == Truth::True && !sure) sure = t;
        if (!open) open = t;
        const Instant mayFrom = heldFrom(*open), isFrom = sure ? heldFrom(*sure) : Instant::max();
        out.push(t, isFrom <= t ? Truth::True : mayFrom <= t ? Truth::Unknown : Truth::False);
        if (mayFrom > t && mayFrom < end && mayFrom < isFrom) out.push(mayFrom, Truth::Unknown);
        if (isFrom > t && isFrom < end) out.push(isFrom, Truth::True);
    }
    return out;
}

std::vector<TimeRange> stretches(const Condition& c, TimeRange range, Truth wanted) {
    std::vector<TimeRange> out;
    if (wanted == Truth::Unknown && (c.times.empty() || c.times.front() > range.from))
        out.push_back({range.from, c.times.empty() ? range.to : std::min(range.to, c.times.front())});
    for (std::size_t i = 0; i < c.times.size(); ++i) {
        if (c.values[i] != wanted) continue;
        const Instant from = std::max(range.from, c.times[i]);
        const Instant to = std::min(range.to, i + 1 < c.times.size() ? c.times[i + 1] : range.to);
        if (from < to) out.push_back({from, to});
    }
    return out;
}

}  // namespace jacinth
