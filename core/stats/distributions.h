// Tail probabilities of the distributions that tests here use.
#pragma once

namespace jacinth {

/// Regularised incomplete beta function I_x(a, b), a and b above 0, x in [0, 1]; by Lentz's continued
/// fraction (Abramowitz & Stegun 26.5.8). NaN for other arguments.
double incompleteBeta(double a, double b, double x);

/// P(F > f) with d1 and d2 degrees of freedom; 1 for f ≤ 0. NaN where a degree is not above 0 or f is no
/// number.
double fSurvival(double f, double d1, double d2);

}  // namespace jacinth
