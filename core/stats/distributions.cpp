#include "core/stats/distributions.h"

#include <cmath>
#include <initializer_list>
#include <limits>

#include "core/base/missing.h"

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

double polynomial(std::initializer_list<double> fromHighest, double x) {
    double y = 0;
    for (const double c : fromHighest) y = y * x + c;
    return y;
}

/// Lower incomplete gamma function, regularised: series for x < a + 1.
double gammaSeries(double a, double x) {
    double term = 1 / a, sum = term;
    for (int n = 1; n < 10'000 && std::abs(term) > std::abs(sum) * 1e-17; ++n) sum += term *= x / (a + n);
    return sum * std::exp(a * std::log(x) - x - std::lgamma(a));
}

/// The upper one by its continued fraction, modified Lentz, for x ≥ a + 1.
double gammaFraction(double a, double x) {
    constexpr double kTiny = 1e-300;
    double b = x + 1 - a, c = 1 / kTiny, d = 1 / b, h = d;
    for (int n = 1; n < 10'000; ++n) {
        const double an = -n * (n - a);
        b += 2;
        d = an * d + b;
        d = 1 / (std::abs(d) < kTiny ? kTiny : d);
        c = b + an / c;
        if (std::abs(c) < kTiny) c = kTiny;
        h *= c * d;
        if (std::abs(c * d - 1) < 1e-16) break;
    }
    return h * std::exp(a * std::log(x) - x - std::lgamma(a));
}

}  // namespace

double incompleteBeta(double a, double b, double x) {
    if (!(a > 0) || !(b > 0) || !(x >= 0) || !(x <= 1)) return kMissing;
    if (x == 0 || x == 1) return x;
    const double front =
        std::exp(std::lgamma(a + b) - std::lgamma(a) - std::lgamma(b) + a * std::log(x) + b * std::log1p(-x));
    return x < (a + 1) / (a + b + 2) ? front * betaFraction(a, b, x) / a
                                     : 1 - front * betaFraction(b, a, 1 - x) / b;
}

double fSurvival(double f, double d1, double d2) {
    if (!(d1 > 0) || !(d2 > 0) || std::isnan(f)) return kMissing;
    if (f <= 0) return 1;
    return incompleteBeta(d2 / 2, d1 / 2, d2 / (d2 + d1 * f));
}

double normalQuantile(double p) {
    if (!(p >= 0) || !(p <= 1)) return kMissing;
    if (p == 0 || p == 1) return (p - 0.5) * std::numeric_limits<double>::infinity();
    const double q = p - 0.5;
    if (std::abs(q) <= 0.425) {
        const double r = 0.180625 - q * q;
        return q *
               polynomial({2509.0809287301226727, 33430.575583588128105, 67265.770927008700853,
                           45921.953931549871457, 13731.693765509461125, 1971.5909503065514427,
                           133.14166789178437745, 3.387132872796366608},
                          r) /
               polynomial(
                   {5226.495278852545925, 28729.085735721942674, 39307.89580009271061, 21213.794301586595867,
                    5394.1960214247511077, 687.1870074920579083, 42.313330701600911252, 1.0},
                   r);
    }
    const double tail = std::sqrt(-std::log(q < 0 ? p : 1 - p));
    double z = 0;
    if (tail <= 5) {
        const double r = tail - 1.6;
        z = polynomial({7.7454501427834140764e-4, 0.0227238449892691845833, 0.24178072517745061177,
                        1.27045825245236838258, 3.64784832476320460504, 5.7694972214606914055,
                        4.6303378461565452959, 1.42343711074968357734},
                       r) /
            polynomial({1.05075007164441684324e-9, 5.475938084995344946e-4, 0.0151986665636164571966,
                        0.14810397642748007459, 0.68976733498510000455, 1.6763848301838038494,
                        2.05319162663775882187, 1.0},
                       r);
    } else {
        const double r = tail - 5;
        z = polynomial({2.01033439929228813265e-7, 2.71155556874348757815e-5, 0.0012426609473880784386,
                        0.026532189526576123093, 0.29656057182850489123, 1.7848265399172913358,
                        5.4637849111641143699, 6.6579046435011037772},
                       r) /
            polynomial({2.04426310338993978564e-15, 1.4215117583164458887e-7, 1.8463183175100546818e-5,
                        7.868691311456132591e-4, 0.0148753612908506148525, 0.13692988092273580531,
                        0.59983220655588793769, 1.0},
                       r);
    }
    return q < 0 ? -z : z;
}

double chiSquareCdf(double x, double degrees) {
    if (!(degrees > 0) || std::isnan(x)) return kMissing;
    if (x <= 0) return 0;
    const double a = degrees / 2, half = x / 2;
    return half < a + 1 ? gammaSeries(a, half) : 1 - gammaFraction(a, half);
}

double chiSquareQuantile(double p, double degrees) {
    if (!(p > 0) || !(p < 1) || !(degrees > 0)) return kMissing;
    double low = 0, high = degrees + 10;
    while (chiSquareCdf(high, degrees) < p) high *= 2;
    for (int i = 0; i < 200 && high - low > 1e-15 * high; ++i) {
        const double middle = (low + high) / 2;
        (chiSquareCdf(middle, degrees) < p ? low : high) = middle;
    }
    return (low + high) / 2;
}

double toleranceFactor(int n, double coverage, double confidence) {
    if (n < 2 || !(coverage > 0) || !(coverage < 1) || !(confidence > 0) || !(confidence < 1))
        return kMissing;
    const double freedom = n - 1;
    return normalQuantile((1 + coverage) / 2) *
           std::sqrt(freedom * (1 + 1.0 / n) / chiSquareQuantile(1 - confidence, freedom));
}

}  // namespace jacinth
