// Random numbers of the zoo, the same on every machine for the same seed.
#pragma once

#include <cmath>
#include <numbers>

#include "core/base/random_share.h"

namespace jacinth::zoo {

class Random {
  public:
    explicit Random(std::uint64_t seed) : engine_(seed) {}

    double share() { return randomShare(engine_); }
    double between(double low, double high) { return low + (high - low) * share(); }
    /// Evenly in the logarithm.
    double scaleBetween(double low, double high) { return low * std::pow(high / low, share()); }
    int whole(int low, int high) { return low + static_cast<int>(share() * (high - low + 1)); }
    std::size_t below(std::size_t n) { return static_cast<std::size_t>(share() * static_cast<double>(n)); }
    bool chance(double p) { return share() < p; }
    double sign() { return chance(0.5) ? 1 : -1; }
    double normal() {
        return std::sqrt(-2 * std::log(1 - share())) * std::cos(2 * std::numbers::pi * share());
    }

  private:
    std::mt19937_64 engine_;
};

}  // namespace jacinth::zoo
