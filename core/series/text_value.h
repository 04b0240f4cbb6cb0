// A sample whose logger wrote a text where a number belongs (`No Data`): it has no value, and the text is
// kept.
#pragma once

#include <bit>
#include <cmath>
#include <cstdint>
#include <optional>

namespace jacinth {

/// A NaN that carries the code of a text in its payload; like every NaN it counts in no calculation. The
/// texts of a tag stand in its list of states. Codes go up to 2^32 − 1.
inline double valueOfText(std::uint32_t code) {
    return std::bit_cast<double>(0x7FF8'4A00'0000'0000ULL | code);
}

/// The code, or none for a number and for a NaN that stands for nothing.
inline std::optional<std::uint32_t> textOfValue(double value) {
    const auto bits = std::bit_cast<std::uint64_t>(value);
    if ((bits & 0x7FFF'FF00'0000'0000ULL) != 0x7FF8'4A00'0000'0000ULL) return {};
    return static_cast<std::uint32_t>(bits);
}

}  // namespace jacinth
