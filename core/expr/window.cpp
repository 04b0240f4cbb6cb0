#include "core/expr/window.h"

#include <algorithm>
#include <deque>
#include <limits>
#include <memory>

namespace jacinth {
namespace {

constexpr double kMissing = std::numeric_limits<double>::quiet_NaN();

/// Integral and covered time from the first knot up to rising times, added up on the way: two of these, one
/// for each end of a window, add the same parts in the same order, so what they share cancels exactly. Values
/// are taken relative to base() so that the difference of two large sums keeps its digits.
class Running {
  public:
    explicit Running(const Signal& x) : x_(x) {
        for (const double v : x.values)
            if (std::isfinite(v)) {
                base_ = v;
                break;
            }
    }

    struct Sum {
        long double area;
        Duration covered;
    };
    /// `t` not before that of the last call.
    Sum upTo(Instant t) {
        const auto& times = x_.times;
        if (times.empty() || t <= times.front()) return {0, 0};
        for (; at_ + 1 < times.size() && times[at_ + 1] <= t; ++at_) {
            if (!known(at_)) continue;
            const Duration step = times[at_ + 1] - times[at_];
            sum_.area += part(at_, step);
            sum_.covered += step;
        }
        const Duration step = t - times[at_];
        if (step == 0 || !known(at_)) return sum_;
        return {sum_.area + part(at_, step), sum_.covered + step};
    }
    double base() const { return base_; }

  private:
    bool known(std::size_t i) const {
        if (!std::isfinite(x_.values[i])) return false;
        return x_.stepped || (i + 1 < x_.times.size() && std::isfinite(x_.values[i + 1]));
    }
    long double part(std::size_t i, Duration step) const {
        const double v = x_.values[i] - base_;
        if (x_.stepped) return static_cast<long double>(v) * step;
        const Duration whole = x_.times[i + 1] - x_.times[i];
        const double rise = x_.values[i + 1] - x_.values[i];
        const double half =
            step == whole ? rise / 2 : rise / static_cast<double>(whole) * static_cast<double>(step) / 2;
        return static_cast<long double>(v + half) * step;
    }

    const Signal& x_;
    double base_ = 0;
    std::size_t at_ = 0;
    Sum sum_{0, 0};
};

/// Something that samples enter at the right and leave at the left: [left, right) of the samples.
class Slider {
  public:
    explicit Slider(const Samples& s) : s_(s) {}
    virtual ~Slider() = default;
    virtual void enter(std::size_t i) = 0;
    virtual void leave(std::size_t i) = 0;
    virtual double figure() const = 0;
    void moveTo(std::size_t left, std::size_t right) {
        for (; right_ < right; ++right_) enter(right_);
        for (; left_ < left; ++left_) leave(left_);
    }

  protected:
    std::size_t count() const { return right_ - left_; }
    const Samples& s_;
    std::size_t left_ = 0, right_ = 0;
};

/// Least or greatest by a deque that keeps only what can still win.
class Extreme : public Slider {
  public:
    Extreme(const Samples& s, bool greatest) : Slider(s), greatest_(greatest) {}
    void enter(std::size_t i) override {
        while (!open_.empty() && beats(i, open_.back())) open_.pop_back();
        open_.push_back(i);
    }
    void leave(std::size_t i) override {
        if (!open_.empty() && open_.front() == i) open_.pop_front();
    }
    double figure() const override { return open_.empty() ? kMissing : s_.values[open_.front()]; }

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
    Ends(const Samples& s, WindowFigure figure) : Slider(s), figure_(figure) {}
    void enter(std::size_t) override {}
    void leave(std::size_t) override {}
    double figure() const override {
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
    explicit RangeOf(const Samples& s) : Slider(s), low_(s, false), high_(s, true) {}
    void enter(std::size_t i) override { low_.enter(i), high_.enter(i); }
    void leave(std::size_t i) override { low_.leave(i), high_.leave(i); }
    double figure() const override { return high_.figure() - low_.figure(); }

  private:
    Extreme low_, high_;
};

/// Count, sum, sd and slope from running sums. They are taken about a point near the window and made anew
/// after as many steps as the window has samples, so rounding never builds up and the cost stays linear.
class Moments : public Slider {
  public:
    Moments(const Samples& s, WindowFigure figure) : Slider(s), figure_(figure) {}
    void enter(std::size_t i) override { step(i, +1); }
    void leave(std::size_t i) override {
        step(i, -1);
        if (++since_ > std::max<std::size_t>(1024, count())) renew(i + 1);
    }
    double figure() const override {
        const double n = static_cast<double>(count());
        if (figure_ == WindowFigure::Count) return n;
        if (n == 0) return kMissing;
        if (figure_ == WindowFigure::Sum) return y_ + n * value0_;
        if (figure_ == WindowFigure::Mean) return y_ / n + value0_;
        if (n < 2) return kMissing;
        if (figure_ == WindowFigure::Sd) return std::sqrt(std::max(0.0, (yy_ - y_ * y_ / n) / (n - 1)));
        const double sxx = xx_ - x_ * x_ / n;
        return sxx > 0 ? (xy_ - x_ * y_ / n) / sxx : kMissing;
    }

  private:
    void step(std::size_t i, double sign) {
        if (count() == 0 && sign > 0) centre(i);
        const double x = static_cast<double>(s_.times[i] - time0_) * (1.0 / static_cast<double>(kHour)),
                     y = s_.values[i] - value0_;
        x_ += sign * x;
        y_ += sign * y;
        xx_ += sign * x * x;
        xy_ += sign * x * y;
        yy_ += sign * y * y;
    }
    void centre(std::size_t i) {
        time0_ = s_.times[i];
        value0_ = s_.values[i];
        x_ = y_ = xx_ = xy_ = yy_ = 0;
    }
    void renew(std::size_t left) {
        since_ = 0;
        if (left >= right_) return;
        centre(left + (right_ - left) / 2);
        for (std::size_t i = left; i < right_; ++i) step(i, +1);
    }
    WindowFigure figure_;
    Instant time0_ = 0;
    double value0_ = 0, x_ = 0, y_ = 0, xx_ = 0, xy_ = 0, yy_ = 0;
    std::size_t since_ = 0;
};

/// Quantiles from a tree of counts over the ranks of all values (Fenwick 1994): log of the number of
/// different values a step.
class Middle : public Slider {
  public:
    Middle(const Samples& s, double q) : Slider(s), q_(q), sorted_(s.values) {
        std::sort(sorted_.begin(), sorted_.end());
        sorted_.erase(std::unique(sorted_.begin(), sorted_.end()), sorted_.end());
        rank_.reserve(s.values.size());
        for (const double v : s.values)
            rank_.push_back(std::lower_bound(sorted_.begin(), sorted_.end(), v) - sorted_.begin());
        tree_.assign(sorted_.size() + 1, 0);
        while ((top_ << 1) <= sorted_.size()) top_ <<= 1;
    }
    void enter(std::size_t i) override { add(rank_[i], +1); }
    void leave(std::size_t i) override { add(rank_[i], -1); }
    double figure() const override {
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

std::unique_ptr<Slider> sliderFor(WindowFigure figure, const Samples& s, double q) {
    switch (figure) {
        case WindowFigure::Min:
            return std::make_unique<Extreme>(s, false);
        case WindowFigure::Max:
            return std::make_unique<Extreme>(s, true);
        case WindowFigure::Range:
            return std::make_unique<RangeOf>(s);
        case WindowFigure::Median:
            return std::make_unique<Middle>(s, 0.5);
        case WindowFigure::Quantile:
            return std::make_unique<Middle>(s, q);
        case WindowFigure::Change:
        case WindowFigure::Rate:
        case WindowFigure::First:
        case WindowFigure::Last:
            return std::make_unique<Ends>(s, figure);
        default:
            return std::make_unique<Moments>(s, figure);
    }
}

constexpr double kHourNs = static_cast<double>(kHour);

/// The figure over (start(i), at[i]] for rising starts; what is asked of a window is that it lies in the
/// record and is at least half covered.
template <typename Start>
std::vector<double> slideOver(WindowFigure figure, const Signal& x, const std::vector<Instant>& at, double q,
                              const Samples* given, Start start) {
    Running ends(x), begins = ends;
    const Samples own = isByTime(figure) || given ? Samples{} : samplesOf(x);
    const Samples& samples = given ? *given : own;
    const auto slider = isByTime(figure) ? nullptr : sliderFor(figure, samples, q);
    std::vector<double> out;
    out.reserve(at.size());
    std::size_t left = 0, right = 0;
    for (std::size_t i = 0; i < at.size(); ++i) {
        const Instant t = at[i], begin = start(i);
        if (begin == kNoInstant || begin < x.begins) {
            out.push_back(kMissing);
            continue;
        }
        const auto upper = ends.upTo(t), lower = begins.upTo(begin);
        const Duration covered = upper.covered - lower.covered, width = t - begin;
        const bool full = covered > 0 && covered >= width - covered;
        if (!slider) {
            const double area = static_cast<double>(upper.area - lower.area);
            const double mean = ends.base() + area / static_cast<double>(covered);
            out.push_back(!full                          ? kMissing
                          : figure == WindowFigure::Mean ? mean
                                                         : mean * static_cast<double>(covered) / kHourNs);
            continue;
        }
        while (right < samples.times.size() && samples.times[right] <= t) ++right;
        while (left < right && samples.times[left] <= begin) ++left;
        slider->moveTo(left, right);
        out.push_back(full ? slider->figure() : kMissing);
    }
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
    Running ends(x), begins = ends;
    const auto slider = sliderFor(figure, all, q);
    const Signal knots = withKnots(x, at);
    Signal out;
    out.stepped = x.stepped;
    out.begins = x.begins;
    out.times = at;
    std::size_t i = 0, k = 0;
    for (const Instant t : at) {
        while (i < all.times.size() && all.times[i] <= t) ++i;
        while (k < knots.times.size() && knots.times[k] < t) ++k;
        const bool known = k < knots.times.size() && knots.times[k] == t && std::isfinite(knots.values[k]);
        if (i < n) {
            out.values.push_back(kMissing);
        } else if (figure == WindowFigure::Integral) {
            const auto upper = ends.upTo(all.times[i - 1]), lower = begins.upTo(all.times[i - n]);
            const double area = static_cast<double>(upper.area - lower.area);
            const double figureThere =
                (area + ends.base() * static_cast<double>(upper.covered - lower.covered)) / kHourNs;
            out.values.push_back(known ? figureThere : kMissing);
        } else {
            slider->moveTo(i - n, i);
            out.values.push_back(known ? slider->figure() : kMissing);
        }
    }
    return out;
}

Signal asNumber(const Condition& c, Instant begins, Instant ends) {
    Signal out;
    out.stepped = true;
    out.begins = begins;
    for (std::size_t i = 0; i < c.times.size(); ++i) {
        if (i + 1 < c.times.size() && c.times[i + 1] <= begins) continue;
        out.times.push_back(std::max(c.times[i], begins));
        out.values.push_back(c.values[i] == Truth::Unknown ? kMissing
                             : c.values[i] == Truth::True  ? 1.0
                                                           : 0.0);
    }
    if (out.times.empty() || out.times.back() < ends) {
        out.times.push_back(ends);
        out.values.push_back(kMissing);
    }
    return out;
}

Signal fadingMean(const Signal& x, Duration constant) {
    Signal out;
    out.stepped = x.stepped;
    out.begins = x.begins + constant;
    const double tau = static_cast<double>(constant);
    double mean = kMissing;
    for (std::size_t i = 0; i < x.times.size(); ++i) {
        const double v = x.values[i];
        const double before = i > 0 ? x.values[i - 1] : kMissing;
        if (i > 0 && std::isfinite(before) && (x.stepped || std::isfinite(v))) {
            const double a = static_cast<double>(x.times[i] - x.times[i - 1]) / tau, keep = std::exp(-a);
            const double ahead = a > 0 ? (1 - keep) / a : 1;
            mean = x.stepped ? keep * mean + (1 - keep) * before
                             : keep * mean + (ahead - keep) * before + (1 - ahead) * v;
        }
        if (std::isnan(mean)) mean = v;
        out.times.push_back(x.times[i]);
        out.values.push_back(std::isfinite(v) && x.times[i] >= out.begins ? mean : kMissing);
    }
    return out;
}

}  // namespace jacinth
