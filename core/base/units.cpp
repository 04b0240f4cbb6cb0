#include "core/base/units.h"

#include <algorithm>
#include <array>
#include <map>
#include <string_view>
#include <vector>

#include "core/base/text.h"

namespace jacinth {
namespace {

enum class Quantity {
    Temperature,
    Pressure,
    GaugePressure,
    Length,
    Mass,
    Time,
    Power,
    Energy,
    Speed,
    VolumeFlow,
    MassFlow,
    Volume,
    Ratio,
    Current,
    Voltage,
    Frequency,
    Force
};

/// A unit: its spellings, and what turns a value in it into the quantity's first unit.
struct KnownUnit {
    Quantity quantity;
    double factor, offset;
    std::vector<const char*> spellings;
};

const std::vector<KnownUnit>& units() {
    static const std::vector<KnownUnit> all{
        {Quantity::Temperature, 1, 0, {"°C", "degC", "deg C", "C", "℃"}},
        {Quantity::Temperature, 5.0 / 9, -160.0 / 9, {"°F", "degF", "deg F", "F", "℉"}},
        {Quantity::Temperature, 1, -273.15, {"K"}},
        {Quantity::Pressure, 1, 0, {"Pa"}},
        {Quantity::Pressure, 100, 0, {"hPa", "mbar"}},
        {Quantity::Pressure, 1e3, 0, {"kPa"}},
        {Quantity::Pressure, 1e6, 0, {"MPa"}},
        {Quantity::Pressure, 1e5, 0, {"bar"}},
        {Quantity::Pressure, 6894.757293168361, 0, {"psi"}},
        {Quantity::Pressure, 133.322387415, 0, {"mmHg"}},
        {Quantity::Pressure, 249.08891, 0, {"inH2O", "inH₂O"}},
        {Quantity::Pressure, 9.80665, 0, {"mmH2O", "mmH₂O"}},
        {Quantity::GaugePressure, 1e5, 0, {"barg", "bar(g)"}},
        {Quantity::GaugePressure, 6894.757293168361, 0, {"psig", "psi(g)"}},
        {Quantity::GaugePressure, 1e3, 0, {"kPag", "kPa(g)"}},
        {Quantity::Length, 1, 0, {"m"}},
        {Quantity::Length, 1e-2, 0, {"cm"}},
        {Quantity::Length, 1e-3, 0, {"mm"}},
        {Quantity::Length, 1e-6, 0, {"µm", "μm", "um"}},
        {Quantity::Length, 0.0254, 0, {"in", "inch"}},
        {Quantity::Length, 0.3048, 0, {"ft"}},
        {Quantity::Mass, 1, 0, {"kg"}},
        {Quantity::Mass, 1e-3, 0, {"g"}},
        {Quantity::Mass, 1e3, 0, {"t"}},
        {Quantity::Mass, 0.45359237, 0, {"lb"}},
        {Quantity::Time, 1, 0, {"s"}},
        {Quantity::Time, 1e-3, 0, {"ms"}},
        {Quantity::Time, 60, 0, {"min"}},
        {Quantity::Time, 3600, 0, {"h"}},
        {Quantity::Power, 1, 0, {"W"}},
        {Quantity::Power, 1e3, 0, {"kW"}},
        {Quantity::Power, 1e6, 0, {"MW"}},
        {Quantity::Energy, 1, 0, {"J"}},
        {Quantity::Energy, 1e3, 0, {"kJ"}},
        {Quantity::Energy, 1e6, 0, {"MJ"}},
        {Quantity::Energy, 3.6e6, 0, {"kWh"}},
        {Quantity::Energy, 3.6e9, 0, {"MWh"}},
        {Quantity::Speed, 1, 0, {"m/s"}},
        {Quantity::Speed, 1e-3, 0, {"mm/s"}},
        {Quantity::Speed, 1 / 3.6, 0, {"km/h"}},
        {Quantity::Speed, 0.0254, 0, {"in/s"}},
        {Quantity::VolumeFlow, 1, 0, {"m³/h", "m3/h"}},
        {Quantity::VolumeFlow, 3600, 0, {"m³/s", "m3/s"}},
        {Quantity::VolumeFlow, 3.6, 0, {"l/s", "L/s"}},
        {Quantity::VolumeFlow, 0.06, 0, {"l/min", "L/min"}},
        {Quantity::VolumeFlow, 1e-3, 0, {"l/h", "L/h"}},
        {Quantity::MassFlow, 1, 0, {"kg/h"}},
        {Quantity::MassFlow, 3600, 0, {"kg/s"}},
        {Quantity::MassFlow, 1e3, 0, {"t/h"}},
        {Quantity::Volume, 1, 0, {"m³", "m3"}},
        {Quantity::Volume, 1e-3, 0, {"l", "L"}},
        {Quantity::Volume, 1e-6, 0, {"ml", "mL"}},
        {Quantity::Ratio, 1, 0, {"%", "pct"}},
        {Quantity::Ratio, 0.1, 0, {"‰"}},
        {Quantity::Ratio, 1e-4, 0, {"ppm"}},
        {Quantity::Current, 1, 0, {"A"}},
        {Quantity::Current, 1e-3, 0, {"mA"}},
        {Quantity::Voltage, 1, 0, {"V"}},
        {Quantity::Voltage, 1e-3, 0, {"mV"}},
        {Quantity::Voltage, 1e3, 0, {"kV"}},
        {Quantity::Frequency, 1, 0, {"Hz"}},
        {Quantity::Frequency, 1e3, 0, {"kHz"}},
        {Quantity::Frequency, 1.0 / 60, 0, {"rpm", "1/min"}},
        {Quantity::Force, 1, 0, {"N"}},
        {Quantity::Force, 1e3, 0, {"kN"}},
    };
    return all;
}

const KnownUnit* unitCalled(const std::string& name) {
    static const std::map<std::string, const KnownUnit*, std::less<>> bySpelling = [] {
        std::map<std::string, const KnownUnit*, std::less<>> out;
        for (const KnownUnit& u : units())
            for (const char* spelling : u.spellings) out[spelling] = &u;
        return out;
    }();
    const auto found = bySpelling.find(trimmed(name));
    return found == bySpelling.end() ? nullptr : found->second;
}

}  // namespace

bool isSameUnit(const std::string& a, const std::string& b) {
    if (trimmed(a) == trimmed(b)) return true;
    const KnownUnit *one = unitCalled(a), *other = unitCalled(b);
    return one && one == other;
}

std::optional<UnitConversion> unitConversion(const std::string& from, const std::string& to) {
    const KnownUnit *a = unitCalled(from), *b = unitCalled(to);
    if (!a || !b || a->quantity != b->quantity) return {};
    if (a == b) return UnitConversion{};
    return UnitConversion{a->factor / b->factor, (a->offset - b->offset) / b->factor};
}

}  // namespace jacinth
