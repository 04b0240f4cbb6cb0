// Phases inside runs: from a state tag, or from a condition each.
#pragma once

#include "core/golden/line_up.h"
#include "work/base/study_inputs.h"

namespace jacinth {

/// Phases of every run, by its id.
using PhasesOfRuns = std::map<SpanId, std::vector<RunPhase>>;

/// `text` is an expression that gives a state (`@kiln_step`): each of its states is a phase; or conditions
/// with names, `;` between them: `Heating: @air_on_temp < 60; Holding: @air_on_temp >= 60`. Of conditions
/// that hold together the earlier one counts. Phases are in order of time; the last phase of a run that goes
/// on (fact unfinished) is not finished.
Result<PhasesOfRuns> findPhases(Study& study, const std::string& text, const std::vector<Span>& runs,
                                Which which = Which::Mended);

/// The state tag that a run's condition looks at, as a text for findPhases; empty where there is none or more
/// than one.
std::string phasesSuggestedBy(const Study& study, const std::string& where);

/// The name of the track that keeps the phases of a track of runs.
std::string phaseTrackOf(const std::string& runTrack);
/// Puts them there in place of those before. Within the caller's change.
void putPhases(Study& study, const std::string& runTrack, const std::vector<Span>& runs,
               const PhasesOfRuns& phases);
/// As putPhases kept them.
PhasesOfRuns phasesOf(const Study& study, TrackId runTrack);

}  // namespace jacinth
