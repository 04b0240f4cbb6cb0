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

/// Count, sum, mean, sd and slope, about the sample at the boundary: a point inside the window, so that large
/// values and times keep their digits. What changes with every sample stays in registers: nothing here gives
/// away the address of the slider, and what stands before the boundary is kept elsewhere.
template <WindowFigure kFigure>
class Moments : public Slider {
    static constexpr std::size_t kParts = kFigure == WindowFigure::Count   ? 0
                                          : kFigure == WindowFigure::Slope ? 4
                                          : kFigure == WindowFigure::Sd    ? 2
                                                                           : 1;

  public:
    using Sums = std::array<double, kParts>;  ///< of y; y² or x·y; x; x²
    Moments(const SampleView& s, std::vector<Sums>& before) : Slider(s), before_(&before) {
        before.assign(1, Sums{});
    }
    void enter(std::size_t i) {
        if constexpr (kParts == 0) return;
        if (count() == 0) beginAt(i);
        add(after_, s_, i, centre_);
    }
    void leave(std::size_t i) {
        if constexpr (kParts == 0) return;
        if (i < boundary_ || i + 1 >= right_) return;
        // The boundary moves to the end of the window.
        centre_ = {s_.times[right_ - 1], s_.values[right_ - 1]};
        after_ = {};
        beginning_ = i + 1;
        boundary_ = right_;
        sumBack(s_, beginning_, boundary_, centre_, *before_);
    }
    double figure() const {
        const auto n = static_cast<double>(count());
        if constexpr (kFigure == WindowFigure::Count) return n;
        if (n == 0) return kMissing;
        Sums all = (*before_)[left_ - beginning_];
        for (std::size_t p = 0; p < kParts; ++p) all[p] += after_[p];
        if constexpr (kFigure == WindowFigure::Sum) return all[0] + n * centre_.value;
        if constexpr (kFigure == WindowFigure::Mean) return all[0] / n + centre_.value;
        if (n < 2) return kMissing;
        if constexpr (kFigure == WindowFigure::Sd)
            return std::sqrt(std::max(0.0, (all[1] - all[0] * all[0] / n) / (n - 1)));
        if constexpr (kFigure == WindowFigure::Slope) {
            const double spread = n * all[3] - all[2] * all[2];
            return spread > 0 ? (n * all[1] - all[2] * all[0]) / spread : kMissing;
        }
        return kMissing;
    }

  private:
    struct Centre {
        Instant time{};
        double value = 0;
    };
    static void add(Sums& to, const SampleView& s, std::size_t i, Centre centre) {
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
    void beginAt(std::size_t i) {
        centre_ = {s_.times[i], s_.values[i]};
        after_ = {};
        beginning_ = boundary_ = i;
        before_->assign(1, Sums{});
    }

    Centre centre_;
    std::size_t beginning_ = 0, boundary_ = 0;
    std::vector<Sums>* before_;  ///< from each sample since `beginning_` to the boundary
    Sums after_{};               ///< from the boundary on
};

/// Order statistics, from how many samples in the window have each value. The place asked for last is kept
/// and moved to the next one, in strides of 256 or 65 536 values where these are far apart.
class Middle : public Slider {
  public:
    Middle(const SampleView& s, double q);
    void enter(std::size_t i) { add(rank_[i], +1); }
    void leave(std::size_t i) { add(rank_[i], -1); }
    /// The quantile; type 7 of Hyndman & Fan (1996).
    double figure();

  private:
    static constexpr int kShift = 8;  ///< 256 values, then 256 of these, make one of the next level
    static constexpr std::size_t kLevels = 3;
    /// Ranks straight from the digits, where all values are whole steps of a decimal. False where not.
    bool rankByDigits();
    void rankBySorting();
    void add(std::uint32_t rank, int by) {
        for (std::size_t l = 0; l < levels_; ++l) counts_[l][rank >> (kShift * l)] += by;
        if (rank < place_) below_ += by;
    }
    double ordered(std::int64_t k);

    double q_;
    std::vector<double> sorted_;       ///< the value of each rank; some may never come
    std::vector<std::uint32_t> rank_;  ///< of each sample
    std::array<std::vector<int>, kLevels> counts_;
    std::size_t levels_ = 1;  ///< that are worth it for so many values
    std::size_t place_ = 0;   ///< a rank
    std::int64_t below_ = 0;  ///< samples in the window below it
};

}  // namespace jacinth
