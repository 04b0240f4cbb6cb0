// Peaks of a tag: kept as spans of the study, or proposed for mending.
#pragma once

#include "core/series/peaks.h"
#include "work/survey/kept_spans.h"

namespace jacinth {

/// One span a peak, from flank to flank, with the facts height, prominence and shape (narrow or broad), on a
/// track of that name; what was on it is replaced. One undoable step.
TrackId keepPeaks(Study& study, const std::string& track, const Tag& tag, const std::vector<Peak>& peaks,
                  Duration narrow);

/// Puts the narrow ones on the track `Spikes to mend` as proposals: a span each, with the fact proposal =
/// hide. What was proposed for this tag before is replaced. How many.
std::size_t proposeHiding(Study& study, const Tag& tag, const std::vector<Peak>& peaks, Duration narrow);

}  // namespace jacinth
