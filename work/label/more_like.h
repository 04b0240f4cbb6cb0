// More of the same shape: stretches of one asset or the fleet that look like a marked example.
#pragma once

#include "core/shape/shape_search.h"
#include "store/study.h"

namespace jacinth {

struct MoreLike {
    AssetId asset;                   ///< of the example
    std::vector<std::string> roles;  ///< one at least; of numbers
    TimeRange example;
    std::vector<AssetId> assets;  ///< to be searched; all that have the roles where empty
    TimeRange range{};            ///< to be searched; the record where empty
    Duration every{};             ///< step; the median spacing of the example's tags where 0
    ShapeSpec search;
    Which which = Which::Mended;
};

struct AlikeStretch {
    AssetId asset;
    TimeRange range;
    double distance = 0;
};

/// Nearest first over all assets, without the example itself and what overlaps it by half. Values are those
/// at the moments of the step (core/series/value_at.h); the noise of a tag is that of the record of its
/// asset. Fails on a role that the example's asset lacks or that holds states, on an example outside the
/// record, and where findShape fails.
Result<std::vector<AlikeStretch>> moreLike(Study& study, const MoreLike& question,
                                           const Progress& progress = {});

/// The values of a stretch at that many equal steps, by role of the question; none for a role that the asset
/// lacks.
std::vector<std::vector<double>> valuesOf(const Study& study, const MoreLike& question, AssetId asset,
                                          TimeRange range, int points);

}  // namespace jacinth
