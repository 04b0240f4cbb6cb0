#include "core/shape/sliding_products.h"

#include <algorithm>
#include <bit>
#include <complex>
#include <unsupported/Eigen/FFT>

namespace jacinth {
namespace {

constexpr std::size_t kLeastBlock = 1024;
constexpr std::size_t kDirect = 32;  // shorter examples are multiplied as they are

void multiplyDirectly(std::span<const double> x, std::span<const double> q, std::vector<double>& out) {
    for (std::size_t i = 0; i < out.size(); ++i)
        for (std::size_t j = 0; j < q.size(); ++j) out[i] += q[j] * x[i + j];
}

}  // namespace

std::vector<double> slidingProducts(std::span<const double> x, std::span<const double> q) {
    if (q.empty() || q.size() > x.size()) return {};
    std::vector<double> out(x.size() - q.size() + 1, 0.0);
    if (q.size() <= kDirect) {
        multiplyDirectly(x, q, out);
        return out;
    }
    // Blocks of four examples or more: three quarters of each are results.
    const std::size_t block = std::max(kLeastBlock, std::bit_ceil(4 * q.size()));
    const std::size_t step = block - q.size() + 1;
    Eigen::FFT<double> fft;
    fft.SetFlag(Eigen::FFT<double>::HalfSpectrum);
    std::vector<double> padded(block, 0.0), part(block), back;
    std::copy(q.rbegin(), q.rend(), padded.begin());
    std::vector<std::complex<double>> ofExample, ofPart;
    fft.fwd(ofExample, padded);
    for (std::size_t at = 0; at < out.size(); at += step) {
        const std::size_t there = std::min(block, x.size() - at);
        std::copy_n(x.begin() + static_cast<std::ptrdiff_t>(at), there, part.begin());
        std::fill(part.begin() + static_cast<std::ptrdiff_t>(there), part.end(), 0.0);
        fft.fwd(ofPart, part);
        for (std::size_t k = 0; k < ofPart.size(); ++k) ofPart[k] *= ofExample[k];
        fft.inv(back, ofPart, static_cast<Eigen::Index>(block));
        const std::size_t n = std::min(step, out.size() - at);
        std::copy_n(back.begin() + static_cast<std::ptrdiff_t>(q.size() - 1), n,
                    out.begin() + static_cast<std::ptrdiff_t>(at));
    }
    return out;
}

}  // namespace jacinth
