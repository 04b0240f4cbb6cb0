// Several stretches, a straight line through each: is it one slope that they share?
#pragma once

#include <optional>
#include <span>
#include <vector>

namespace jacinth {

struct Stretch {
    std::vector<double> x, y;  ///< of equal length; no NaN
};

struct StretchLine {
    double intercept = 0, slope = 0;
    double slopeError = 0;  ///< standard error; NaN with two points
    std::size_t n = 0;
};

/// Analysis of covariance: a line with its own intercept and slope through each stretch, against lines of one
/// slope with an intercept each. F = ((SSE common − SSE own)/(k − 1)) / (SSE own/(N − 2k)).
struct CommonSlope {
    std::vector<StretchLine>
        own;  ///< one a stretch; n = 0 where a stretch has fewer than two points or no spread
    double slope = 0, slopeError = 0;    ///< of the common slope
    double slopeLow = 0, slopeHigh = 0;  ///< 95 %, by Student's t with N − k − 1 degrees
    double f = 0, p = 1;          ///< of the test that all slopes are equal; NaN with fewer than two lines
    double fNone = 0, pNone = 1;  ///< of the test that the common slope is 0
};

/// None where no stretch has a line.
std::optional<CommonSlope> commonSlope(std::span<const Stretch> stretches);

}  // namespace jacinth
