// Facts that must be whole numbers, as they were read from a file: anything may stand there.
#pragma once

#include <cmath>

#include "core/span/span.h"

namespace jacinth {

/// The named fact where it is a number from `least` to `most`, rounded; else `otherwise`.
inline std::int64_t wholeFact(const Facts& facts, const std::string& name, std::int64_t least,
                              std::int64_t most, std::int64_t otherwise) {
    const double v = factNumber(facts, name, std::nan(""));
    if (!(v >= static_cast<double>(least) && v <= static_cast<double>(most))) return otherwise;
    return std::llround(v);
}

inline constexpr std::int64_t kMostIds = std::int64_t{1} << 53;  ///< a number holds them exactly up to here

/// The run that a span belongs to, by its fact `run`; none where it says none.
inline SpanId runOfSpan(const Facts& facts) {
    return SpanId(wholeFact(facts, "run", 0, kMostIds, 0));
}
inline void setRunOfSpan(Facts& facts, SpanId run) {
    facts["run"] = static_cast<double>(run.number);
}

}  // namespace jacinth
