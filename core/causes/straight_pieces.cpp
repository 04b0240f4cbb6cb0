#include "core/causes/straight_pieces.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::size_t kLeast = 3, kNear = 5;

/// Sums from the start, so that the squares beside the line through any stretch cost nothing.
class LineCosts {
  public:
    LineCosts(std::span<const double> x, std::span<const double> y) {
        sums_.resize(x.size() + 1);
        for (std::size_t i = 0; i < x.size(); ++i) {
            const double u = x[i] - x.front(), v = y[i];
            const Sums& s = sums_[i];
            sums_[i + 1] = {s.x + u, s.y + v, s.xx + u * u, s.xy + u * v, s.yy + v * v};
        }
    }
    double of(std::size_t first, std::size_t last) const {
        const Sums &a = sums_[first], &b = sums_[last];
        const double n = static_cast<double>(last - first), mx = (b.x - a.x) / n, my = (b.y - a.y) / n;
        const double xx = b.xx - a.xx - n * mx * mx, xy = b.xy - a.xy - n * mx * my,
                     yy = b.yy - a.yy - n * my * my;
        return std::max(0.0, xx > 0 ? yy - xy * xy / xx : yy);
    }

  private:
    struct Sums {
        double x = 0, y = 0, xx = 0, xy = 0, yy = 0;
    };
    std::vector<Sums> sums_;
};

/// Of a series that is straight but for noise a second difference has √6 of its deviation.
double noiseBesideLines(std::span<const double> y) {
    std::vector<double> d;
    for (std::size_t i = 2; i < y.size(); ++i) d.push_back(std::abs(y[i] - 2 * y[i - 1] + y[i - 2]));
    return d.empty() ? 0 : 1.4826 * median(std::move(d)) / std::sqrt(6.0);
}

std::vector<double> withoutWildValues(std::span<const double> y, double noise) {
    std::vector<double> out(y.begin(), y.end());
    for (std::size_t i = 0; i < y.size(); ++i) {
        const std::size_t from = std::min(i < 2 ? 0 : i - 2, y.size() - kNear);
        const double near = median({y.begin() + static_cast<std::ptrdiff_t>(from),
                                    y.begin() + static_cast<std::ptrdiff_t>(from + kNear)});
        if (std::abs(y[i] - near) > 4 * noise) out[i] = near;
    }
    return out;
}

}  // namespace

std::vector<StraightPiece> straightPieces(std::span<const double> x, std::span<const double> y,
                                          double penalty) {
    const std::size_t n = y.size();
    if (n < 2 * kNear) return {{0, n}};
    const double noise = noiseBesideLines(y);
    const std::vector<double> calm = withoutWildValues(y, noise);
    const LineCosts costs(x, calm);
    const double each = penalty * std::log(static_cast<double>(n)) * noise * noise;
    std::vector<double> best(n + 1, std::numeric_limits<double>::infinity());
    std::vector<std::size_t> from(n + 1, 0);
    best[0] = -each;
    for (std::size_t last = kLeast; last <= n; ++last)
        for (std::size_t first = 0; first + kLeast <= last; ++first) {
            const double cost = best[first] + costs.of(first, last) + each;
            if (cost < best[last]) best[last] = cost, from[last] = first;
        }
    std::vector<StraightPiece> out;
    for (std::size_t last = n; last > 0; last = from[last]) out.push_back({from[last], last});
    std::reverse(out.begin(), out.end());
    return out;
}

}  // namespace jacinth
