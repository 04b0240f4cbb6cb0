// The number that stands for a value that is not there.
#pragma once

#include <limits>

namespace jacinth {

/// Calculations pass it on; test for it with std::isnan.
inline constexpr double kMissing = std::numeric_limits<double>::quiet_NaN();

}  // namespace jacinth
