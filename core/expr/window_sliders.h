// The sums, order statistics and ends of the samples in a window that slides. Internal to core/expr.
//
// Sums are kept as two stacks: what stands before a boundary inside the window, summed back from the
// boundary, and what came in after it. A sample that leaves uncovers a smaller sum; nothing is ever taken
// away again, so rounding never builds up, and a step costs the same however long the window is.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

#include "core/base/missing.h"
#include "core/expr/window.h"
#include "core/expr/window_batches.h"

namespace jacinth {

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
[[gnu::always_inline]] inline void moveTo(S& slider, std::size_t left, std::size_t right) {
    if (left >= slider.right_) {
        // None of those in the window stays, and what lies between never was in one.
        for (; slider.left_ < slider.right_; ++slider.left_) slider.leave(slider.left_);
        slider.left_ = slider.right_ = left;
    }
    for (; slider.right_ < right; ++slider.right_) slider.enter(slider.right_);
    for (; slider.left_ < left; ++slider.left_) slider.leave(slider.left_);
}

/// Least or greatest: of the samples in the window only those that can still win are kept, by time.
class Extreme : public Slider {
  public:
    Extreme(const SampleView& s, bool greatest) : Slider(s), greatest_(greatest) {}
    void enter(std::size_t i) {
        while (open_.size() > first_ && beats(i, open_.back())) open_.pop_back();
        if (first_ == open_.size()) open_.clear(), first_ = 0;
        open_.push_back(i);
    }
    void leave(std::size_t i) {
        if (first_ == open_.size() || open_[first_] != i) return;
        // Those that have left are removed together, as many as stay.
        if (++first_ < 64 || first_ * 2 < open_.size()) return;
        open_.erase(open_.begin(), open_.begin() + static_cast<std::ptrdiff_t>(first_));
        first_ = 0;
    }
    double figure() const { return first_ == open_.size() ? kMissing : s_.values[open_[first_]]; }

  private:
    bool beats(std::size_t a, std::size_t b) const {
        return greatest_ ? s_.values[a] >= s_.values[b] : s_.values[a] <= s_.values[b];
    }
    bool greatest_;
    std::vector<std::size_t> open_;
    std::size_t first_ = 0;  ///< of open_
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

/// Sums over the samples of windows: of count, sum, mean, sd and slope. They are kept as two stacks: of the
/// samples before a boundary inside the window, summed back from it, and of those that came in after it. One
/// that leaves uncovers a smaller sum; nothing is ever taken away again. With sums about a sample inside the
/// window, rounding never builds up, and a step costs the same however long the window is.
template <WindowFigure kFigure>
class Moments {
    static constexpr std::size_t kParts = kFigure == WindowFigure::Count   ? 0
                                          : kFigure == WindowFigure::Slope ? 4
                                          : kFigure == WindowFigure::Sd    ? 2
                                                                           : 1;
    using Sums = std::array<double, kParts>;  ///< of y; y² or x·y; x; x²
    struct Centre {
        Instant time{};
        double value = 0;
    };

  public:
    /// The figure of each window that `source` gives, as TimeWindows does, with its samples.
    template <typename Source>
    static void slide(const SampleView& s, Source& source, double* out) {
        Moments sums(s);
        for (WindowBatch w; source.next(w);) {
            if (w.isPlain) {
                sums.overPlain(w, out);
                continue;
            }
            w.inRuns(
                sums.boundary_, [&](std::size_t left, std::size_t right) { sums.beginAgain(left, right); },
                [&](std::size_t from, std::size_t end) { sums.overRun(w, from, end, out); });
        }
    }

  private:
    explicit Moments(const SampleView& s) : s_(s) {
        if (!s.times.empty()) centre_ = {s.times[0], s.values[0]};
    }
    /// With the samples of this window before a new boundary at its end.
    void beginAgain(std::size_t left, std::size_t right) {
        beginning_ = left;
        boundary_ = right_ = right;
        if (right > left) centre_ = {s_.times[right - 1], s_.values[right - 1]};
        after_ = {};
        sumBack(s_, left, right, centre_, before_);
    }
    /// Windows that begin at the boundary or before it.
    [[gnu::noinline]] void overRun(const WindowBatch& w, std::size_t from, std::size_t end, double* out) {
        const SampleView s = s_;
        const Sums* before = before_.data();
        const std::size_t beginning = beginning_;
        const Centre centre = centre_;
        Sums after = after_;
        std::size_t right = right_;
        for (std::size_t k = from; k < end; ++k) {
            for (; right < w.right[k]; ++right) add(after, s, right, centre);
            const std::size_t left = w.left[k];
            Sums all = before[left - beginning];
            for (std::size_t p = 0; p < kParts; ++p) all[p] += after[p];
            out[w.output[k]] = figureOf(all, static_cast<double>(right - left), centre.value);
        }
        after_ = after;
        right_ = right;
    }
    void overPlain(const WindowBatch& w, double* out) {
        for (; right_ < w.sample; ++right_) add(after_, s_, right_, centre_);
        out += w.first - w.sample;
        for (std::size_t k = w.sample, end = k + w.size; k < end; ++k) {
            k = overPlainRun(k, end, w.width, out);
            if (k == end) break;
            beginAgain(left_, k + 1);
            out[k] = figureOf(before_.front(), static_cast<double>(k + 1 - left_), centre_.value);
        }
    }
    /// Windows that end with the samples from k on; until one begins after the boundary, which is returned.
    [[gnu::noinline]] std::size_t overPlainRun(std::size_t k, std::size_t end, Duration width, double* out) {
        const SampleView s = s_;
        const Sums* before = before_.data();
        const std::size_t beginning = beginning_;
        const Centre centre = centre_;
        Sums after = after_;
        std::size_t left = left_;
        for (; k < end; ++k) {
            left = firstFrom(s.times.data(), left, k, s.times[k] - width + kNanosecond);
            if (left > boundary_) break;
            add(after, s, k, centre);
            Sums all = before[left - beginning];
            for (std::size_t p = 0; p < kParts; ++p) all[p] += after[p];
            out[k] = figureOf(all, static_cast<double>(k + 1 - left), centre.value);
        }
        after_ = after;
        left_ = left;
        right_ = k;
        return k;
    }
    static double figureOf(const Sums& sums, double n, double base) {
        if constexpr (kFigure == WindowFigure::Count) return n;
        if (n == 0) return kMissing;
        if constexpr (kFigure == WindowFigure::Sum) return sums[0] + n * base;
        if constexpr (kFigure == WindowFigure::Mean) return sums[0] / n + base;
        if (n < 2) return kMissing;
        if constexpr (kFigure == WindowFigure::Sd)
            return std::sqrt(std::max(0.0, (sums[1] - sums[0] * sums[0] / n) / (n - 1)));
        if constexpr (kFigure == WindowFigure::Slope) {
            const double spread = n * sums[3] - sums[2] * sums[2];
            return spread > 0 ? (n * sums[1] - sums[2] * sums[0]) / spread : kMissing;
        }
        return kMissing;
    }
    static void add(Sums& to, const SampleView& s, std::size_t i, Centre centre) {
        if constexpr (kParts > 0) {
            const double y = s.values[i] - centre.value;
            to[0] += y;
            if constexpr (kFigure == WindowFigure::Sd) to[1] += y * y;
            if constexpr (kFigure == WindowFigure::Slope) {
                const double x = toNanoseconds(s.times[i] - centre.time) * (1.0 / toNanoseconds(kHour));
                to[1] += x * y;
                to[2] += x;
                to[3] += x * x;
            }
        }
    }
    /// The sums from each sample since `from` to `to`; none at the end.
    [[gnu::noinline]] static void sumBack(SampleView s, std::size_t from, std::size_t to, Centre centre,
                                          std::vector<Sums>& out) {
        out.resize(to - from + 1);
        Sums sum{};
        out.back() = sum;
        for (std::size_t i = to; i-- > from;) {
            add(sum, s, i, centre);
            out[i - from] = sum;
        }
    }

    SampleView s_;
    std::vector<Sums> before_ = std::vector<Sums>(1);  ///< from each sample since the beginning
    std::size_t beginning_ = 0, boundary_ = 0, right_ = 0;
    std::size_t left_ = 0;  ///< of plain batches
    Centre centre_;
    Sums after_{};  ///< from the boundary to the sample before the one on the right
};

/// Order statistics, from how many samples in the window have each value. The place asked for last is kept
/// and moved to the next one, in strides of 256 or 65 536 values where these are far apart.
class Middle {
  public:
    Middle(const SampleView& s, double q);
    Middle(const Middle&) = delete;
    Middle& operator=(const Middle&) = delete;
    /// The quantile of each window; type 7 of Hyndman & Fan (1996). `source` as Moments::slide takes it.
    template <typename Source>
    void slide(Source& source, double* out) {
        std::size_t left = 0, right = 0;
        for (WindowBatch w; source.next(w);) {
            for (std::size_t k = 0; k < w.size; ++k) {
                for (; right < w.right[k]; ++right) add(rank_[right], +1);
                for (; left < w.left[k]; ++left) add(rank_[left], -1);
                out[w.output[k]] = quantile(static_cast<std::int64_t>(right - left));
            }
        }
    }

  private:
    static constexpr int kShift = 8;  ///< 256 values, then 256 of these, make one of the next level
    static constexpr std::size_t kLevels = 3;
    /// Ranks straight from the digits, where all values are whole steps of a decimal. False where not.
    bool rankByDigits(std::span<const double> values);
    void rankBySorting(std::span<const double> values);
    void add(std::uint32_t rank, int by) {
        ones_[rank] += by;
        strides_[rank >> kShift] += by;
        if (levels_ > 2) counts_[2][rank >> (2 * kShift)] += by;
        below_ += rank < place_ ? by : 0;
    }
    /// Of the `n` samples that are counted.
    double quantile(std::int64_t n) {
        if (n == 0) return kMissing;
        const double place = q_ * static_cast<double>(n - 1);
        const auto below = static_cast<std::int64_t>(place);
        const double low = ordered(below);
        if (below + 1 >= n) return low;
        const double part = place - static_cast<double>(below);
        const double high = ordered(below + 1);
        return part == 0.5 ? (low + high) / 2 : low + part * (high - low);
    }
    /// The k-th value of the window.
    double ordered(std::int64_t k) {
        if (k < below_ || k >= below_ + ones_[place_]) seek(k);
        return sorted_[place_];
    }
    void seek(std::int64_t k);

    double q_;
    std::vector<double> sorted_;       ///< the value of each rank; some may never come
    std::vector<std::uint32_t> rank_;  ///< of each sample
    std::array<std::vector<int>, kLevels> counts_;
    int *ones_ = nullptr, *strides_ = nullptr;  ///< the first two of them
    std::size_t levels_ = 2;                    ///< that are worth it for so many values
    std::size_t place_ = 0;                     ///< a rank
    std::int64_t below_ = 0;                    ///< samples in the window below it
};

}  // namespace jacinth
