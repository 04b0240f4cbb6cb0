#include "core/expr/window.h"

#include <algorithm>

#include "core/base/missing.h"
#include "core/expr/window_areas.h"
#include "core/expr/window_sliders.h"

namespace jacinth {
namespace {

constexpr double kHourNs = toNanoseconds(kHour);

/// Windows with the samples in them.
template <typename Start>
class SampleWindows {
  public:
    /// `keepsPlain`: its user has a loop for plain batches.
    SampleWindows(const TimeWindows<Start>& windows, std::span<const Instant> times, bool keepsPlain)
        : windows_(windows), places_(times), keepsPlain_(keepsPlain) {}
    bool next(WindowBatch& out) {
        const bool any = windows_.next(out);
        if (!out.isPlain)
            places_.samplesIn(out);
        else if (!keepsPlain_)
            places_.samplesInPlain(out);
        return any;
    }

  private:
    TimeWindows<Start> windows_;
    Places places_;
    bool keepsPlain_;
};

/// Extremes and ends.
template <typename Source, typename S>
[[gnu::noinline]] void slideWith(S slider, Source& source, double* out) {
    for (WindowBatch w; source.next(w);)
        for (std::size_t k = 0; k < w.size; ++k) {
            moveTo(slider, w.left[k], w.right[k]);
            out[w.output[k]] = slider.figure();
        }
}

/// A figure over samples; `source` as Moments::slide takes it. Each figure has its loop compiled for itself.
template <typename Source>
void slideFigure(WindowFigure figure, const SampleView& s, double q, Source source, double* out) {
    using enum WindowFigure;
    switch (figure) {
        case Min:
            return slideWith(Extreme(s, false), source, out);
        case Max:
            return slideWith(Extreme(s, true), source, out);
        case Range:
            return slideWith(RangeOf(s), source, out);
        case Median:
            return Middle(s, 0.5).slide(source, out);
        case Quantile:
            return Middle(s, q).slide(source, out);
        case Change:
        case Rate:
        case First:
        case Last:
            return slideWith(Ends(s, figure), source, out);
        case Count:
            return Moments<Count>::slide(s, source, out);
        case Sum:
            return Moments<Sum>::slide(s, source, out);
        case Sd:
            return Moments<Sd>::slide(s, source, out);
        case Slope:
            return Moments<Slope>::slide(s, source, out);
        case Mean:
        case Integral:
            return Moments<Mean>::slide(s, source, out);
    }
}

struct MeanOf {
    double operator()(double base, double area, double length) const { return base + area * (1 / length); }
};
struct IntegralOf {
    double operator()(double base, double area, double length) const {
        return (base * length + area) * (1 / kHourNs);
    }
};

/// Mean or integral of windows by time. `whole`: every knot has a value.
template <typename Source>
void slideByTime(WindowFigure figure, const Signal& x, bool whole, Source source, double* out) {
    const auto over = [&]<bool kWhole, bool kStepped>() {
        if (figure == WindowFigure::Mean)
            Areas<kWhole, kStepped>::slide(KnotsView(x), source, MeanOf{}, out);
        else
            Areas<kWhole, kStepped>::slide(KnotsView(x), source, IntegralOf{}, out);
    };
    if (whole && x.stepped) return over.template operator()<true, true>();
    if (whole) return over.template operator()<true, false>();
    if (x.stepped) return over.template operator()<false, true>();
    over.template operator()<false, false>();
}

/// Is it one of Moments?
bool isSum(WindowFigure figure) {
    using enum WindowFigure;
    return figure == Count || figure == Sum || figure == Sd || figure == Slope;
}

/// The figure over (start(i), at[i]] for rising starts.
template <typename Start>
std::vector<double> slideOver(WindowFigure figure, const Signal& x, const std::vector<Instant>& at, double q,
                              const Samples* given, Start start, Instant from = kNoInstant) {
    std::vector<double> out(at.size(), kMissing);
    CoveredTime covered(x);
    const bool whole = covered.everyKnotHasAValue(), asTheyAre = !given && whole;
    const bool atKnots = at.data() == x.times.data();
    const auto after = static_cast<std::size_t>(std::upper_bound(at.begin(), at.end(), from) - at.begin());
    const std::size_t first = after > 0 ? after - 1 : 0;
    const auto windows = [&](std::span<const Instant> samples) {
        return TimeWindows<Start>(x, covered, at, first, start,
                                  atKnots ? samples : std::span<const Instant>());
    };
    if (isByTime(figure)) {
        slideByTime(figure, x, whole, windows(x.times.get()), out.data());
        return out;
    }
    const Samples own = given || asTheyAre ? Samples{} : samplesOf(x);
    const Samples& kept = given ? *given : own;
    const SampleView samples =
        asTheyAre ? SampleView{x.times, x.values} : SampleView{kept.times, kept.values};
    const std::span<const Instant> plain = given ? std::span<const Instant>() : samples.times;
    const SampleWindows<Start> source(windows(plain), samples.times, isSum(figure));
    slideFigure(figure, samples, q, source, out.data());
    return out;
}

/// Where windows of a fixed length begin.
struct Before {
    static constexpr bool kFixedWidth = true;
    const Instant* ends;
    Duration width;
    Instant operator()(std::size_t k) const { return ends[k] - width; }
};

struct Given {
    static constexpr bool kFixedWidth = false;
    const Instant* starts;
    Instant operator()(std::size_t k) const { return starts[k]; }
};

/// The last so many samples at each time at which a signal has a value.
class LastSamples {
  public:
    LastSamples(const Signal& x, const std::vector<Instant>& at, const Samples& all, std::size_t samples)
        : knots_(withKnots(x, at)), at_(at), all_(all), samples_(samples) {}
    bool next(WindowBatch& out) {
        for (out.size = 0; out.size < WindowBatch::kMost && next_ < at_.size(); ++next_) {
            const Instant t = at_[next_];
            while (right_ < all_.times.size() && all_.times[right_] <= t) ++right_;
            if (right_ < samples_ || !hasValueAt(t)) continue;
            out.output[out.size] = next_;
            out.left[out.size] = right_ - samples_;
            out.right[out.size++] = right_;
        }
        return out.size > 0;
    }

  private:
    bool hasValueAt(Instant t) {
        while (knot_ < knots_.times.size() && knots_.times[knot_] < t) ++knot_;
        return knot_ < knots_.times.size() && knots_.times[knot_] == t && std::isfinite(knots_.values[knot_]);
    }
    Signal knots_;
    const std::vector<Instant>& at_;
    const Samples& all_;
    std::size_t samples_, next_ = 0, right_ = 0, knot_ = 0;
};

/// From the first to the last of these samples, as windows of time.
class BetweenSamples {
  public:
    BetweenSamples(LastSamples samples, const Signal& x, const Samples& all)
        : samples_(std::move(samples)), covered_(x), all_(all) {}
    bool next(WindowBatch& out) {
        const bool any = samples_.next(out);
        for (std::size_t k = 0; k < out.size; ++k) {
            out.begin[k] = all_.times[out.left[k]];
            out.end[k] = all_.times[out.right[k] - 1];
            out.known[k] = covered_.over(out.begin[k], out.end[k]);
        }
        return any;
    }

  private:
    LastSamples samples_;
    CoveredTime covered_;
    const Samples& all_;
};

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
                          const std::vector<Instant>& at, double q, const Samples* samples, Instant from) {
    return slideOver(figure, x, at, q, samples, Before{at.data(), width}, from);
}

std::vector<double> slideFrom(WindowFigure figure, const Signal& x, const std::vector<Instant>& starts,
                              const std::vector<Instant>& at, double q, const Samples* samples) {
    return slideOver(figure, x, at, q, samples, Given{starts.data()});
}

Signal slideSamples(WindowFigure figure, const Signal& x, const Samples& all, int samples,
                    const std::vector<Instant>& at, double q) {
    Signal out;
    out.stepped = x.stepped;
    out.begins = x.begins;
    out.times = at;
    std::vector<double>& values = out.values.edit();
    values.assign(at.size(), kMissing);
    LastSamples last(x, at, all, static_cast<std::size_t>(samples));
    if (figure == WindowFigure::Integral)
        slideByTime(figure, x, false, BetweenSamples(std::move(last), x, all), values.data());
    else
        slideFigure(figure, {all.times, all.values}, q, std::move(last), values.data());
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
