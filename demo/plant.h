// Corvane Maltings, made up from end to end: six kilns, what happens to them, and the truth about it.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "core/time/instant.h"
#include "demo/random.h"

namespace jacinth::demo {

inline constexpr int kKilns = 6;
inline constexpr Duration kTick = 30 * kSecond;  ///< step of the physics

struct PlantSpec {
    int days = 61;  ///< from 1 March 2026, Europe/Oslo
    std::uint64_t seed = 1;
    TimeRange record() const;
};

enum class Step : std::uint8_t { Idle, Load, FreeDry, ForcedDry, Cure, Cool, Strip };
inline constexpr std::array<const char*, 7> kStepNames{"Idle", "Load", "Free-dry", "Forced-dry",
                                                       "Cure", "Cool", "Strip"};
enum class Burner : std::uint8_t { Off, Auto, Manual };
inline constexpr std::array<const char*, 3> kBurnerNames{"Off", "Auto", "Manual"};

/// Why a run left the path. Severity 1 slight, 2 middling, 3 serious.
enum class OffPathKind { Channelling, HotCure, UnderFanned };
struct OffPath {
    OffPathKind kind;
    int severity;
    TimeRange when;  ///< filled in as the run happens
};

struct RunPlan {
    std::string product;
    double load = 42;         ///< t
    double idleHours = 12;    ///< before the run
    double dryingFactor = 1;  ///< slower above 1
    double temperatureOffset = 0;
    bool washDownBefore = false;
    bool damperOpen = false;    ///< current low without fault
    bool manualBurner = false;  ///< for some hours
    int flameLosses = 0;
    bool flameLossStop = false;
    std::optional<double> failsAtHour;  ///< the fan's bearing fails so long into the run
    std::optional<OffPath> offPath;
};

struct RunRecord {
    int number = 0;
    TimeRange range;
    RunPlan plan;
    double finalMoisture = 0, colour = 0;
    std::optional<OffPath> offPath;
};

/// A bearing on its way to failure.
struct Wear {
    Instant failure{};
    double days = 3;     ///< how long it climbs
    double power = 2.2;  ///< how late it climbs
    double rise = 3.2;   ///< mm/s at the end
    std::string style;
};

struct Stop {
    TimeRange range;
    std::string reason;
};

struct FlameLoss {
    TimeRange range;
    bool stopped = false;
};

/// What happened to one kiln: its own time line, by tick.
struct KilnHistory {
    int kiln = 1;
    std::vector<RunRecord> runs;
    std::vector<Wear> wears;
    std::vector<Stop> stops;
    std::vector<FlameLoss> flameLosses;
    std::vector<Instant> washDowns, beltChanges;
    std::vector<TimeRange> fanRunsOn;  ///< while commanded off
    // One value a tick.
    std::vector<float> airOn, airOff, humidity, flow, gas, damper, moisture, load, pressure, belt;
    std::vector<Step> step;
    std::vector<Burner> burner;
};

/// A sensor's own faults.
struct Drift {
    std::string tag;
    TimeRange range;
    double endError = 0;  ///< starts at 0, grows in a straight line; recalibrated at range.to
};
struct FalseStep {
    std::string tag;
    Instant time{};
    double size = 0;
    std::optional<Instant> returns;
    std::string cause;
};
struct Spike {
    std::string tag;
    Instant time{};
    double size = 0;
};
struct TagStretch {
    std::string tag;
    TimeRange range;
};
struct TrueValue {
    std::string tag;
    Instant time{};
    double value = 0;
};
struct ProcessChange {
    std::string asset;
    Instant time{};
    std::string what;
};

/// Everything that really happened: what truth.json says. The application never reads it.
struct Truth {
    PlantSpec spec;
    std::vector<KilnHistory> kilns;
    std::vector<Drift> drifts;
    std::vector<FalseStep> steps;
    std::vector<Spike> spikes;
    std::vector<TagStretch> stuck, bad, gaps;
    std::vector<TrueValue> trueValues;  ///< true humidity each hour, inside drifts and around false steps
    std::vector<ProcessChange> changes;
    TagStretch clockError;
    int oddKiln = 4;
    int beltKiln = 2;
};

std::string kilnName(int kiln);  ///< `Kiln 3`

/// Outside temperature (°C) and relative humidity (%), with day and season.
double outsideTemperature(Instant t);
double outsideHumidity(Instant t);

/// Who runs when, what fails, what goes off the path: drawn from the seed.
std::vector<std::vector<RunPlan>> planRuns(const PlantSpec& spec);

/// The physics of one kiln over the record.
KilnHistory simulateKiln(const PlantSpec& spec, int kiln, const std::vector<RunPlan>& plans);

/// Extra vibration from wear, in mm/s; 0 without.
double wearAt(const std::vector<Wear>& wears, Instant t);

}  // namespace jacinth::demo
