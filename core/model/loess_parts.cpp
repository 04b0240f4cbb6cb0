// STL: Cleveland, Cleveland, McRae & Terpenning (1990), “STL: a seasonal-trend decomposition procedure based
// on loess”, Journal of Official Statistics 6, 3–73. Names of the paper's parameters stand in comments.
#include <algorithm>
#include <cmath>

#include "core/model/parts.h"

namespace jacinth {
namespace {

using Values = std::vector<double>;

/// A LOESS smooth of degree 1 over evenly spaced values, at places counted from 1.
class Loess {
  public:
    Loess(std::span<const double> y, int span, const double* weights)
        : y_(y), span_(span), weights_(weights), work_(y.size()) {}

    /// The value at place `at`, from the values at left … right (counted from 1, both included); `otherwise`
    /// where all weights are 0.
    double value(double at, int left, int right, double otherwise) {
        const int n = static_cast<int>(y_.size());
        double h = std::max(at - left, right - at);
        const int beyond = (span_ - n) / 2;  // whole steps, as the method has it
        if (span_ > n) h += beyond;
        const double far = 0.999 * h, near = 0.001 * h;
        double sum = 0;
        for (int j = left; j <= right; ++j) {
            const double r = std::abs(j - at);
            double w = 0;
            if (r <= far) {
                w = 1;
                if (r > near) {
                    const double q = r / h, c = 1 - q * q * q;
                    w = c * c * c;
                }
                if (weights_) w *= weights_[j - 1];
                sum += w;
            }
            work_[static_cast<std::size_t>(j - 1)] = w;
        }
        if (sum <= 0) return otherwise;
        for (int j = left; j <= right; ++j) work_[static_cast<std::size_t>(j - 1)] /= sum;
        if (h > 0) tilt(at, left, right, n - 1.0);
        double out = 0;
        for (int j = left; j <= right; ++j)
            out += work_[static_cast<std::size_t>(j - 1)] * y_[static_cast<std::size_t>(j - 1)];
        return out;
    }

    /// The smooth at every place, calculated at every `jump`-th and on lines between.
    void all(int jump, double* out) {
        const int n = static_cast<int>(y_.size());
        if (n < 2) {
            out[0] = y_[0];
            return;
        }
        jump = std::min(jump, n - 1);
        int left = 1, right = std::min(span_, n);
        for (int i = 0; i < n; i += jump) {
            place(i, left, right);
            out[i] = value(i + 1, left, right, y_[static_cast<std::size_t>(i)]);
        }
        if (jump == 1) return;
        for (int i = 0; i + jump < n; i += jump) line(out, i, i + jump);
        const int last = (n - 1) / jump * jump;
        if (last == n - 1) return;
        place(n - 1, left, right);
        out[n - 1] = value(n, left, right, y_.back());
        line(out, last, n - 1);
    }

  private:
    /// The span_ places nearest to i + 1.
    void place(int i, int& left, int& right) const {
        const int n = static_cast<int>(y_.size()), half = (span_ + 1) / 2;
        if (span_ >= n) {
            left = 1, right = n;
            return;
        }
        left = std::clamp(i + 1 - half + 1, 1, n - span_ + 1);
        right = left + span_ - 1;
    }
    void tilt(double at, int left, int right, double range) {
        double centre = 0, spread = 0;
        for (int j = left; j <= right; ++j) centre += work_[static_cast<std::size_t>(j - 1)] * j;
        for (int j = left; j <= right; ++j)
            spread += work_[static_cast<std::size_t>(j - 1)] * (j - centre) * (j - centre);
        if (std::sqrt(spread) <= 0.001 * range) return;
        const double b = (at - centre) / spread;
        for (int j = left; j <= right; ++j) work_[static_cast<std::size_t>(j - 1)] *= b * (j - centre) + 1;
    }
    static void line(double* out, int a, int b) {
        const double step = (out[b] - out[a]) / (b - a);
        for (int i = a + 1; i < b; ++i) out[i] = out[a] + step * (i - a);
    }

    std::span<const double> y_;
    int span_;
    const double* weights_;
    Values work_;
};

Values movingAverage(const Values& x, std::size_t length) {
    Values out(x.size() - length + 1);
    double sum = 0;
    for (std::size_t i = 0; i < length; ++i) sum += x[i];
    out[0] = sum / static_cast<double>(length);
    for (std::size_t i = 1; i < out.size(); ++i) {
        sum += x[i + length - 1] - x[i - 1];
        out[i] = sum / static_cast<double>(length);
    }
    return out;
}

class Stl {
  public:
    Stl(std::span<const double> y, int period, const LoessSpans& s)
        : y_(y),
          period_(period),
          n_(static_cast<int>(y.size())),
          spans_(s),
          cycle_(y.size()),
          trend_(y.size(), 0.0) {}

    bool run(const Progress& progress) {
        const int inner = spans_.robust ? 2 : 5, outer = spans_.robust ? 15 : 0;
        for (int k = 0;; ++k) {
            for (int i = 0; i < inner; ++i) {
                if (progress.stopped((k + static_cast<double>(i) / inner) / (outer + 1))) return false;
                innerRound();
            }
            if (k == outer) return true;
            reweigh();
        }
    }

    Parts take() {
        Parts out;
        out.remainder.resize(y_.size());
        for (std::size_t i = 0; i < y_.size(); ++i) out.remainder[i] = y_[i] - trend_[i] - cycle_[i];
        out.trend = std::move(trend_);
        out.cycle = std::move(cycle_);
        return out;
    }

  private:
    int jump(int span) const { return spans_.jump > 0 ? spans_.jump : automaticJump(span); }
    int automaticJump(int span) const {
        const double work = static_cast<double>(n_) * span;
        return work > 3e7 ? std::max(1, span / 10) : 1;
    }

    void innerRound() {
        Values work(y_.size());
        for (std::size_t i = 0; i < y_.size(); ++i) work[i] = y_[i] - trend_[i];
        const Values long_ = smoothPlaces(work);
        const Values low =
            movingAverage(movingAverage(movingAverage(long_, static_cast<std::size_t>(period_)),
                                        static_cast<std::size_t>(period_)),
                          3);
        Loess(low, spans_.lowPass, nullptr).all(jump(spans_.lowPass), work.data());
        for (std::size_t i = 0; i < y_.size(); ++i)
            cycle_[i] = long_[i + static_cast<std::size_t>(period_)] - work[i];
        for (std::size_t i = 0; i < y_.size(); ++i) work[i] = y_[i] - cycle_[i];
        Loess(work, spans_.trend, weights()).all(jump(spans_.trend), trend_.data());
    }

    /// Smooths the values of each place in the period over the periods, one period more at either end.
    Values smoothPlaces(const Values& x) const {
        Values out(y_.size() + 2 * static_cast<std::size_t>(period_));
        for (int place = 0; place < period_; ++place) {
            Values y, w;
            for (int i = place; i < n_; i += period_) {
                y.push_back(x[static_cast<std::size_t>(i)]);
                if (weights()) w.push_back(weights_[static_cast<std::size_t>(i)]);
            }
            const int k = static_cast<int>(y.size());
            Values smooth(y.size() + 2);
            Loess loess(y, spans_.cycle, w.empty() ? nullptr : w.data());
            loess.all(spans_.jump > 0 ? spans_.jump : 1, smooth.data() + 1);
            smooth[0] = loess.value(0, 1, std::min(spans_.cycle, k), smooth[1]);
            smooth[y.size() + 1] = loess.value(k + 1, std::max(1, k - spans_.cycle + 1), k, smooth[y.size()]);
            for (std::size_t m = 0; m < smooth.size(); ++m)
                if (const std::size_t at =
                        m * static_cast<std::size_t>(period_) + static_cast<std::size_t>(place);
                    at < out.size())
                    out[at] = smooth[m];
        }
        return out;
    }

    void reweigh() {
        Values rest(y_.size());
        for (std::size_t i = 0; i < y_.size(); ++i) rest[i] = std::abs(y_[i] - trend_[i] - cycle_[i]);
        Values sorted = rest;
        std::sort(sorted.begin(), sorted.end());
        const std::size_t n = sorted.size();
        const double h = 3 * (sorted[n / 2] + sorted[n - n / 2 - 1]);
        weights_.assign(y_.size(), 1.0);
        if (h == 0) return;
        for (std::size_t i = 0; i < y_.size(); ++i) {
            const double q = rest[i] / h;
            if (rest[i] > 0.999 * h)
                weights_[i] = 0;
            else if (rest[i] > 0.001 * h)
                weights_[i] = (1 - q * q) * (1 - q * q);
        }
    }

    const double* weights() const { return weights_.empty() ? nullptr : weights_.data(); }

    std::span<const double> y_;
    int period_, n_;
    LoessSpans spans_;
    Values cycle_, trend_, weights_;
};

int oddNotBelow(double x) {
    const int n = static_cast<int>(std::ceil(x));
    return n % 2 ? n : n + 1;
}

}  // namespace

Result<Parts> loessParts(std::span<const double> y, int period, bool multiplied, const LoessSpans& asked,
                         const Progress& progress) {
    if (period < 2) return Error{"a period needs two samples at least"};
    if (y.size() < 2 * static_cast<std::size_t>(period))
        return Error{"the stretch is shorter than two periods"};
    if (asked.cycle < 3 || asked.cycle % 2 == 0)
        return Error{"the cycle's span is an odd number, 3 at least"};
    LoessSpans spans = asked;
    if (spans.trend <= 0) spans.trend = oddNotBelow(1.5 * period / (1 - 1.5 / spans.cycle));
    if (spans.lowPass <= 0) spans.lowPass = oddNotBelow(period + 1);
    std::vector<double> logs;
    if (multiplied) {
        for (const double v : y) {
            if (!(v > 0)) return Error{"parts can be multiplied only where every value is above 0"};
            logs.push_back(std::log(v));
        }
        y = logs;
    }
    Stl stl(y, period, spans);
    if (!stl.run(progress)) return Error::cancelled();
    Parts out = stl.take();
    out.multiplied = multiplied;
    if (multiplied)
        for (auto* part : {&out.trend, &out.cycle, &out.remainder})
            for (double& v : *part) v = std::exp(v);
    return out;
}

}  // namespace jacinth
