// Units of measure as plants write them: are two the same, and how does one become the other.
#pragma once

#include <optional>
#include <string>

namespace jacinth {

/// value · factor + offset.
struct UnitConversion {
    double factor = 1, offset = 0;
    double operator()(double value) const { return value * factor + offset; }
    bool operator==(const UnitConversion&) const = default;
};

/// Do both mean one unit? Blanks and usual spellings do not matter: `degC` is `°C`, `m3/h` is `m³/h`. Letters
/// do: mbar is not Mbar. A unit that is not known here is the same as itself.
bool isSameUnit(const std::string& a, const std::string& b);

/// What turns values in `from` into values in `to`; none where either is not known here or they measure
/// different things. Factors: SI Brochure (9th edition, 2019) and NIST SP 811 (2008). Gauge and absolute
/// pressure are different things.
std::optional<UnitConversion> unitConversion(const std::string& from, const std::string& to);

}  // namespace jacinth
