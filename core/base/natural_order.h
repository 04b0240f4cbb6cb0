// Names in the order in which people put them.
#pragma once

#include <string_view>

namespace jacinth {

/// By text without regard to the case of A to Z, but numbers in it by size: `Line 2` before `line 10`. A
/// strict order: texts that differ are never equal.
bool naturallyBefore(std::string_view a, std::string_view b);

}  // namespace jacinth
