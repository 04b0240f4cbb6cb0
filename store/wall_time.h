// The time on the computer's clock: for ledger and imports, never for calculation.
#pragma once

#include <chrono>

#include "core/time/instant.h"

namespace jacinth {

inline Instant timeNow() {
    return std::chrono::time_point_cast<Duration>(std::chrono::system_clock::now());
}

}  // namespace jacinth
