// What is done about a cause: its step taken out, new limits from then on, its excursions set apart.
#pragma once

#include "work/causes/find_causes.h"

namespace jacinth {

/// The shifts that take a false step out, not entered yet; none for other causes, and for a step that is not
/// the same all through the run.
std::vector<Fix> fixesOf(const Study& study, const Cause& cause, const std::string& why);

/// Limits for the runs of the cause's asset from its start on, made like the newest limits of `name` (or of
/// the track where empty): from the runs since then whose excursions all have this cause, not kept yet. Fails
/// where they are fewer than the limits ask for.
Result<LimitSet> limitsFromCauseOn(Study& study, const FoundCauses& found, const Cause& cause, TrackId track,
                                   const std::string& name);

/// Dismisses the excursions on record that the cause explains, as one undoable step; how many. Fails without
/// a reason, and where none of them is on record.
Result<std::size_t> setApart(Study& study, const FoundCauses& found, const Cause& cause,
                             const std::string& reason);

/// “Step of Kiln 4 Bed ΔP”, “Process change of Kiln 1”
std::string causeTitle(const Study& study, const Cause& cause);

}  // namespace jacinth
