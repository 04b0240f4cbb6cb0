// Rules from a part of the lead-up to failures: what was measured there, against stretches without failure.
#pragma once

#include "core/prove/search.h"
#include "work/prove/proving.h"

namespace jacinth {

struct LeadUpStretch {
    AssetId asset;
    Instant zero{};  ///< the moment of failure, or one that no failure followed
    bool operator==(const LeadUpStretch&) const = default;
};

/// At most so many of them (two or more), evenly from the first to the last.
std::vector<LeadUpStretch> spreadOver(std::vector<LeadUpStretch> all, std::size_t most);

/// As many stretches without failure as there are failures, on the same assets (core/prove/lead_up.h).
std::vector<LeadUpStretch> quietStretches(TimeRange record, const std::vector<LeadUpStretch>& failures,
                                          Duration before, Duration after, unsigned seed);

/// A part of the lead-up on one tag: from so long before the failure to so long before.
struct LeadUpPart {
    std::string name;       ///< a role, or the path of a tag
    Duration from{}, to{};  ///< from > to ≥ 0
    std::vector<LeadUpStretch> failures, quiet;
};

struct LeadUpRule {
    std::string measure;  ///< `slope`, `mean, against its week` …
    std::string text;     ///< with {limit}
    double limit = 0;     ///< half way between the middle of both
    std::vector<double> atFailures, elsewhere;
    double middleAtFailures = 0, middleElsewhere = 0;  ///< medians of what was measured; NaN for nothing
    Tally tally;                                       ///< with that limit
    double bestLimit = 0;  ///< that catches most with no more false alarms than asked, near it
    Tally bestTally;
};

/// Slope, mean, spread and level over the part's length, each also less what it was over the week before;
/// with the sign by which the failures differ from the rest. Those that measure nothing at two failures or
/// more are left out. `each` is told of every one as soon as it is known. Fails on a name that no failed
/// asset has, on a part without length, and when stopped.
Result<std::vector<LeadUpRule>> rulesFromPart(Study& study, const ProveRequest& terms, const LeadUpPart& part,
                                              const Progress& progress = {},
                                              const std::function<void(const LeadUpRule&)>& each = {});

}  // namespace jacinth
