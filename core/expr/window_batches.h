// Windows of many outputs at a time, and which samples lie in them: the loops over them are short, know
// nothing of gaps, and stay in registers. Internal to core/expr.
#pragma once

#include <algorithm>
#include <array>
#include <span>

#include "core/expr/covered_time.h"

namespace jacinth {

/// Some windows that are to have a figure, by their outputs.
struct WindowBatch {
    static constexpr std::size_t kMost = 256;
    std::size_t size = 0;
    /// All are as wide as `width`, and they are for the outputs from `first` on, which stand at the samples
    /// from `sample` on. As much as `covered` of the first has a value, and of the others as much, or, where
    /// it grows, by as much more as they end later. Then nothing below is filled in, and a loop can do
    /// without.
    bool isPlain = false, grows = false;
    std::size_t first = 0, sample = 0;
    Duration width{}, covered{};
    std::array<std::size_t, kMost> output;       ///< the place of the figure
    std::array<Instant, kMost> begin, end;       ///< (begin, end], both rising
    std::array<Duration, kMost> known;           ///< how much of it is covered
    std::array<std::size_t, kMost> left, right;  ///< the samples [left, right) are in it

    /// In runs of windows that begin at the boundary or before it: `over(from, next)`. `beginAgain(left,
    /// right)` moves it to the end of a window that begins after it.
    template <typename BeginAgain, typename Over>
    void inRuns(const std::size_t& boundary, BeginAgain beginAgain, Over over) const {
        for (std::size_t from = 0, next = 0; from < size; from = next) {
            if (left[from] > boundary) beginAgain(left[from], right[from]);
            const auto after = std::upper_bound(left.begin() + from, left.begin() + size, boundary);
            next = static_cast<std::size_t>(after - left.begin());
            over(from, next);
        }
    }
};

/// The windows (start(k), at[k]] that lie in the record and are at least half covered. Starts rise, but for
/// kNoInstant at an output without a window; with Start::kFixedWidth every window has the width of the first.
template <typename Start>
class TimeWindows {
  public:
    /// `first`: the first output that is wanted. `samples`: some of those in `at`, where the caller can do
    /// with plain batches.
    TimeWindows(const Signal& x, CoveredTime& covered, std::span<const Instant> at, std::size_t first,
                Start start, std::span<const Instant> samples = {})
        : covered_(covered), begins_(x.begins), at_(at), start_(start), samples_(samples), next_(first) {}

    /// The next of them; false where none is left.
    bool next(WindowBatch& out) {
        out.size = 0;
        while (out.size == 0 && next_ < at_.size()) {
            const std::size_t from = next_, n = std::min(WindowBatch::kMost, at_.size() - from);
            next_ += n;
            out.isPlain = Start::kFixedWidth && isPlain(out, from, n);
            if (out.isPlain || begin(out, from, n))
                out.size = n;
            else
                keepCovered(out, n);
        }
        return out.size > 0;
    }

  private:
    static bool isEnough(Duration known, Duration width) {
        return known > Duration::zero() && known >= width - known;
    }
    bool isPlain(WindowBatch& out, std::size_t from, std::size_t n) {
        const Instant first = at_[from], last = at_[from + n - 1], earliest = start_(from);
        while (sample_ < samples_.size() && samples_[sample_] < first) ++sample_;
        // All of them are samples if as many lie between two that are.
        if (sample_ + n > samples_.size() || samples_[sample_] != first || samples_[sample_ + n - 1] != last)
            return false;
        out.first = from;
        out.sample = sample_;
        out.width = first - earliest;
        sample_ += n;
        if (earliest < begins_ || out.width <= Duration::zero()) return false;
        const auto even = covered_.evenly(earliest, first, last);
        if (!even) return false;
        out.covered = even->ofFirst;
        out.grows = even->grows;
        return isEnough(out.covered, out.width);
    }
    /// Puts down the windows of outputs from `from` on; says whether all of them are covered as a whole.
    bool begin(WindowBatch& out, std::size_t from, std::size_t n) {
        for (std::size_t i = 0; i < n; ++i) {
            const Instant start = start_(from + i), end = at_[from + i];
            out.output[i] = from + i;
            out.begin[i] = start;
            out.end[i] = end;
            out.known[i] = start == kNoInstant ? Duration::zero() : end - start;
        }
        return isWhole(out, n);
    }
    bool isWhole(const WindowBatch& w, std::size_t n) {
        Instant earliest = w.begin[0];
        Duration shortest = w.known[0];
        if constexpr (!Start::kFixedWidth)
            for (std::size_t i = 1; i < n; ++i) {
                earliest = std::min(earliest, w.begin[i]);
                shortest = std::min(shortest, w.known[i]);
            }
        return earliest >= begins_ && shortest > Duration::zero() && covered_.isWhole(earliest, w.end[n - 1]);
    }
    void keepCovered(WindowBatch& out, std::size_t n) {
        for (std::size_t i = 0; i < n; ++i) {
            const Instant start = out.begin[i], end = out.end[i];
            if (start == kNoInstant || start < begins_) continue;
            const Duration width = out.known[i];
            const Duration known = covered_.isWhole(start, end) ? width : covered_.over(start, end);
            if (!isEnough(known, width)) continue;
            out.output[out.size] = out.output[i];
            out.begin[out.size] = start;
            out.end[out.size] = end;
            out.known[out.size++] = known;
        }
    }

    CoveredTime& covered_;
    Instant begins_;
    std::span<const Instant> at_;
    Start start_;
    std::span<const Instant> samples_;
    std::size_t next_, sample_ = 0;
};

/// The first place from `at` on whose time is not before t, or `end`. It mostly is one of the next three, by
/// chance of when samples came: counted without a branch that would be guessed wrong half of the time.
[[gnu::always_inline]] inline std::size_t firstFrom(const Instant* times, std::size_t at, std::size_t end,
                                                    Instant t) {
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

/// Finds the samples of windows that rise from batch to batch.
class Places {
  public:
    explicit Places(std::span<const Instant> times) : times_(times) {}

    /// Those after the begin, up to the end.
    [[gnu::noinline]] void samplesIn(WindowBatch& b) {
        const Instant* times = times_.data();
        std::size_t left = left_, right = right_;
        for (std::size_t i = 0; i < b.size; ++i) {
            right = endFrom(right, b.end[i]);
            left = firstFrom(times, left, right, b.begin[i] + kNanosecond);
            b.left[i] = left;
            b.right[i] = right;
        }
        left_ = left;
        right_ = right;
    }
    /// The same for a plain batch, which then is one like others, without begins and ends.
    [[gnu::noinline]] void samplesInPlain(WindowBatch& b) {
        const Instant* times = times_.data();
        const Duration back = b.width - kNanosecond;
        std::size_t left = left_;
        for (std::size_t i = 0; i < b.size; ++i) {
            const std::size_t at = b.sample + i;
            left = firstFrom(times, left, at, times[at] - back);
            b.output[i] = b.first + i;
            b.left[i] = left;
            b.right[i] = at + 1;
        }
        left_ = left;
        b.isPlain = false;
    }
    /// The first and the last knot between which whole steps lie: from the begin to the end. Where there are
    /// none, both are the last knot before it.
    [[gnu::noinline]] void knotsIn(WindowBatch& b) {
        const Instant* times = times_.data();
        std::size_t left = left_, right = right_;
        for (std::size_t i = 0; i < b.size; ++i) {
            right = endFrom(right, b.end[i]);
            const std::size_t last = right - (right > 0);
            left = firstFrom(times, left, last, b.begin[i]);
            b.left[i] = left;
            b.right[i] = last;
        }
        left_ = left;
        right_ = right;
    }

  private:
    [[gnu::always_inline]] std::size_t endFrom(std::size_t at, Instant end) const {
        while (at < times_.size() && times_[at] <= end) ++at;
        return at;
    }
    std::span<const Instant> times_;
    std::size_t left_ = 0, right_ = 0;
};

}  // namespace jacinth
