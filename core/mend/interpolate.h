// Curves through points: what a gap is bridged with.
#pragma once

#include <span>
#include <vector>

namespace jacinth {

/// Piecewise cubic through points with rising `x`. Two points: the line. Between points only.
class PiecewiseCubic {
  public:
    /// Monotone where the points are (Fritsch & Carlson 1980), with the slopes of Fritsch & Butland (1984):
    /// the weighted harmonic mean of the neighbouring secants, 0 at a turn; three-point formula at the ends,
    /// limited so that the shape stays. Depends on two points to either side.
    static PiecewiseCubic monotone(std::span<const double> x, std::span<const double> y);
    /// Natural spline: smooth to the second derivative, which is 0 at both ends.
    static PiecewiseCubic natural(std::span<const double> x, std::span<const double> y);
    double at(double x) const;

  private:
    std::vector<double> x_, y_, slope_;
};

}  // namespace jacinth
