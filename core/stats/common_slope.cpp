#include "core/stats/common_slope.h"

#include <cmath>

#include "core/base/missing.h"
#include "core/stats/distributions.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

struct Sums {
    double meanX = 0, meanY = 0, xx = 0, xy = 0, yy = 0;
    std::size_t n = 0;
};

Sums sumsOf(const Stretch& s) {
    Sums out;
    out.n = s.x.size();
    if (out.n == 0) return out;
    out.meanX = mean(s.x);
    out.meanY = mean(s.y);
    for (std::size_t i = 0; i < out.n; ++i) {
        const double dx = s.x[i] - out.meanX, dy = s.y[i] - out.meanY;
        out.xx += dx * dx;
        out.xy += dx * dy;
        out.yy += dy * dy;
    }
    return out;
}

}  // namespace

std::optional<CommonSlope> commonSlope(std::span<const Stretch> stretches) {
    CommonSlope out;
    double xx = 0, xy = 0, yy = 0, own = 0;
    double points = 0, lines = 0;
    for (const Stretch& stretch : stretches) {
        const Sums s = sumsOf(stretch);
        StretchLine& line = out.own.emplace_back();
        if (s.n < 2 || !(s.xx > 0)) continue;
        line.n = s.n;
        line.slope = s.xy / s.xx;
        line.intercept = s.meanY - line.slope * s.meanX;
        const double rest = std::max(0.0, s.yy - line.slope * s.xy);
        line.slopeError = s.n > 2 ? std::sqrt(rest / static_cast<double>(s.n - 2) / s.xx) : kMissing;
        xx += s.xx;
        xy += s.xy;
        yy += s.yy;
        own += rest;
        points += static_cast<double>(s.n);
        ++lines;
    }
    if (lines == 0) return {};
    out.slope = xy / xx;
    const double common = std::max(0.0, yy - out.slope * xy);
    const double freeCommon = points - lines - 1, freeOwn = points - 2 * lines;
    out.slopeError = freeCommon > 0 ? std::sqrt(common / freeCommon / xx) : kMissing;
    const double reach = studentQuantile(0.975, freeCommon) * out.slopeError;
    out.slopeLow = out.slope - reach;
    out.slopeHigh = out.slope + reach;
    out.f = out.p = out.fNone = out.pNone = kMissing;
    if (lines > 1 && freeOwn > 0 && own > 0) {
        out.f = (common - own) / (lines - 1) / (own / freeOwn);
        out.p = fSurvival(out.f, lines - 1, freeOwn);
    }
    if (freeCommon > 0 && common > 0) {
        out.fNone = out.slope * xy / (common / freeCommon);
        out.pNone = fSurvival(out.fNone, 1, freeCommon);
    }
    return out;
}

}  // namespace jacinth
