#include "core/mend/interpolate.h"

#include <algorithm>
#include <cmath>

namespace jacinth {
namespace {

std::vector<double> secants(std::span<const double> x, std::span<const double> y) {
    std::vector<double> out;
    for (std::size_t i = 0; i + 1 < x.size(); ++i) out.push_back((y[i + 1] - y[i]) / (x[i + 1] - x[i]));
    return out;
}

/// At an end: the parabola through three points, as far as it keeps the shape.
double endSlope(double h0, double h1, double d0, double d1) {
    const double slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    if (slope * d0 <= 0) return 0;
    if (d0 * d1 < 0 && std::abs(slope) > 3 * std::abs(d0)) return 3 * d0;
    return slope;
}

}  // namespace

PiecewiseCubic PiecewiseCubic::monotone(std::span<const double> x, std::span<const double> y) {
    PiecewiseCubic out;
    out.x_.assign(x.begin(), x.end());
    out.y_.assign(y.begin(), y.end());
    const std::vector<double> d = secants(x, y);
    const std::size_t n = x.size();
    out.slope_.assign(n, d.empty() ? 0 : d.front());
    if (n < 3) return out;
    const auto h = [&](std::size_t i) { return x[i + 1] - x[i]; };
    for (std::size_t i = 1; i + 1 < n; ++i) {
        if (d[i - 1] * d[i] <= 0) {
            out.slope_[i] = 0;
            continue;
        }
        const double w1 = 2 * h(i) + h(i - 1), w2 = h(i) + 2 * h(i - 1);
        out.slope_[i] = (w1 + w2) / (w1 / d[i - 1] + w2 / d[i]);
    }
    out.slope_[0] = endSlope(h(0), h(1), d[0], d[1]);
    out.slope_[n - 1] = endSlope(h(n - 2), h(n - 3), d[n - 2], d[n - 3]);
    return out;
}

PiecewiseCubic PiecewiseCubic::natural(std::span<const double> x, std::span<const double> y) {
    PiecewiseCubic out;
    out.x_.assign(x.begin(), x.end());
    out.y_.assign(y.begin(), y.end());
    const std::size_t n = x.size();
    const std::vector<double> d = secants(x, y);
    out.slope_.assign(n, d.empty() ? 0 : d.front());
    if (n < 3) return out;
    // For the second derivatives at the inner points: three diagonals, solved from the front (Thomas).
    std::vector<double> second(n, 0.0), pivot(n, 1.0), right(n, 0.0);
    for (std::size_t i = 1; i + 1 < n; ++i) {
        const double h0 = x[i] - x[i - 1], h1 = x[i + 1] - x[i];
        const double share = i > 1 ? h0 / pivot[i - 1] : 0;
        pivot[i] = 2 * (h0 + h1) - share * (i > 1 ? h0 : 0);
        right[i] = 6 * (d[i] - d[i - 1]) - share * right[i - 1];
    }
    for (std::size_t i = n - 2; i >= 1; --i)
        second[i] = (right[i] - (x[i + 1] - x[i]) * second[i + 1]) / pivot[i];
    for (std::size_t i = 0; i + 1 < n; ++i)
        out.slope_[i] = d[i] - (x[i + 1] - x[i]) * (2 * second[i] + second[i + 1]) / 6;
    out.slope_[n - 1] = d[n - 2] + (x[n - 1] - x[n - 2]) * (2 * second[n - 1] + second[n - 2]) / 6;
    return out;
}

double PiecewiseCubic::at(double x) const {
    if (x_.size() < 2) return y_.empty() ? std::nan("") : y_.front();
    const auto after = std::upper_bound(x_.begin() + 1, x_.end() - 1, x);
    const auto i = static_cast<std::size_t>(after - x_.begin()) - 1;
    const double h = x_[i + 1] - x_[i], s = (x - x_[i]) / h, r = 1 - s;
    return (1 + 2 * s) * r * r * y_[i] + s * r * r * h * slope_[i] + s * s * (3 - 2 * s) * y_[i + 1] -
           s * s * r * h * slope_[i + 1];
}

}  // namespace jacinth
