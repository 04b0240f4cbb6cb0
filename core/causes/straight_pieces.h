// A series cut into straight pieces.
#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace jacinth {

/// Points first to last − 1 of a series.
struct StraightPiece {
    std::size_t first = 0, last = 0;
};

/// The cut into pieces of at least three points, each with a line of its own, that makes the squares left
/// beside the lines plus `penalty`·log n·s² per piece least, where s is the noise of the series from its
/// second differences. Points further than four deviations from the median of their five neighbours count
/// as if they were there. O(n²); `x` rises strictly and neither holds NaN. One piece where n is below ten.
std::vector<StraightPiece> straightPieces(std::span<const double> x, std::span<const double> y,
                                          double penalty = 6);

}  // namespace jacinth
