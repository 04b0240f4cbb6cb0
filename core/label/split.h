// Examples split into training, validation and test data, so that nothing of one is in another.
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "core/base/id.h"
#include "core/base/result.h"
#include "core/time/instant.h"

namespace jacinth {

enum class Part : std::uint8_t { Train, Validation, Test };
inline constexpr std::array<const char*, 3> kPartNames{"train", "validation", "test"};

/// One example: what it is of, which stretch of which asset is cut out for it, and the groups (runs, say)
/// that it touches, by number.
struct Example {
    std::string kind;
    AssetId asset;
    TimeRange cut;
    std::vector<std::int64_t> groups;
};

/// Percentages as people write them, `70,15,15`: two or three numbers from 0 up that come to 100.
Result<std::array<double, 3>> readShares(const std::string& text);

/// Examples that share a group, or whose stretches of one asset overlap, stay together, and so does what
/// hangs together through others. What stays together is handed out whole, the largest first and equals in a
/// seeded order, each to the part that is furthest from its share of the examples' kinds: the sum over kinds
/// of (count − share · total)² / total becomes least. A part of share 0 stays empty.
std::vector<Part> splitApart(const std::vector<Example>& examples, const std::array<double, 3>& shares,
                             std::uint64_t seed);

/// Which to keep so that in each part every kind that is there has as many as the rarest: chosen by seed.
std::vector<bool> balanced(const std::vector<Example>& examples, const std::vector<Part>& parts,
                           std::uint64_t seed);

}  // namespace jacinth
