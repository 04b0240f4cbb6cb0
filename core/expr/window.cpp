#include "core/expr/window.h"

#include <algorithm>
#include <deque>
#include <span>

#include "core/base/missing.h"

namespace jacinth {
namespace {

constexpr double kHourNs = toNanoseconds(kHour);
// Running sums are made again after as many steps as they have parts, but not sooner than this. Sums of
// squares lose digits by the square of the distance from their centre: theirs must stay near the window.
constexpr std::size_t kRenewAreaAfter = 1024, kRenewMomentsAfter = 32;

bool isWhole(const Signal& x) {
    return std::all_of(x.values.begin(), x.values.end(), [](double v) { return std::isfinite(v); });
}

/// Integral and covered time over (begin, end] for begins and ends that rise. Values are taken relative to
/// base(), one of the window, and the sums made again after as many steps as the window has knots: rounding
/// never builds up, large values keep their digits, and the cost stays linear.
class Area {
  public:
    explicit Area(const Signal& x) : x_(x) {
        const auto first =
            std::find_if(x.values.begin(), x.values.end(), [](double v) { return std::isfinite(v); });
        if (first != x.values.end()) base_ = *first;
    }

    struct Sum {
        double area = 0;  ///< of value − base, in ns
        Duration covered{};
    };
    Sum over(Instant begin, Instant end) {
        const auto& times = x_.times;
        if (times.empty() || end <= times.front()) return {};
        for (; right_ + 1 < times.size() && times[right_ + 1] <= end; ++right_) add(sum_, whole(right_), +1);
        while (left_ < right_ && times[left_] < begin) leave();
        if (times[left_] < begin) return part(right_, begin, end);  // between two knots
        Sum out = sum_;
        if (left_ > 0 && begin < times[left_]) add(out, part(left_ - 1, begin, times[left_]), +1);
        if (end > times[right_]) add(out, part(right_, times[right_], end), +1);
        return out;
    }
    double base() const { return base_; }

  private:
    static void add(Sum& to, const Sum& more, int sign) {
        to.area += sign * more.area;
        to.covered += sign * more.covered;
    }
    void leave() {
        add(sum_, whole(left_), -1);
        ++left_;
        if (left_ == right_) sum_ = {};
        if (++since_ <= std::max(kRenewAreaAfter, right_ - left_)) return;
        since_ = 0;
        sum_ = {};
        if (std::isfinite(x_.values[left_])) base_ = x_.values[left_];
        for (std::size_t i = left_; i < right_; ++i) add(sum_, whole(i), +1);
    }
    bool known(std::size_t i) const {
        if (!std::isfinite(x_.values[i])) return false;
        return x_.stepped || (i + 1 < x_.times.size() && std::isfinite(x_.values[i + 1]));
    }
    /// From knot i to the next.
    Sum whole(std::size_t i) const {
        if (!known(i)) return {};
        const Duration length = x_.times[i + 1] - x_.times[i];
        const double middle = x_.stepped ? x_.values[i] : (x_.values[i] + x_.values[i + 1]) / 2;
        return {(middle - base_) * toNanoseconds(length), length};
    }
    /// Of what follows knot i, from a to b.
    Sum part(std::size_t i, Instant a, Instant b) const {
        if (!known(i)) return {};
        double middle = x_.values[i];
        if (!x_.stepped) {
            const auto length = toNanoseconds(x_.times[i + 1] - x_.times[i]);
            const double upTo = (toNanoseconds(a - x_.times[i]) + toNanoseconds(b - x_.times[i])) / 2;
            middle += (x_.values[i + 1] - x_.values[i]) * (upTo / length);
        }
        return {(middle - base_) * toNanoseconds(b - a), b - a};
    }

    KnotsView x_;
    double base_ = 0;
    std::size_t left_ = 0, right_ = 0;  ///< the knots that the whole steps in sum_ lie between
    std::size_t since_ = 0;
    Sum sum_;
};

/// How much of (begin, end] has a value; without gaps the two ends say it.
class Covered {
  public:
    Covered(const Signal& x, bool whole) : x_(x), whole_(whole && !x.times.empty()), area_(x) {}
    Duration over(Instant begin, Instant end) {
        if (!whole_) return area_.over(begin, end).covered;
        const Instant from = std::max(begin, x_.times.front());
        const Instant to = x_.stepped ? end : std::min(end, x_.times.back());
        return std::max(Duration::zero(), to - from);
    }

  private:
    KnotsView x_;
    bool whole_;
    Area area_;
};

/// Samples that somebody else keeps.
struct SampleView {
    std::span<const Instant> times;
    std::span<const double> values;
};

/// Samples enter at the right and leave at the left: [left, right) of them are in the window.
class Slider {
  public:
    explicit Slider(const SampleView& s) : s_(s) {}
    std::size_t count() const { return right_ - left_; }

  protected:
    template <typename S>
    friend void moveTo(S& slider, std::size_t left, std::size_t right);
    SampleView s_;
    std::size_t left_ = 0, right_ = 0;
};

template <typename S>
void moveTo(S& slider, std::size_t left, std::size_t right) {
    if (left >= slider.right_) {
        // None of those in the window stays, and what lies between never was in one.
        for (; slider.left_ < slider.right_; ++slider.left_) slider.leave(slider.left_);
        slider.left_ = slider.right_ = left;
    }
    for (; slider.right_ < right; ++slider.right_) slider.enter(slider.right_);
    for (; slider.left_ < left; ++slider.left_) slider.leave(slider.left_);
}

/// Least or greatest by a deque that keeps only what can still win.
class Extreme : public Slider {
  public:
    Extreme(const SampleView& s, bool greatest) : Slider(s), greatest_(greatest) {}
    void enter(std::size_t i) {
        while (!open_.empty() && beats(i, open_.back())) open_.pop_back();
        open_.push_back(i);
    }
    void leave(std::size_t i) {
        if (!open_.empty() && open_.front() == i) open_.pop_front();
    }
    double figure() const { return open_.empty() ? kMissing : s_.values[open_.front()]; }

  private:
    bool beats(std::size_t a, std::size_t b) const {
        return greatest_ ? s_.values[a] >= s_.values[b] : s_.values[a] <= s_.values[b];
    }
    bool greatest_;
    std::deque<std::size_t> open_;
};

/// What needs only the two ends of the window.
class Ends : public Slider {
  public:
    Ends(const SampleView& s, WindowFigure figure) : Slider(s), figure_(figure) {}
    void enter(std::size_t) {}
    void leave(std::size_t) {}
    double figure() const {
        if (count() == 0) return kMissing;
        const double first = s_.values[left_], last = s_.values[right_ - 1];
        if (figure_ == WindowFigure::First) return first;
        if (figure_ == WindowFigure::Last) return last;
        if (count() < 2) return kMissing;
        if (figure_ == WindowFigure::Change) return last - first;
        return (last - first) / toHours(s_.times[right_ - 1] - s_.times[left_]);
    }

  private:
    WindowFigure figure_;
};

class RangeOf : public Slider {
  public:
    explicit RangeOf(const SampleView& s) : Slider(s), low_(s, false), high_(s, true) {}
    void enter(std::size_t i) { low_.enter(i), high_.enter(i); }
    void leave(std::size_t i) { low_.leave(i), high_.leave(i); }
    double figure() const { return high_.figure() - low_.figure(); }

  private:
    Extreme low_, high_;
};

/// Count, sum, mean, sd and slope from running sums. They are taken about a point near the window and made
/// again after as many steps as the window has samples, so rounding never builds up and the cost stays
/// linear.
template <WindowFigure kFigure>
class Moments : public Slider {
  public:
    using Slider::Slider;
    void enter(std::size_t i) { step(i, +1); }
    void leave(std::size_t i) {
        step(i, -1);
        if (++since_ > std::max(kRenewMomentsAfter, count())) renew(i + 1);
    }
    double figure() const {
        const auto n = static_cast<double>(count());
        if constexpr (kFigure == WindowFigure::Count) return n;
        if (n == 0) return kMissing;
        if constexpr (kFigure == WindowFigure::Sum) return y_ + n * value0_;
        if constexpr (kFigure == WindowFigure::Mean) return y_ / n + value0_;
        if (n < 2) return kMissing;
        if constexpr (kFigure == WindowFigure::Sd)
            return std::sqrt(std::max(0.0, (second_ - y_ * y_ / n) / (n - 1)));
        const double spread = n * xx_ - x_ * x_;
        return spread > 0 ? (n * second_ - x_ * y_) / spread : kMissing;
    }

  private:
    void step(std::size_t i, double sign) {
        if constexpr (kFigure == WindowFigure::Count) return;
        if (count() == 0 && sign > 0) centre(i);
        const double y = s_.values[i] - value0_;
        y_ += sign * y;
        if constexpr (kFigure == WindowFigure::Sd) second_ += sign * y * y;
        if constexpr (kFigure == WindowFigure::Slope) {
            const double x = toNanoseconds(s_.times[i] - time0_) * (1.0 / kHourNs);
            x_ += sign * x;
            xx_ += sign * x * x;
            second_ += sign * x * y;
        }
    }
    void centre(std::size_t i) {
        time0_ = s_.times[i];
        value0_ = s_.values[i];
        x_ = y_ = xx_ = second_ = 0;
    }
    void renew(std::size_t left) {
        since_ = 0;
        if (left >= right_) return;
        centre(left + (right_ - left) / 2);
        for (std::size_t i = left; i < right_; ++i) step(i, +1);
    }
    Instant time0_{};
    double value0_ = 0, x_ = 0, y_ = 0, xx_ = 0;
    double second_ = 0;  ///< of y² for sd, of x·y for slope
    std::size_t since_ = 0;
};

/// Quantiles from a tree of counts over the ranks of all values (Fenwick 1994): log of the number of
/// different values a step.
class Middle : public Slider {
  public:
    Middle(const SampleView& s, double q) : Slider(s), q_(q), sorted_(s.values.begin(), s.values.end()) {
        std::sort(sorted_.begin(), sorted_.end());
        sorted_.erase(std::unique(sorted_.begin(), sorted_.end()), sorted_.end());
        rank_.reserve(s.values.size());
        for (const double v : s.values)
            rank_.push_back(std::lower_bound(sorted_.begin(), sorted_.end(), v) - sorted_.begin());
        tree_.assign(sorted_.size() + 1, 0);
        while ((top_ << 1) <= sorted_.size()) top_ <<= 1;
    }
    void enter(std::size_t i) { add(rank_[i], +1); }
    void leave(std::size_t i) { add(rank_[i], -1); }
    double figure() const {
        const std::size_t n = count();
        if (n == 0) return kMissing;
        const double place = q_ * static_cast<double>(n - 1);
        const auto below = static_cast<std::size_t>(place);
        const double low = ordered(below);
        if (below + 1 >= n) return low;
        const double part = place - static_cast<double>(below);
        return part == 0.5 ? (low + ordered(below + 1)) / 2 : low + part * (ordered(below + 1) - low);
    }

  private:
    void add(std::size_t rank, int by) {
        for (std::size_t i = rank + 1; i < tree_.size(); i += i & (~i + 1)) tree_[i] += by;
    }
    double ordered(std::size_t k) const {
        std::size_t at = 0, left = k;
        for (std::size_t bit = top_; bit > 0; bit >>= 1)
            if (at + bit < tree_.size() && static_cast<std::size_t>(tree_[at + bit]) <= left) {
                at += bit;
                left -= tree_[at];
            }
        return sorted_[at];
    }
    double q_;
    std::vector<double> sorted_;
    std::vector<std::size_t> rank_;
    std::vector<int> tree_;
    std::size_t top_ = 1;
};

/// Calls `work` with the slider of a figure over samples: each figure has its loop compiled for itself.
template <typename Work>
void withSlider(WindowFigure figure, const SampleView& s, double q, Work work) {
    using enum WindowFigure;
    const auto with = [&](auto slider) { work(slider); };
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
            return with(Moments<Count>(s));
        case Sum:
            return with(Moments<Sum>(s));
        case Sd:
            return with(Moments<Sd>(s));
        case Slope:
            return with(Moments<Slope>(s));
        case Mean:
        case Integral:
            return with(Moments<Mean>(s));
    }
}

/// At least half of the window has a value.
bool isFull(Duration covered, Duration width) {
    return covered > Duration::zero() && covered >= width - covered;
}

/// Mean or integral over (start(i), at[i]] for rising starts.
template <typename Start>
void slideByTime(WindowFigure figure, const Signal& x, const std::vector<Instant>& at, Start start,
                 std::vector<double>& out) {
    Area area(x);
    for (std::size_t i = 0; i < at.size(); ++i) {
        const Instant begin = start(i);
        if (begin == kNoInstant || begin < x.begins) continue;
        const auto sum = area.over(begin, at[i]);
        if (!isFull(sum.covered, at[i] - begin)) continue;
        const auto covered = toNanoseconds(sum.covered);
        const double mean = area.base() + sum.area / covered;
        out[i] = figure == WindowFigure::Mean ? mean : mean * covered / kHourNs;
    }
}

/// The figure over (start(i), at[i]] for rising starts; what is asked of a window is that it lies in the
/// record and is at least half covered.
template <typename Start>
std::vector<double> slideOver(WindowFigure figure, const Signal& x, const std::vector<Instant>& at, double q,
                              const Samples* given, Start start) {
    std::vector<double> out(at.size(), kMissing);
    if (isByTime(figure)) {
        slideByTime(figure, x, at, start, out);
        return out;
    }
    const bool whole = isWhole(x), asTheyAre = !given && whole;
    const Samples own = given || asTheyAre ? Samples{} : samplesOf(x);
    const Samples& kept = given ? *given : own;
    const SampleView samples =
        asTheyAre ? SampleView{x.times, x.values} : SampleView{kept.times, kept.values};
    Covered covered(x, whole);
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
    Area area(x);
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
                const auto sum = area.over(all.times[i - n], all.times[i - 1]);
                if (known) values[place] = (sum.area + area.base() * toNanoseconds(sum.covered)) / kHourNs;
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
