// Suspected false steps of a study, over one asset, some or the fleet: tags of an asset are judged together.
#pragma once

#include "core/base/progress.h"
#include "core/steps/suspected_steps.h"
#include "store/study.h"

namespace jacinth {

struct StepSearch {
    TimeRange range{};            ///< the record where empty
    std::vector<AssetId> assets;  ///< all where empty
};

struct FoundSteps {
    std::vector<SuspectedStep> steps;  ///< by asset, then time
    std::int64_t samples = 0;          ///< looked at
};

/// Reads the tags as mended, so that what a fix took out is not found again. Fails where it is stopped.
Result<FoundSteps> findSteps(Study& study, const StepSearch& search, const Progress& progress = {});

}  // namespace jacinth
