// One role over all assets: a heat map over time, how the values spread, and which asset is unlike the
// others.
#pragma once

#include <array>
#include <functional>

#include "core/base/progress.h"
#include "core/stats/oddness.h"
#include "store/study.h"
#include "work/base/asset_groups.h"

namespace jacinth {

/// Along what an asset's profile runs: the moments of the record, the hours of the plant's day, or the hours
/// since a run began.
enum class ProfileBy { Time, Day, Run };

struct FleetSpec {
    std::string role;
    TimeRange range;
    ProfileBy profile = ProfileBy::Run;
    int cells = 240;  ///< of the heat map
    Which which = Which::Mended;
    std::vector<AssetId> assets = {};  ///< only these, compared with one another; all where empty
};

struct FleetRow {
    AssetId asset;
    TagId tag;
    std::vector<double> cells;  ///< mean weighted by time; NaN where less than half is covered
    double least = 0, low = 0, lowerQuartile = 0, middle = 0, upperQuartile = 0, high = 0,
           greatest = 0;       ///< low and high: the 5 % and 95 % quantiles
    std::int64_t samples = 0;  ///< usable, in the range
    std::int64_t quantilesOf =
        0;  ///< samples the quantiles are from: evenly picked ones where there are very many
    std::vector<double> profile;
    Oddness odd;
    int runs = 0;  ///< behind the profile, where it is by run
};

struct FleetPicture {
    FleetSpec spec;
    std::string unit;
    std::vector<Instant> edges;  ///< of the heat map's cells
    std::vector<double> hours;   ///< of the profile's slices, at their middle; of cells where it is by time
    std::vector<FleetRow> rows;  ///< from most to least odd
    /// The 5, 25, 75 and 95 % quantiles of all profiles, slice by slice; NaN where none has a value.
    std::vector<std::array<double, 4>> spread;
};
/// How many assets of each group are further than `beyond` from the others, of how many, as the groups.
std::vector<std::pair<int, int>> oddByGroup(const FleetPicture& picture, const AssetGroups& groups,
                                            double beyond);

/// Fails where no asset has a number tag of that role. By run: with no runs found yet, falls back to the day
/// and says so in `spec.profile`.
Result<FleetPicture> fleetOf(Study& study, FleetSpec spec, const Progress& progress = {});

}  // namespace jacinth
