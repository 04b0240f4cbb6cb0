// A random share, the same on every machine for the same seed.
#pragma once

#include <random>

namespace jacinth {

/// From 0 to below 1. std::uniform_real_distribution differs from library to library; this does not.
inline double randomShare(std::mt19937_64& random) {
    return static_cast<double>(random() >> 11) * 0x1p-53;
}

}  // namespace jacinth
