#include "core/expr/window.h"

#include <algorithm>

#include "core/base/missing.h"
#include "core/expr/covered_time.h"
#include "core/expr/window_sliders.h"

namespace jacinth {
namespace {

constexpr double kHourNs = toNanoseconds(kHour);

/// (begin, end], and how much of it has a value.
struct TimeWindow {
    Instant begin, end;
    Duration known{};
};

/// The first place from `at` on whose time is not before t, or `end`. It mostly is one of the next three, by
/// chance of when samples came: counted without a branch that would be guessed wrong half of the time.
[[gnu::always_inline]] inline std::size_t firstFrom(std::span<const Instant> times, std::size_t at,
                                                    std::size_t end, Instant t) {
    if (at + 3 > end) {
        while (at < end && times[at] < t) ++at;
        return at;
    }
    const auto before = [&](std::size_t i) { return static_cast<std::size_t>(times[i] < t); };
    const std::size_t next = at + before(at) + before(at + 1) + before(at + 2);
    if (next < at + 3) return next;
    for (at = next; at < end && times[at] < t;) ++at;
    return at;
}

/// Integrals over windows that slide, as Moments has its sums. `kWhole`: every knot has a value.
template <bool kWhole>
class Areas {
  public:
    /// `window(k, w)` gives the window of output k, begins and ends rising, and says whether it is to be
    /// made; `take(k, w, area, base)` gets the integral of value − base over it, in ns; what is missing
    /// counts nothing. Both are copied: what they hold stays in registers.
    template <typename WindowOf, typename Take>
    [[gnu::noinline]] static void slide(KnotsView x, std::size_t outputs, WindowOf window, Take take) {
        const std::span<const Instant> times = x.times;
        if (times.empty()) return;
        std::vector<double> before(1);  // from each knot since `beginning` to the boundary
        const double* areas = before.data();
        // The whole steps of the window lie between the knots left and right.
        std::size_t left = 0, right = 0, beginning = 0, boundary = 0;
        double base = valueIn(x, 0, times.size() - 1, 0), after = 0;  // from the boundary on
        for (std::size_t k = 0; k < outputs; ++k) {
            TimeWindow w;
            if (!window(k, w)) continue;
            const Instant begin = w.begin, end = w.end;
            for (; right + 1 < times.size() && times[right + 1] <= end; ++right)
                after += step(x, right, base);
            left = firstFrom(times, left, right, begin);
            if (left > boundary) {
                base = valueIn(x, left, right, base);
                beginning = left;
                boundary = right;
                after = 0;
                sumBack(x, left, right, base, before);
                areas = before.data();
            }
            if (end <= times.front()) {
                take(k, w, 0, base);
            } else if (times[left] < begin) {  // between two knots
                take(k, w, part(x, right, begin, end, base), base);
            } else {
                double area = areas[left - beginning] + after;
                if (left > 0 && begin < times[left]) area += rest(x, left - 1, begin, base);
                if (end > times[right]) area += part(x, right, times[right], end, base);
                take(k, w, area, base);
            }
        }
    }

  private:
    static bool known(const KnotsView& x, std::size_t i) {
        if constexpr (kWhole) return x.stepped || i + 1 < x.times.size();
        if (!std::isfinite(x.values[i])) return false;
        return x.stepped || (i + 1 < x.times.size() && std::isfinite(x.values[i + 1]));
    }
    /// From knot i to the next.
    static double step(const KnotsView& x, std::size_t i, double base) {
        if (!known(x, i)) return 0;
        const double middle = x.stepped ? x.values[i] : (x.values[i] + x.values[i + 1]) / 2;
        return (middle - base) * toNanoseconds(x.times[i + 1] - x.times[i]);
    }
    /// Of what follows knot i, from a to b.
    [[gnu::always_inline]] static double part(const KnotsView& x, std::size_t i, Instant a, Instant b,
                                              double base) {
        if (!known(x, i)) return 0;
        double middle = x.values[i];
        if (!x.stepped) {
            const auto length = toNanoseconds(x.times[i + 1] - x.times[i]);
            const double upTo = (toNanoseconds(a - x.times[i]) + toNanoseconds(b - x.times[i])) / 2;
            middle += (x.values[i + 1] - x.values[i]) * (upTo / length);
        }
        return (middle - base) * toNanoseconds(b - a);
    }
    /// Of what follows knot i, from a to the next knot.
    [[gnu::always_inline]] static double rest(const KnotsView& x, std::size_t i, Instant a, double base) {
        if (!known(x, i)) return 0;
        const double left = toNanoseconds(x.times[i + 1] - a);
        if (x.stepped) return (x.values[i] - base) * left;
        const double next = x.values[i + 1], share = left / toNanoseconds(x.times[i + 1] - x.times[i]);
        return (next - (next - x.values[i]) * (0.5 * share) - base) * left;
    }
    static double valueIn(const KnotsView& x, std::size_t left, std::size_t right, double otherwise) {
        for (std::size_t i = right + 1; i-- > left;)
            if (std::isfinite(x.values[i])) return x.values[i];
        return otherwise;
    }
    /// The integrals from each knot since `from` to `to`.
    [[gnu::noinline]] static void sumBack(KnotsView x, std::size_t from, std::size_t to, double base,
                                          std::vector<double>& out) {
        out.resize(to - from + 1);
        double sum = 0;
        out.back() = 0;
        for (std::size_t i = to; i-- > from;) out[i - from] = sum += step(x, i, base);
    }
};

/// Extremes and ends.
template <typename WindowOf, typename S>
[[gnu::noinline]] void slideWith(S slider, WindowOf window, std::span<double> out) {
    std::size_t left = 0, right = 0;
    for (std::size_t k = 0; k < out.size(); ++k) {
        if (!window(k, left, right)) continue;
        moveTo(slider, left, right);
        out[k] = slider.figure();
    }
}

/// A figure over samples; `window` as Moments::slide takes it. Each figure has its loop compiled for itself.
template <typename WindowOf>
void slideFigure(WindowFigure figure, const SampleView& s, double q, WindowOf window, std::span<double> out) {
    using enum WindowFigure;
    switch (figure) {
        case Min:
            return slideWith(Extreme(s, false), window, out);
        case Max:
            return slideWith(Extreme(s, true), window, out);
        case Range:
            return slideWith(RangeOf(s), window, out);
        case Median:
            return Middle(s, 0.5).slide(window, out);
        case Quantile:
            return Middle(s, q).slide(window, out);
        case Change:
        case Rate:
        case First:
        case Last:
            return slideWith(Ends(s, figure), window, out);
        case Count:
            return Moments<Count>::slide(s, window, out);
        case Sum:
            return Moments<Sum>::slide(s, window, out);
        case Sd:
            return Moments<Sd>::slide(s, window, out);
        case Slope:
            return Moments<Slope>::slide(s, window, out);
        case Mean:
        case Integral:
            return Moments<Mean>::slide(s, window, out);
    }
}

/// What is asked of the windows (start(k), at[k]]: that they lie in the record and are at least half covered.
template <typename Start>
class Windows {
  public:
    Windows(const Signal& x, CoveredTime& covered, std::span<const Instant> at, Start start)
        : covered_(covered), begins_(x.begins), at_(at), start_(start) {}
    /// Says whether window k is good enough, and how much of it is covered.
    bool get(std::size_t k, TimeWindow& w) const {
        w = {start_(k), at_[k]};
        if (w.begin == kNoInstant || w.begin < begins_) return false;
        const Duration width = w.end - w.begin;
        w.known = covered_.isWhole(w.begin, w.end) ? width : covered_.over(w.begin, w.end);
        return w.known > Duration::zero() && w.known >= width - w.known;
    }

  private:
    CoveredTime& covered_;
    Instant begins_;
    std::span<const Instant> at_;
    Start start_;
};

/// Mean or integral.
template <bool kWhole, typename Start>
void slideByTime(WindowFigure figure, const Signal& x, Windows<Start> windows, std::span<double> out) {
    Areas<kWhole>::slide(
        KnotsView(x), out.size(), [windows](std::size_t k, TimeWindow& w) { return windows.get(k, w); },
        [figures = out.data(), isMean = figure == WindowFigure::Mean, divided = Duration{}, length = 0.0,
         share = 0.0](std::size_t k, const TimeWindow& w, double area, double base) mutable {
            if (w.known != divided) {  // seldom: most windows are covered as a whole
                divided = w.known;
                length = toNanoseconds(w.known);
                share = 1 / length;
            }
            figures[k] = isMean ? base + area * share : (base * length + area) * (1 / kHourNs);
        });
}

/// The figure over (start(i), at[i]] for rising starts.
template <typename Start>
std::vector<double> slideOver(WindowFigure figure, const Signal& x, const std::vector<Instant>& at, double q,
                              const Samples* given, Start start) {
    std::vector<double> out(at.size(), kMissing);
    CoveredTime covered(x);
    const Windows<Start> windows(x, covered, at, start);
    const bool whole = covered.everyKnotHasAValue(), asTheyAre = !given && whole;
    if (isByTime(figure)) {
        if (whole)
            slideByTime<true>(figure, x, windows, out);
        else
            slideByTime<false>(figure, x, windows, out);
        return out;
    }
    const Samples own = given || asTheyAre ? Samples{} : samplesOf(x);
    const Samples& kept = given ? *given : own;
    const SampleView samples =
        asTheyAre ? SampleView{x.times, x.values} : SampleView{kept.times, kept.values};
    const auto window = [windows, times = samples.times](std::size_t k, std::size_t& left,
                                                         std::size_t& right) {
        TimeWindow w;
        if (!windows.get(k, w)) return false;
        while (right < times.size() && times[right] <= w.end) ++right;
        left = firstFrom(times, left, right, w.begin + kNanosecond);
        return true;
    };
    slideFigure(figure, samples, q, window, out);
    return out;
}

}  // namespace

bool isByTime(WindowFigure figure) {
    return figure == WindowFigure::Mean || figure == WindowFigure::Integral;
}

Samples samplesOf(const Signal& x) {
    Samples out;
    const KnotsView k(x);
    const std::size_t n = k.times.size();
    out.times.reserve(n);
    out.values.reserve(n);
    for (std::size_t i = 0, end = 0; i < n; i = end + 1) {  // from one knot without a value to the next
        for (end = i; end < n && std::isfinite(k.values[end]);) ++end;
        out.times.insert(out.times.end(), k.times.begin() + i, k.times.begin() + end);
        out.values.insert(out.values.end(), k.values.begin() + i, k.values.begin() + end);
    }
    return out;
}

Samples samplesAt(const Signal& x, const std::vector<Instant>& times) {
    Samples out;
    const Signal at = withKnots(x, times);
    std::size_t i = 0;
    for (const Instant t : times) {
        while (i < at.times.size() && at.times[i] < t) ++i;
        if (i == at.times.size() || at.times[i] != t || !std::isfinite(at.values[i])) continue;
        out.times.push_back(t);
        out.values.push_back(at.values[i]);
    }
    return out;
}

std::vector<double> slide(WindowFigure figure, const Signal& x, Duration width,
                          const std::vector<Instant>& at, double q, const Samples* samples) {
    return slideOver(figure, x, at, q, samples,
                     [ends = at.data(), width](std::size_t i) { return ends[i] - width; });
}

std::vector<double> slideFrom(WindowFigure figure, const Signal& x, const std::vector<Instant>& starts,
                              const std::vector<Instant>& at, double q, const Samples* samples) {
    return slideOver(figure, x, at, q, samples, [from = starts.data()](std::size_t i) { return from[i]; });
}

Signal slideSamples(WindowFigure figure, const Signal& x, const Samples& all, int samples,
                    const std::vector<Instant>& at, double q) {
    const auto n = static_cast<std::size_t>(samples);
    const Signal knots = withKnots(x, at);
    Signal out;
    out.stepped = x.stepped;
    out.begins = x.begins;
    out.times = at;
    std::vector<double>& values = out.values.edit();
    values.assign(at.size(), kMissing);
    std::size_t knot = 0;
    const auto window = [&](std::size_t k, std::size_t& left, std::size_t& right) {
        const Instant t = at[k];
        while (right < all.times.size() && all.times[right] <= t) ++right;
        while (knot < knots.times.size() && knots.times[knot] < t) ++knot;
        if (right < n) return false;
        left = right - n;
        return knot < knots.times.size() && knots.times[knot] == t && std::isfinite(knots.values[knot]);
    };
    if (figure != WindowFigure::Integral) {
        slideFigure(figure, {all.times, all.values}, q, window, values);
        return out;
    }
    CoveredTime covered(x);
    std::size_t left = 0, right = 0;
    Areas<false>::slide(
        KnotsView(x), at.size(),
        [&](std::size_t k, TimeWindow& w) {
            if (!window(k, left, right)) return false;
            w = {all.times[left], all.times[right - 1]};
            w.known = covered.over(w.begin, w.end);
            return true;
        },
        [&](std::size_t k, const TimeWindow& w, double area, double base) {
            values[k] = (area + base * toNanoseconds(w.known)) / kHourNs;
        });
    return out;
}

Signal asNumber(const Condition& c, Instant begins, Instant ends) {
    Signal out;
    out.stepped = true;
    out.begins = begins;
    std::vector<Instant>& times = out.times.edit();
    std::vector<double>& values = out.values.edit();
    for (std::size_t i = 0; i < c.times.size(); ++i) {
        if (i + 1 < c.times.size() && c.times[i + 1] <= begins) continue;
        times.push_back(std::max(c.times[i], begins));
        values.push_back(c.values[i] == Truth::Unknown ? kMissing : c.values[i] == Truth::True ? 1.0 : 0.0);
    }
    if (times.empty() || times.back() < ends) {
        times.push_back(ends);
        values.push_back(kMissing);
    }
    return out;
}

Signal fadingMean(const Signal& x, Duration constant) {
    Signal out;
    out.stepped = x.stepped;
    out.begins = x.begins + constant;
    const double tau = toNanoseconds(constant);
    double mean = kMissing;
    out.times = x.times;
    std::vector<double>& values = out.values.edit();
    values.reserve(x.times.size());
    for (std::size_t i = 0; i < x.times.size(); ++i) {
        const double v = x.values[i];
        const double before = i > 0 ? x.values[i - 1] : kMissing;
        if (i > 0 && std::isfinite(before) && (x.stepped || std::isfinite(v))) {
            const double a = toNanoseconds(x.times[i] - x.times[i - 1]) / tau, keep = std::exp(-a);
            const double ahead = a > 0 ? (1 - keep) / a : 1;
            mean = x.stepped ? keep * mean + (1 - keep) * before
                             : keep * mean + (ahead - keep) * before + (1 - ahead) * v;
        }
        if (std::isnan(mean)) mean = v;
        values.push_back(std::isfinite(v) && x.times[i] >= out.begins ? mean : kMissing);
    }
    return out;
}

}  // namespace jacinth
