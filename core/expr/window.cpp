#include "core/expr/window.h"

#include <algorithm>

#include "core/base/missing.h"
#include "core/expr/covered_time.h"
#include "core/expr/window_sliders.h"

namespace jacinth {
namespace {

constexpr double kHourNs = toNanoseconds(kHour);

bool isWhole(const Signal& x) {
    return std::all_of(x.values.begin(), x.values.end(), [](double v) { return std::isfinite(v); });
}

/// Integral over (begin, end] for begins and ends that rise, relative to base(), a value of the window. Two
/// stacks, as the sliders have them. `kWhole`: every knot has a value.
template <bool kWhole>
class Area {
  public:
    Area(const Signal& x, std::vector<double>& before) : x_(x), before_(&before) {
        before.assign(1, 0);
        const auto first =
            std::find_if(x.values.begin(), x.values.end(), [](double v) { return std::isfinite(v); });
        if (first != x.values.end()) base_ = *first;
    }

    /// Of value − base, in ns; what is missing counts nothing.
    [[gnu::always_inline]] double over(Instant begin, Instant end) {
        const auto& times = x_.times;
        if (times.empty() || end <= times.front()) return 0;
        for (; right_ + 1 < times.size() && times[right_ + 1] <= end; ++right_)
            after_ += step(x_, right_, base_);
        while (left_ < right_ && times[left_] < begin) ++left_;
        if (left_ > boundary_) {
            // The boundary moves to the end of the window.
            base_ = valueIn(x_, left_, right_, base_);
            beginning_ = left_;
            boundary_ = right_;
            after_ = 0;
            sumBack(x_, left_, right_, base_, *before_);
        }
        if (times[left_] < begin) return part(right_, begin, end);  // between two knots
        double out = (*before_)[left_ - beginning_] + after_;
        if (left_ > 0 && begin < times[left_]) out += part(left_ - 1, begin, times[left_]);
        if (end > times[right_]) out += part(right_, times[right_], end);
        return out;
    }
    double base() const { return base_; }

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
    double part(std::size_t i, Instant a, Instant b) const {
        if (!known(x_, i)) return 0;
        double middle = x_.values[i];
        if (!x_.stepped) {
            const auto length = toNanoseconds(x_.times[i + 1] - x_.times[i]);
            const double upTo = (toNanoseconds(a - x_.times[i]) + toNanoseconds(b - x_.times[i])) / 2;
            middle += (x_.values[i + 1] - x_.values[i]) * (upTo / length);
        }
        return (middle - base_) * toNanoseconds(b - a);
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

    KnotsView x_;
    double base_ = 0;
    std::size_t left_ = 0, right_ = 0;  ///< the knots that the whole steps of the window lie between
    std::size_t beginning_ = 0, boundary_ = 0;
    std::vector<double>* before_;  ///< from each knot since `beginning_` to the boundary
    double after_ = 0;             ///< from the boundary on
};

/// Calls `work` with the slider of a figure over samples: each figure has its loop compiled for itself.
template <typename Work>
void withSlider(WindowFigure figure, const SampleView& s, double q, Work work) {
    using enum WindowFigure;
    const auto with = [&](auto slider) { work(slider); };
    const auto withMoments = [&]<WindowFigure kFigure>() {
        std::vector<typename Moments<kFigure>::Sums> before;
        with(Moments<kFigure>(s, before));
    };
    switch (figure) {
        case Min:
            return with(Extreme(s, false));
        case Max:
            return with(Extreme(s, true));
        case Range:
            return with(RangeOf(s));
        case Median:
            return with(Middle(s, 0.5));
        case Quantile:
            return with(Middle(s, q));
        case Change:
        case Rate:
        case First:
        case Last:
            return with(Ends(s, figure));
        case Count:
            return withMoments.template operator()<Count>();
        case Sum:
            return withMoments.template operator()<Sum>();
        case Sd:
            return withMoments.template operator()<Sd>();
        case Slope:
            return withMoments.template operator()<Slope>();
        case Mean:
        case Integral:
            return withMoments.template operator()<Mean>();
    }
}

/// At least half of the window has a value.
bool isFull(Duration covered, Duration width) {
    return covered > Duration::zero() && covered >= width - covered;
}

/// Mean or integral over (start(i), at[i]] for rising starts.
template <bool kWhole, typename Start>
void slideByTime(WindowFigure figure, const Signal& x, const std::vector<Instant>& at, Start start,
                 std::vector<double>& out) {
    std::vector<double> before;
    Area<kWhole> area(x, before);
    CoveredTime covered(x);
    for (std::size_t i = 0; i < at.size(); ++i) {
        const Instant begin = start(i);
        if (begin == kNoInstant || begin < x.begins) continue;
        const double sum = area.over(begin, at[i]);
        const Duration known = covered.over(begin, at[i]);
        if (!isFull(known, at[i] - begin)) continue;
        const double mean = area.base() + sum / toNanoseconds(known);
        out[i] = figure == WindowFigure::Mean ? mean : mean * toNanoseconds(known) / kHourNs;
    }
}

/// The figure over (start(i), at[i]] for rising starts; what is asked of a window is that it lies in the
/// record and is at least half covered.
template <typename Start>
std::vector<double> slideOver(WindowFigure figure, const Signal& x, const std::vector<Instant>& at, double q,
                              const Samples* given, Start start) {
    std::vector<double> out(at.size(), kMissing);
    const bool whole = isWhole(x), asTheyAre = !given && whole;
    if (isByTime(figure)) {
        if (whole)
            slideByTime<true>(figure, x, at, start, out);
        else
            slideByTime<false>(figure, x, at, start, out);
        return out;
    }
    const Samples own = given || asTheyAre ? Samples{} : samplesOf(x);
    const Samples& kept = given ? *given : own;
    const SampleView samples =
        asTheyAre ? SampleView{x.times, x.values} : SampleView{kept.times, kept.values};
    CoveredTime covered(x);
    withSlider(figure, samples, q, [&](auto& slider) {
        std::size_t left = 0, right = 0;
        for (std::size_t i = 0; i < at.size(); ++i) {
            const Instant t = at[i], begin = start(i);
            if (begin == kNoInstant || begin < x.begins) continue;
            while (right < samples.times.size() && samples.times[right] <= t) ++right;
            while (left < right && samples.times[left] <= begin) ++left;
            moveTo(slider, left, right);
            if (isFull(covered.over(begin, t), t - begin)) out[i] = slider.figure();
        }
    });
    return out;
}

}  // namespace

bool isByTime(WindowFigure figure) {
    return figure == WindowFigure::Mean || figure == WindowFigure::Integral;
}

Samples samplesOf(const Signal& x) {
    Samples out;
    out.times.reserve(x.times.size());
    out.values.reserve(x.times.size());
    for (std::size_t i = 0; i < x.times.size(); ++i)
        if (std::isfinite(x.values[i])) {
            out.times.push_back(x.times[i]);
            out.values.push_back(x.values[i]);
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
    return slideOver(figure, x, at, q, samples, [&](std::size_t i) { return at[i] - width; });
}

std::vector<double> slideFrom(WindowFigure figure, const Signal& x, const std::vector<Instant>& starts,
                              const std::vector<Instant>& at, double q, const Samples* samples) {
    return slideOver(figure, x, at, q, samples, [&](std::size_t i) { return starts[i]; });
}

Signal slideSamples(WindowFigure figure, const Signal& x, const Samples& all, int samples,
                    const std::vector<Instant>& at, double q) {
    const auto n = static_cast<std::size_t>(samples);
    std::vector<double> before;
    Area<false> area(x, before);
    CoveredTime covered(x);
    const Signal knots = withKnots(x, at);
    Signal out;
    out.stepped = x.stepped;
    out.begins = x.begins;
    out.times = at;
    std::vector<double>& values = out.values.edit();
    values.assign(at.size(), kMissing);
    withSlider(figure, {all.times, all.values}, q, [&](auto& slider) {
        std::size_t i = 0, k = 0;
        for (std::size_t place = 0; place < at.size(); ++place) {
            const Instant t = at[place];
            while (i < all.times.size() && all.times[i] <= t) ++i;
            while (k < knots.times.size() && knots.times[k] < t) ++k;
            const bool known =
                k < knots.times.size() && knots.times[k] == t && std::isfinite(knots.values[k]);
            if (i < n) continue;
            if (figure == WindowFigure::Integral) {
                const Instant first = all.times[i - n], last = all.times[i - 1];
                const double sum = area.over(first, last);
                const double length = toNanoseconds(covered.over(first, last));
                if (known) values[place] = (sum + area.base() * length) / kHourNs;
                continue;
            }
            moveTo(slider, i - n, i);
            if (known) values[place] = slider.figure();
        }
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
