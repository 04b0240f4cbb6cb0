#include "core/stats/distributions.h"

#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/fisher_f.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <limits>

#include "core/base/missing.h"

namespace jacinth {
namespace {

bool isShare(double p) {
    return p > 0 && p < 1;
}

}  // namespace

double fSurvival(double f, double d1, double d2) {
    if (!(d1 > 0) || !(d2 > 0) || std::isnan(f)) return kMissing;
    if (f <= 0) return 1;
    if (std::isinf(f)) return 0;
    return boost::math::cdf(boost::math::complement(boost::math::fisher_f(d1, d2), f));
}

double normalQuantile(double p) {
    if (!(p >= 0) || !(p <= 1)) return kMissing;
    if (p == 0 || p == 1) return (p - 0.5) * std::numeric_limits<double>::infinity();
    return boost::math::quantile(boost::math::normal(), p);
}

double studentQuantile(double p, double degrees) {
    if (!isShare(p) || !(degrees > 0)) return kMissing;
    return boost::math::quantile(boost::math::students_t(degrees), p);
}

double chiSquareCdf(double x, double degrees) {
    if (!(degrees > 0) || std::isnan(x)) return kMissing;
    if (x <= 0) return 0;
    if (std::isinf(x)) return 1;
    return boost::math::cdf(boost::math::chi_squared(degrees), x);
}

double chiSquareQuantile(double p, double degrees) {
    if (!isShare(p) || !(degrees > 0)) return kMissing;
    return boost::math::quantile(boost::math::chi_squared(degrees), p);
}

double toleranceFactor(int n, double coverage, double confidence) {
    if (n < 2 || !(coverage > 0) || !(coverage < 1) || !(confidence > 0) || !(confidence < 1))
        return kMissing;
    const double freedom = n - 1;
    return normalQuantile((1 + coverage) / 2) *
           std::sqrt(freedom * (1 + 1.0 / n) / chiSquareQuantile(1 - confidence, freedom));
}

}  // namespace jacinth
