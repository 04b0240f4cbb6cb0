// Probabilities and quantiles of the distributions that tests and limits here use.
#pragma once

namespace jacinth {

/// Regularised incomplete beta function I_x(a, b), a and b above 0, x in [0, 1]; by Lentz's continued
/// fraction (Abramowitz & Stegun 26.5.8). NaN for other arguments.
double incompleteBeta(double a, double b, double x);

/// P(F > f) with d1 and d2 degrees of freedom; 1 for f ≤ 0. NaN where a degree is not above 0 or f is no
/// number.
double fSurvival(double f, double d1, double d2);

/// The normal deviate z with P(Z ≤ z) = p (Wichura 1988, algorithm AS 241, 16 digits). ∓∞ at 0 and 1, NaN
/// outside.
double normalQuantile(double p);

/// P(X ≤ x) of chi-square with `degrees` above 0: the regularised lower incomplete gamma function, by series
/// or continued fraction (Abramowitz & Stegun 6.5.29, 6.5.31). NaN where a degree is not above 0.
double chiSquareCdf(double x, double degrees);

/// The x with chiSquareCdf(x, degrees) = p, p in (0, 1); NaN for other arguments.
double chiSquareQuantile(double p, double degrees);

/// How many standard deviations around the mean of n values hold the share `coverage` of a normal population
/// with the given confidence, on both sides: Howe (1969), z·√((n − 1)(1 + 1/n)/χ²), where z is the normal
/// deviate of (1 + coverage)/2 and χ² the (1 − confidence) quantile with n − 1 degrees. NaN for n below 2 or
/// shares outside (0, 1). Within 0.1 % of the exact factor from n = 10, 0.5 % at n = 5 for 95/95.
double toleranceFactor(int n, double coverage, double confidence);

}  // namespace jacinth
