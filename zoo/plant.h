// Made-up plants that share nothing with the demo plant, with the truth about what is wrong with their
// sensors: methods are judged on many of them, by tests and by bench/finders_bench.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/series/series.h"
#include "core/steps/block_levels.h"

namespace jacinth::zoo {

/// The first five were there while methods were made; those from `Compressor` on were written after the
/// methods were frozen, and nothing is changed for them.
enum class Family { Continuous, Batches, TankFarm, Pumps, RareStates, kCount };
inline constexpr std::size_t kFamilies = static_cast<std::size_t>(Family::kCount);
const char* nameOf(Family family);

/// A sensor's level moved although the process did not.
struct TrueStep {
    std::size_t tag = 0;
    Instant time{};
    double size = 0;
    double inNoise = 0;              ///< |size| in the tag's `noise`
    std::optional<Instant> returns;  ///< there and back
    bool mount = false;              ///< another tag stepped with it
};
/// Grows in a straight line from 0 to `end`, and is taken back at `range.to`.
struct TrueDrift {
    std::size_t tag = 0;
    TimeRange range;
    double end = 0;
};
struct TrueSpike {
    std::size_t tag = 0;
    Instant time{};
    double size = 0;
};
/// The sensor gave the same value.
struct TrueStuck {
    std::size_t tag = 0;
    TimeRange range;
};
/// The process itself went elsewhere, for good.
struct TrueChange {
    Instant time{};
    std::vector<std::size_t> tags;  ///< that it moved by five times their noise or more, by itself
};

struct PlantTag {
    std::string name, unit;
    Series series;
    double noise = 0;  ///< standard deviation, sample by sample, of what the other tags leave unexplained
};

/// One asset.
struct Plant {
    Family family{};
    TimeRange range;
    std::vector<PlantTag> tags;
    /// What a study would know of how the record recurs: the states of its state tag, where it has one.
    std::vector<std::vector<RecurringStretch>> scales;
    std::vector<Instant> stateChanges;
    std::vector<TrueStep> steps;
    std::vector<TrueDrift> drifts;
    std::vector<TrueSpike> spikes;
    std::vector<TrueStuck> stuck;
    std::vector<TrueChange> changes;
};

/// The same for the same seed. 30 to 60 days, 3 to 12 tags.
Plant makePlant(Family family, std::uint64_t seed);

}  // namespace jacinth::zoo
