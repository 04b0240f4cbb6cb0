// A search that learns from what was judged: hits that resemble a rejected one step back.
#pragma once

#include <vector>

namespace jacinth {

/// A stretch for comparison: the values of its tags one after the other, each resampled to as many points,
/// brought to mean 0 and standard deviation 1 (with `level` only divided by `scale`, the example's standard
/// deviation in that tag). Missing values are bridged by lines; a tag without any, or a flat one, is 0.
std::vector<double> comparable(const std::vector<std::vector<double>>& tags, std::size_t points, bool level,
                               const std::vector<double>& scale);

/// The root of the mean of the squares of the differences; both equally long.
double shapeDistance(const std::vector<double>& a, const std::vector<double>& b);

enum class HitVerdict { Open, Accepted, Rejected };

/// A score by hit, the smaller the better. Where `near` is the distance to the example or to the nearest
/// accepted hit, whichever is less, and `far` that to the nearest rejected one: near, and where the hit is
/// nearer to a rejected one than to any of the former, near · near / far. A hit is not compared with itself.
/// Without verdicts the score is the distance to the example.
std::vector<double> scoresAfter(const std::vector<double>& example,
                                const std::vector<std::vector<double>>& hits,
                                const std::vector<HitVerdict>& verdicts);

}  // namespace jacinth
