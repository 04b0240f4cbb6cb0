// Where to begin with the settings of a rule, from what its tags have done on the study's assets.
#pragma once

#include "core/prove/starting_range.h"
#include "work/prove/proving.h"

namespace jacinth {

/// A range, and in words what it was taken from: `the 99 % of mean(@x over 6h) on 4 assets`.
struct StartingSetting : StartingRange {
    std::string from;
};
/// Of a number of which nothing else is known.
StartingSetting settingAround(const std::string& name, double value);

/// For each setting of the rule, in the order of its text. What a setting is compared with is worked out on
/// up to eight assets over the whole record, without the time that does not count, and looked at some 20 000
/// moments that lie evenly; the other settings have the numbers of the request, lengths of time without one a
/// usual one. Fails only when stopped: where nothing can be worked out the range is half to double of its
/// number.
Result<std::vector<StartingSetting>> startingRanges(Study& study, const ProveRequest& request,
                                                    const Progress& progress = {});

}  // namespace jacinth
