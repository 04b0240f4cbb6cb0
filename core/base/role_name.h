// What the tag of an asset is called in expressions.
#pragma once

#include <string>
#include <string_view>

namespace jacinth {

/// `Air-off temp` → `air_off_temp`, `Bed ΔP` → `bed_dp`, `Bearing vib.` → `bearing_vib`: letters and digits
/// in lower case and plain ASCII (letters with marks without them, Greek ones by their Latin initial), one
/// `_` for all else between them. Letters of other alphabets stay. Never empty, and never a digit first.
std::string roleFromName(std::string_view name);

}  // namespace jacinth
