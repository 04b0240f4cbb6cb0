// Times of tests, written as time since 1970: at(90 * kSecond), between(0, kHour).
#pragma once

#include <vector>

#include "core/time/instant.h"

namespace jacinth {

constexpr Instant at(Duration sinceEpoch) {
    return Instant(sinceEpoch);
}
constexpr Instant at(std::int64_t nanoseconds) {
    return fromEpochNanoseconds(nanoseconds);
}

template <typename From, typename To>
constexpr TimeRange between(From from, To to) {
    return {at(from), at(to)};
}

template <typename... Times>
std::vector<Instant> instants(Times... times) {
    return {at(times)...};
}

}  // namespace jacinth
