// The local line at the end of a sliding window, from running sums of powers.
#include <array>

#include "core/base/missing.h"
#include "core/expr/window.h"

namespace jacinth {
namespace {

constexpr int kPowers = 12;  // (1 − u³)³·u² has degree 11

using Real = long double;
using Sums = std::array<Real, kPowers>;

struct Binomials {
    std::array<std::array<Real, kPowers>, kPowers> c{};
    Binomials() {
        for (std::size_t n = 0; n < kPowers; ++n) {
            c[n][0] = c[n][n] = 1;
            for (std::size_t k = 1; k < n; ++k) c[n][k] = c[n - 1][k - 1] + c[n - 1][k];
        }
    }
};

/// Sums of powers of v = (s − origin)/width over the samples in the window, and of those times the value. The
/// origin follows the window, so that v stays small and nothing is lost to rounding.
class PowerSums {
  public:
    PowerSums(const Signal& x, Duration width) : x_(x), width_(static_cast<Real>(width.count())) {}

    void enter(std::size_t i) { step(i, +1); }
    void leave(std::size_t i) { step(i, -1); }
    void restart(Instant origin, double base, std::size_t left, std::size_t right) {
        origin_ = origin;
        base_ = base;
        plain_ = {};
        withValue_ = {};
        for (std::size_t i = left; i < right; ++i)
            if (std::isfinite(x_.values[i])) enter(i);
    }
    Instant origin() const { return origin_; }
    void stop() { origin_ = kNoInstant; }

    /// The line at t.
    double lineAt(Instant t) const {
        const Real tau = static_cast<Real>((t - origin_).count()) / width_;
        const Sums m = about(plain_, tau), y = about(withValue_, tau);
        // w = 1 − 3u³ + 3u⁶ − u⁹; z = −u.
        const auto weighted = [](const Sums& s, std::size_t k) {
            return s[k] - 3 * s[k + 3] + (k + 6 < kPowers ? 3 * s[k + 6] : 0) -
                   (k + 9 < kPowers ? s[k + 9] : 0);
        };
        const Real s0 = weighted(m, 0), s1 = -weighted(m, 1), s2 = weighted(m, 2), t0 = weighted(y, 0),
                   t1 = -weighted(y, 1);
        if (!(s0 > 0)) return kMissing;
        const Real spread = s0 * s2 - s1 * s1;
        // One sample, or all at one distance: their mean.
        if (!(spread > 1e-12L * s0 * s0)) return static_cast<double>(t0 / s0) + base_;
        return static_cast<double>((s2 * t0 - s1 * t1) / spread) + base_;
    }

  private:
    void step(std::size_t i, int sign) {
        const Real v = static_cast<Real>((x_.times[i] - origin_).count()) / width_;
        const Real value = static_cast<Real>(x_.values[i] - base_);
        Real power = sign;
        for (std::size_t p = 0; p < kPowers; ++p, power *= v) {
            plain_[p] += power;
            withValue_[p] += power * value;
        }
    }
    /// Sums of powers of u = τ − v from those of v.
    static Sums about(const Sums& a, Real tau) {
        static const Binomials binomials;
        Sums powers{}, out{};
        powers[0] = 1;
        for (std::size_t p = 1; p < kPowers; ++p) powers[p] = powers[p - 1] * tau;
        for (std::size_t p = 0; p < kPowers; ++p)
            for (std::size_t j = 0; j <= p; ++j)
                out[p] += (j % 2 ? -1 : 1) * binomials.c[p][j] * powers[p - j] * a[j];
        return out;
    }

    KnotsView x_;
    Real width_;
    Instant origin_ = kNoInstant;
    double base_ = 0;
    Sums plain_{}, withValue_{};
};

}  // namespace

std::vector<double> slideSmooth(const Signal& x, Duration width, const std::vector<Instant>& at) {
    // A mean is missing exactly where a window is not full or not covered.
    std::vector<double> out = slide(WindowFigure::Mean, x, width, at);
    PowerSums sums(x, width);
    std::size_t left = 0, right = 0;
    for (std::size_t k = 0; k < at.size(); ++k) {
        const Instant t = at[k];
        for (; right < x.times.size() && x.times[right] <= t; ++right)
            if (std::isfinite(x.values[right]) && sums.origin() != kNoInstant) sums.enter(right);
        for (; left < right && x.times[left] <= t - width; ++left)
            if (std::isfinite(x.values[left]) && sums.origin() != kNoInstant) sums.leave(left);
        if (std::isnan(out[k])) {
            sums.stop();  // begins again behind the gap
            continue;
        }
        // Made again once per window: the sums' cost stays linear.
        if (sums.origin() == kNoInstant || t - sums.origin() > width)
            sums.restart(t - width / 2, out[k], left, right);
        out[k] = sums.lineAt(t);
    }
    return out;
}

}  // namespace jacinth
