// The time on the computer's clock: for ledger and imports, never for calculation.
#pragma once

#include <chrono>

#include "core/time/instant.h"

namespace jacinth {

inline Instant timeNow() {
    return std::chrono::duration_cast<std::chrono::nanoseconds>(
               std::chrono::system_clock::now().time_since_epoch())
        .count();
}

}  // namespace jacinth
