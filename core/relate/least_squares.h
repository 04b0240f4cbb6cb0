// Ordinary least squares, and regressors dropped one by one.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/base/result.h"

namespace jacinth {

/// A column of the right-hand side.
struct Regressor {
    std::string name;
    std::vector<double> values;
};

struct Coefficient {
    std::string name;
    double value = 0, error = 0, t = 0;
    double probability = 1;  ///< of a |t| as great where the coefficient is 0 (Student)
};

/// y = Σ coefficient · regressor + remainder. No constant is added: give one as a regressor of ones.
struct LeastSquares {
    std::vector<Coefficient> coefficients;  ///< in the order of the regressors
    std::vector<double> remainder;
    double r2 = 0;  ///< 1 − Σ remainder² / Σ (y − mean)²
    double s = 0;   ///< standard deviation of the remainder, n less the number of regressors
};

/// By Householder QR with column pivoting: exact to about the condition number times 1e-16. Fails where there
/// are not more rows than regressors, or where one is a combination of the others (it is named). No NaN.
Result<LeastSquares> leastSquares(std::span<const double> y, const std::vector<Regressor>& x);

}  // namespace jacinth
