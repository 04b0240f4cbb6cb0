// Integrals over windows that slide. Internal to core/expr.
#pragma once

#include <cmath>
#include <vector>

#include "core/expr/window_batches.h"

namespace jacinth {

/// Integrals, kept as two stacks as Moments (window_sliders.h) has its sums. `kWhole`: every knot
/// has a value; `kStepped`: it holds until the next.
template <bool kWhole, bool kStepped>
class Areas {
  public:
    /// Puts `figure(base, area, length)` for each window that `source` gives, with the integral of value −
    /// base over it, in ns, and its length less what is missing, which counts nothing.
    template <typename Source, typename Figure>
    static void slide(const KnotsView& x, Source& source, Figure figure, double* out) {
        if (x.times.empty()) return;
        Areas areas(x);
        Places places(x.times);
        for (WindowBatch w; source.next(w);) {
            if (w.isPlain) {
                areas.overPlain(w, figure, out);
                continue;
            }
            places.knotsIn(w);
            w.inRuns(
                areas.boundary_, [&](std::size_t left, std::size_t right) { areas.beginAgain(left, right); },
                [&](std::size_t from, std::size_t end) { areas.overRun(w, from, end, figure, out); });
        }
    }

  private:
    explicit Areas(const KnotsView& x) : x_(x), base_(valueIn(x, 0, x.times.size() - 1, 0)) {}

    /// With what lies in this window before a new boundary at its end.
    void beginAgain(std::size_t left, std::size_t right) {
        base_ = valueIn(x_, left, right, base_);
        beginning_ = left;
        boundary_ = right_ = right;
        after_ = 0;
        sumBack(x_, left, right, base_, before_);
    }
    /// Windows that begin at the boundary or before it.
    template <typename Figure>
    [[gnu::noinline]] void overRun(const WindowBatch& w, std::size_t from, std::size_t end, Figure figure,
                                   double* out) {
        const KnotsView x = x_;
        const double* before = before_.data();
        const std::size_t beginning = beginning_;
        const double base = base_;
        double after = after_;
        std::size_t right = right_;
        for (std::size_t k = from; k < end; ++k) {
            for (; right < w.right[k]; ++right) after += step(x, right, base);
            const std::size_t left = w.left[k];
            const double area =
                inWindow(x, left, right, w.begin[k], w.end[k], base, before[left - beginning] + after);
            out[w.output[k]] = figure(base, area, toNanoseconds(w.known[k]));
        }
        after_ = after;
        right_ = right;
    }
    template <typename Figure>
    void overPlain(const WindowBatch& w, Figure figure, double* out) {
        for (; right_ + 1 < w.first; ++right_) after_ += step(x_, right_, base_);
        for (std::size_t k = w.first, end = k + w.size; k < end; ++k) {
            k = w.grows ? overPlainRun<true>(w, k, end, figure, out)
                        : overPlainRun<false>(w, k, end, figure, out);
            if (k == end) break;
            beginAgain(left_, k);
            const double beside = besideFirst(x_, left_, x_.times[k] - w.width, base_);
            out[k] = figure(base_, before_.front() + beside, coveredAt<true>(x_, w, k));
        }
    }
    /// How much of the window that ends at knot k of a plain batch has a value, in ns.
    template <bool kGrows>
    [[gnu::always_inline]] static double coveredAt(const KnotsView& x, const WindowBatch& w, std::size_t k) {
        if constexpr (!kGrows) return toNanoseconds(w.covered);
        return toNanoseconds(w.covered + (w.grows ? x.times[k] - x.times[w.first] : Duration::zero()));
    }
    /// Windows that end at the knots from k on; until one begins after the boundary, which is returned.
    template <bool kGrows, typename Figure>
    [[gnu::noinline]] std::size_t overPlainRun(const WindowBatch& w, std::size_t k, std::size_t end,
                                               Figure figure, double* out) {
        const KnotsView x = x_;
        const double* before = before_.data();
        const std::size_t beginning = beginning_;
        const Duration width = w.width;
        const double base = base_;
        double after = after_, length = coveredAt<false>(x, w, k);
        std::size_t left = left_;
        for (; k < end; ++k) {
            const Instant begin = x.times[k] - width;
            left = firstFrom(x.times.data(), left, k, begin);
            if (left > boundary_) break;
            after += step(x, k - 1, base);
            if constexpr (kGrows) length = coveredAt<true>(x, w, k);
            out[k] =
                figure(base, before[left - beginning] + after + besideFirst(x, left, begin, base), length);
        }
        after_ = after;
        left_ = left;
        right_ = k - 1;
        return k;
    }
    /// What the window begins with before its first knot.
    [[gnu::always_inline]] static double besideFirst(const KnotsView& x, std::size_t left, Instant begin,
                                                     double base) {
        return left > 0 && begin < x.times[left] ? rest(x, left - 1, begin, base) : 0;
    }
    /// From the whole steps between two knots, with what is beside them.
    [[gnu::always_inline]] static double inWindow(const KnotsView& x, std::size_t left, std::size_t right,
                                                  Instant begin, Instant end, double base, double steps) {
        const Instant first = x.times[left], last = x.times[right];
        if (first < begin) [[unlikely]]  // between two knots
            return part(x, right, begin, end, base);
        if (end <= x.times.front()) [[unlikely]]
            return 0;
        steps += besideFirst(x, left, begin, base);
        if (end > last) steps += part(x, right, last, end, base);
        return steps;
    }
    /// Does what follows knot i, before the next one, have a value?
    static bool known(const KnotsView& x, std::size_t i) {
        if constexpr (kWhole) return true;
        return std::isfinite(x.values[i]) && (kStepped || std::isfinite(x.values[i + 1]));
    }
    /// From knot i to the next.
    [[gnu::always_inline]] static double step(const KnotsView& x, std::size_t i, double base) {
        if (!known(x, i)) return 0;
        const double middle = kStepped ? x.values[i] : (x.values[i] + x.values[i + 1]) / 2;
        return (middle - base) * toNanoseconds(x.times[i + 1] - x.times[i]);
    }
    /// Of what follows knot i, from a to b.
    [[gnu::always_inline]] static double part(const KnotsView& x, std::size_t i, Instant a, Instant b,
                                              double base) {
        if (i + 1 == x.times.size()) {  // only what is held goes on after the last
            if (!kStepped || !std::isfinite(x.values[i])) return 0;
        } else if (!known(x, i)) {
            return 0;
        }
        double middle = x.values[i];
        if constexpr (!kStepped) {
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
        if constexpr (kStepped) return (x.values[i] - base) * left;
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

    KnotsView x_;
    std::vector<double> before_ = {0};  ///< from each knot since the beginning to the boundary
    std::size_t beginning_ = 0, boundary_ = 0, right_ = 0;
    std::size_t left_ = 0;     ///< of plain batches
    double base_, after_ = 0;  ///< from the boundary to the knot on the right
};

}  // namespace jacinth
