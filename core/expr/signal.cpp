#include "core/expr/signal.h"

#include <algorithm>
#include <limits>

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

Signal signalOf(const SeriesView& series, const Bridging& bridging, Instant begins) {
    Signal s;
    s.stepped = bridging.kind != TagKind::Continuous;
    s.begins = begins;
    std::vector<Instant> times;
    std::vector<double> values;
    times.reserve(series.size());
    values.reserve(series.size());
    const auto knot = [&](Instant t, double v) {
        times.push_back(t);
        values.push_back(v);
    };
    const auto known = [&] { return !times.empty() && std::isfinite(values.back()); };
    for (std::size_t i = 0; i < series.size(); ++i) {
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

Condition compareWithZero(const Signal& difference, Comparison comparison) {
    Condition out;
    const KnotsView d(difference);
    if (difference.constant) {
        out.push(kNoInstant, std::isnan(d.values[0]) ? Truth::Unknown : truthOf(d.values[0], comparison));
        return out;
    }
    const std::size_t n = d.times.size();
    for (std::size_t i = 0; i < n; ++i) {
        const Instant t = d.times[i];
        const double v = d.values[i];
        // Most knots lie on the same side as both their neighbours: nothing changes there.
        if (i > 0 && i + 1 < n &&
            ((d.values[i - 1] > 0 && v > 0 && d.values[i + 1] > 0) ||
             (d.values[i - 1] < 0 && v < 0 && d.values[i + 1] < 0)))
            continue;
        if (std::isnan(v)) {
            out.push(t, Truth::Unknown);
        } else if (d.stepped) {
            out.push(t, truthOf(v, comparison));
        } else if (i + 1 == n || std::isnan(d.values[i + 1])) {
            // The sample itself is known, what follows is not.
            out.push(t, truthOf(v, comparison));
            out.push(t + kNanosecond, Truth::Unknown);
        } else {
            const double next = d.values[i + 1];
            out.push(t, truthOf(v, comparison));
            // From a sample exactly on 0 the line leaves to the side it heads for.
            if (v == 0) out.push(t + kNanosecond, truthOf(next, comparison));
            if ((v < 0 && next > 0) || (v > 0 && next < 0)) {
                const double step = toNanoseconds(d.times[i + 1] - t);
                out.push(t + Duration(std::llround(step * (v / (v - next)))), truthOf(next, comparison));
            }
        }
    }
    return out;
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

namespace {
/// Where `matches` holds without a break for longer than d, from d after its start.
template <typename Matches>
Condition shrunk(const Condition& c, Duration d, Matches matches) {
    Condition out;
    for (std::size_t i = 0; i < c.times.size();) {
        if (!matches(c.values[i])) {
            out.push(c.times[i], Truth::False);
            ++i;
            continue;
        }
        const Instant start = c.times[i];
        while (i < c.times.size() && matches(c.values[i])) ++i;
        const Instant from = start == kNoInstant ? start : start + d;
        out.push(start, from == start ? Truth::True : Truth::False);
        if (from != start && (i == c.times.size() || from < c.times[i])) out.push(from, Truth::True);
    }
    return out;
}
}  // namespace

Condition lasting(const Condition& c, Duration d) {
    // True where it surely held for d; unknown where, for all that is known, it may have.
    const Condition sure = shrunk(c, d, [](Truth v) { return v == Truth::True; });
    // Before the first that is known it may have held as well.
    Condition open = c;
    if (!open.times.empty() && open.times.front() > kNoInstant + d + kNanosecond) {
        open.times.insert(open.times.begin(), open.times.front() - d - kNanosecond);
        open.values.insert(open.values.begin(), Truth::Unknown);
    }
    const Condition maybe = shrunk(open, d, [](Truth v) { return v != Truth::False; });
    const Condition all = mergeConditions(sure, maybe, [](Truth s, Truth m) {
        if (s == Truth::True) return Truth::True;
        return m == Truth::True ? Truth::Unknown : Truth::False;
    });
    if (c.times.empty()) return all;
    Condition out;
    out.push(c.times.front(), conditionAt(all, c.times.front()));
    for (std::size_t i = 0; i < all.times.size(); ++i)
        if (all.times[i] > c.times.front()) out.push(all.times[i], all.values[i]);
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
