// Causes that lie in a sensor: suspected false steps, drift; and the changes of the process that the search
// for steps finds with them.
#pragma once

#include "core/causes/cause.h"
#include "store/study.h"
#include "work/mend/step_search.h"

namespace jacinth {

/// A moment from which an asset runs differently: tags that changed together.
struct ProcessChange {
    AssetId asset;
    Instant time{};
    std::optional<Instant> returns;
    std::vector<TagId> tags;
};

/// Each suspected step of a sensor as a cause; tags that share a mount are one. Those judged to be left as
/// they are, or to be the process, are not among them.
std::vector<Cause> stepCauses(const Study& study, const std::vector<SuspectedStep>& steps);

/// Steps at which companions moved, and those judged to be the process, one for each asset and moment.
std::vector<ProcessChange> processChanges(const Study& study, const std::vector<SuspectedStep>& steps);

/// Where one tag cannot be trusted beside what reads the same, as causes of the kind Drift.
///
/// By its check readings where it has them: the line through value − reading in each stretch of two readings
/// or more between the moments at which a drift was taken back (StepKind::DriftEnd); a drift where its slope
/// is more than 2.576 of its errors (p < 0.01), from what the readings scatter beside the lines of all
/// stretches.
///
/// By a twin on its asset, a tag of the same unit that differs from this one by less than a fifth of what
/// this one varies. Slowly: the medians of their difference in each run of `runs`, rising or falling by ranks
/// with p < 0.01, where the tag has no readings and nothing says that it is the twin that drifts. At once:
/// stretches of half an hour or more in which they are further apart than eight times their usual scatter
/// and a tenth of what the tag varies: one of them is stuck, or an hour off; one cause for each day.
std::vector<Cause> sensorDoubts(Study& study, const Tag& tag, const std::vector<SuspectedStep>& steps,
                                const std::vector<Cause>& stepCauses, const std::vector<Span>& runs,
                                Which which);

}  // namespace jacinth
