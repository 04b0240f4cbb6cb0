// A small random source that gives the same numbers on every machine (the standard distributions need not).
#pragma once

#include <cmath>
#include <cstdint>
#include <numbers>

namespace jacinth::demo {

/// SplitMix64 (Steele, Lea & Flood 2014) with the usual ways to draw from it.
class Random {
  public:
    explicit Random(std::uint64_t seed) : state_(seed) {}
    /// A source of its own for a part of the plant, so that one part's draws do not shift another's.
    Random branch(std::uint64_t part) const {
        return Random(mix(state_ ^ mix(part + 0x9E3779B97F4A7C15ULL)));
    }

    std::uint64_t bits() { return mix(state_ += 0x9E3779B97F4A7C15ULL); }
    double uniform() { return static_cast<double>(bits() >> 11) * 0x1.0p-53; }
    double uniform(double low, double high) { return low + (high - low) * uniform(); }
    int whole(int low, int high) {
        return low + static_cast<int>(bits() % static_cast<std::uint64_t>(high - low + 1));
    }
    bool chance(double p) { return uniform() < p; }
    double normal(double mean = 0, double sd = 1) {
        if (spare_) {
            spare_ = false;
            return mean + sd * kept_;
        }
        const double radius = std::sqrt(-2 * std::log(1 - uniform())),
                     angle = 2 * std::numbers::pi * uniform();
        kept_ = radius * std::sin(angle);
        spare_ = true;
        return mean + sd * radius * std::cos(angle);
    }

  private:
    static std::uint64_t mix(std::uint64_t z) {
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ULL;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EBULL;
        return z ^ (z >> 31);
    }
    std::uint64_t state_;
    double kept_ = 0;
    bool spare_ = false;
};

}  // namespace jacinth::demo
