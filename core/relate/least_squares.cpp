#include "core/relate/least_squares.h"

#include <fmt/format.h>

#include <Eigen/QR>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>

namespace jacinth {
namespace {

double bothTails(double t, double degrees) {
    if (!std::isfinite(t)) return 0;
    return 2 * boost::math::cdf(boost::math::complement(boost::math::students_t(degrees), std::abs(t)));
}

}  // namespace

Result<LeastSquares> leastSquares(std::span<const double> y, const std::vector<Regressor>& x) {
    const auto n = static_cast<Eigen::Index>(y.size()), k = static_cast<Eigen::Index>(x.size());
    if (n <= k) return Error{fmt::format("{} rows are too few for {} regressors", n, k)};
    Eigen::MatrixXd design(n, k);
    Eigen::VectorXd norms(k);
    for (Eigen::Index j = 0; j < k; ++j) {
        design.col(j) = Eigen::Map<const Eigen::VectorXd>(x[static_cast<std::size_t>(j)].values.data(), n);
        norms[j] = design.col(j).norm();
        if (norms[j] > 0) design.col(j) /= norms[j];
    }
    const Eigen::Map<const Eigen::VectorXd> target(y.data(), n);
    Eigen::ColPivHouseholderQR<Eigen::MatrixXd> qr(design);
    qr.setThreshold(1e-10);
    if (qr.rank() < k) {
        const auto last = static_cast<std::size_t>(qr.colsPermutation().indices()[k - 1]);
        return Error{fmt::format("`{}` does not vary, or is a combination of the others", x[last].name)};
    }
    const Eigen::VectorXd scaled = qr.solve(target);
    const Eigen::VectorXd left = target - design * scaled;
    const Eigen::MatrixXd upper = qr.matrixR().topLeftCorner(k, k).triangularView<Eigen::Upper>();
    const Eigen::MatrixXd inverse =
        upper.triangularView<Eigen::Upper>().solve(Eigen::MatrixXd::Identity(k, k));
    const Eigen::VectorXd pivoted = inverse.rowwise().squaredNorm();
    const Eigen::VectorXd variance = qr.colsPermutation() * pivoted;
    const double degrees = static_cast<double>(n - k);
    LeastSquares out;
    out.s = std::sqrt(left.squaredNorm() / degrees);
    const double total = (target.array() - target.mean()).matrix().squaredNorm();
    out.r2 = total > 0 ? 1 - left.squaredNorm() / total : 0;
    out.remainder.assign(left.begin(), left.end());
    for (Eigen::Index j = 0; j < k; ++j) {
        Coefficient c{x[static_cast<std::size_t>(j)].name};
        c.value = scaled[j] / norms[j];
        c.error = out.s * std::sqrt(variance[j]) / norms[j];
        c.t = c.value / c.error;
        c.probability = bothTails(c.t, degrees);
        out.coefficients.push_back(c);
    }
    return out;
}

}  // namespace jacinth
