// Stuck stretches of a study, over a tag, an asset or the fleet, with what else moved meanwhile.
#pragma once

#include <string>

#include "core/series/stuck.h"
#include "store/study.h"

namespace jacinth {

struct StuckQuestion {
    TimeRange range{};            ///< the record where empty
    std::vector<AssetId> assets;  ///< all where empty
    TagId tag;                    ///< this one alone; 0 for all
    StuckSearch search;
};

struct FoundStuck {
    TagId tag;
    StuckStretch stretch;
    TagId beside;            ///< the tag that is likest to it on its asset; 0 for none
    double besideMoved = 0;  ///< greatest less least of that in the same stretch; NaN where it has no samples
};

/// Continuous tags that are not calculated, as mended: what a fix hid or filled is not found again. By asset,
/// tag and time. Fails where it is stopped.
Result<std::vector<FoundStuck>> findStuck(const Study& study, const StuckQuestion& question,
                                          const Progress& progress = {});

/// “Kiln 2/RH twin reads 43.1 % for 5 h 20 min (320 samples; usual are up to 2). Air-off RH moved by 12.3 %
/// meanwhile.”
std::string stuckSentence(const Study& study, const FoundStuck& found);

}  // namespace jacinth
