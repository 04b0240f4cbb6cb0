#include "core/expr/reshape.h"

#include <algorithm>

#include "core/base/missing.h"

namespace jacinth {
namespace {

/// Adds what `x` is over [from, to) to a signal that is built from left to right.
class Branches {
  public:
    explicit Branches(bool stepped) { out_.stepped = stepped; }

    void add(const Signal* x, TimeRange part) {
        if (part.from >= part.to) return;
        knot(part.from, x ? signalAt(*x, part.from) : kMissing);
        if (x && !x->constant) addKnots(*x, part);
        if (!out_.stepped && part.to - part.from > kNanosecond)
            knot(part.to - kNanosecond, x ? signalAt(*x, part.to - kNanosecond) : kMissing);
    }
    Signal take() { return std::move(out_); }

  private:
    void addKnots(const Signal& x, TimeRange part) {
        const auto first = std::upper_bound(x.times.begin(), x.times.end(), part.from);
        for (auto t = first; t != x.times.end() && *t < part.to; ++t) {
            const auto i = static_cast<std::size_t>(t - x.times.begin());
            if (!out_.stepped && x.stepped && i > 0) knot(*t - kNanosecond, x.values[i - 1]);
            knot(*t, x.values[i]);
        }
    }
    void knot(Instant t, double v) {
        if (!out_.times.empty() && out_.times.back() >= t) return;
        out_.times.edit().push_back(t);
        out_.values.edit().push_back(v);
    }
    Signal out_;
};

bool holds(const Signal& x) {
    return x.stepped || x.constant;
}

Instant shifted(Instant t, Duration d) {
    return t == kNoInstant ? t : t + d;
}

}  // namespace

Signal delayed(Signal x, Duration d) {
    for (Instant& t : x.times.edit()) t = shifted(t, d);
    x.begins = shifted(x.begins, d);
    return x;
}

Condition delayed(Condition c, Duration d) {
    for (Instant& t : c.times) t = shifted(t, d);
    return c;
}

Condition isMissing(const Signal& x) {
    Condition out;
    if (x.constant) {
        out.push(kNoInstant, std::isnan(x.values[0]) ? Truth::True : Truth::False);
        return out;
    }
    out.push(kNoInstant, Truth::True);
    for (std::size_t i = 0; i < x.times.size(); ++i) {
        const bool known = std::isfinite(x.values[i]);
        out.push(x.times[i], known ? Truth::False : Truth::True);
        const bool lineGoesOn = i + 1 < x.times.size() && std::isfinite(x.values[i + 1]);
        if (known && !x.stepped && !lineGoesOn) out.push(x.times[i] + kNanosecond, Truth::True);
    }
    return out;
}

Condition isUnknown(const Condition& c) {
    Condition out;
    out.push(kNoInstant, Truth::True);
    for (std::size_t i = 0; i < c.times.size(); ++i)
        out.push(c.times[i], c.values[i] == Truth::Unknown ? Truth::True : Truth::False);
    return out;
}

Signal chosen(const Condition& c, const Signal& a, const Signal& b, TimeRange range) {
    Branches out(holds(a) && holds(b));
    Instant at = range.from;
    if (c.times.empty() || c.times.front() > at) {
        const Instant end = c.times.empty() ? range.to : std::min(range.to, c.times.front());
        out.add(nullptr, {at, end});
        at = end;
    }
    for (std::size_t i = 0; i < c.times.size(); ++i) {
        const Instant from = std::max(range.from, c.times[i]);
        const Instant to = i + 1 < c.times.size() ? std::min(range.to, c.times[i + 1]) : range.to;
        out.add(c.values[i] == Truth::Unknown ? nullptr : c.values[i] == Truth::True ? &a : &b, {from, to});
    }
    Signal made = out.take();
    made.begins = std::max({a.begins, b.begins, c.times.empty() ? kNoInstant : c.times.front()});
    return made;
}

Signal elapsedSince(const Condition& c, Instant from, Instant end) {
    Signal out;
    const auto knot = [&](Instant t, double v) {
        if (!out.times.empty() && out.times.back() >= t) return;
        out.times.edit().push_back(t);
        out.values.edit().push_back(v);
    };
    for (std::size_t i = 0; i < c.times.size(); ++i) {
        const Instant start = std::max(from, c.times[i]);
        const Instant stop = i + 1 < c.times.size() ? std::min(end, c.times[i + 1]) : end;
        if (start >= stop) continue;
        if (c.values[i] == Truth::Unknown) {
            knot(start, kMissing);
            continue;
        }
        knot(start, 0);
        if (stop - start > kNanosecond)
            knot(stop - kNanosecond, c.values[i] == Truth::True ? toSeconds(stop - kNanosecond - start) : 0);
    }
    if (!out.times.empty()) out.begins = out.times.front();
    return out;
}

Condition turning(const Condition& c, bool rising) {
    Condition out;
    const Truth before = rising ? Truth::False : Truth::True, after = rising ? Truth::True : Truth::False;
    for (std::size_t i = 0; i < c.times.size(); ++i) {
        if (c.values[i] == Truth::Unknown) {
            out.push(c.times[i], Truth::Unknown);
            continue;
        }
        const bool turns = i > 0 && c.values[i - 1] == before && c.values[i] == after;
        out.push(c.times[i], turns ? Truth::True : Truth::False);
        if (turns && (i + 1 == c.times.size() || c.times[i + 1] > c.times[i] + kNanosecond))
            out.push(c.times[i] + kNanosecond, Truth::False);
    }
    return out;
}

Condition insideOf(const std::vector<TimeRange>& ranges) {
    Condition out;
    out.push(kNoInstant, Truth::False);
    for (const TimeRange& r : joined(ranges)) {
        out.push(r.from, Truth::True);
        out.push(std::max(r.to, r.from + kNanosecond), Truth::False);
    }
    return out;
}

Condition zeroAtKnots(const Signal& x) {
    Condition out;
    for (std::size_t i = 0; i < x.times.size(); ++i)
        out.push(x.times[i], std::isnan(x.values[i]) ? Truth::Unknown
                             : x.values[i] == 0      ? Truth::True
                                                     : Truth::False);
    return out;
}

std::vector<Instant> withAlso(const std::vector<Instant>& times, std::vector<Instant> more) {
    if (more.empty()) return times;
    std::sort(more.begin(), more.end());
    more.erase(std::unique(more.begin(), more.end()), more.end());
    std::vector<Instant> out;
    std::set_union(times.begin(), times.end(), more.begin(), more.end(), std::back_inserter(out));
    return out;
}

std::vector<Instant> startsOf(const std::vector<TimeRange>& ranges, const std::vector<Instant>& at,
                              bool since) {
    std::vector<Instant> out;
    out.reserve(at.size());
    std::size_t next = 0;
    Instant start = kNoInstant, end = kNoInstant;
    for (const Instant t : at) {
        while (next < ranges.size() && (since ? ranges[next].to : ranges[next].from) <= t) {
            start = since ? ranges[next].to : ranges[next].from;
            end = ranges[next].to;
            ++next;
        }
        out.push_back(since || t <= end ? start : kNoInstant);
    }
    return out;
}

}  // namespace jacinth
