// The products of an example with every stretch of a series, by fast Fourier transforms.
#pragma once

#include <span>
#include <vector>

namespace jacinth {

/// Σ q[j]·x[i + j] for every i from 0 to x.size() − q.size(); nothing where q is empty or longer than x. By
/// overlapping blocks (overlap-save): time grows with x.size() · log q.size(), memory with q.size() beside
/// the result. No NaN. Relative error about 1e-15 · log of the block, of the greatest product in it.
std::vector<double> slidingProducts(std::span<const double> x, std::span<const double> q);

}  // namespace jacinth
