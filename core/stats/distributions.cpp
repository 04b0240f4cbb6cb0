#include "core/stats/distributions.h"

#include <cmath>
#include <initializer_list>
#include <limits>

namespace jacinth {
namespace {

/// The continued fraction of the incomplete beta function, modified Lentz.
double betaFraction(double a, double b, double x) {
    constexpr double kTiny = 1e-300;
    double c = 1, d = 1 - (a + b) * x / (a + 1);
    d = 1 / (std::abs(d) < kTiny ? kTiny : d);
    double h = d;
    for (int m = 1; m <= 500; ++m) {
        const double even = m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m));
        const double odd = -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1));
        for (const double term : {even, odd}) {
            d = 1 + term * d;
            d = 1 / (std::abs(d) < kTiny ? kTiny : d);
            c = 1 + term / c;
            if (std::abs(c) < kTiny) c = kTiny;
            h *= c * d;
        }
        if (std::abs(c * d - 1) < 1e-16) break;
    }
    return h;
}

}  // namespace

double incompleteBeta(double a, double b, double x) {
    if (!(a > 0) || !(b > 0) || !(x >= 0) || !(x <= 1)) return std::numeric_limits<double>::quiet_NaN();
    if (x == 0 || x == 1) return x;
    const double front =
        std::exp(std::lgamma(a + b) - std::lgamma(a) - std::lgamma(b) + a * std::log(x) + b * std::log1p(-x));
    return x < (a + 1) / (a + b + 2) ? front * betaFraction(a, b, x) / a
                                     : 1 - front * betaFraction(b, a, 1 - x) / b;
}

double fSurvival(double f, double d1, double d2) {
    if (!(d1 > 0) || !(d2 > 0) || std::isnan(f)) return std::numeric_limits<double>::quiet_NaN();
    if (f <= 0) return 1;
    return incompleteBeta(d2 / 2, d1 / 2, d2 / (d2 + d1 * f));
}

}  // namespace jacinth
