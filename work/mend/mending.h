// Fixes entered in a study, each as one undoable change with a name that says what and where.
#pragma once

#include "store/study.h"

namespace jacinth {

/// Checks the fix and enters it; the id. Fails on a fix that makes no sense or on a state tag.
Result<FixId> enterFix(Study& study, const Fix& fix);
Status switchFix(Study& study, FixId id, bool on);
Status removeFix(Study& study, FixId id);

/// The ramp that brings the tag, as mended so far, closest to its check readings in the stretch.
Result<RampFit> fitToReadings(Study& study, const Tag& tag, TimeRange stretch,
                              std::optional<double> fixedStart);

/// “ramp on Kiln 3 Air-off RH”
std::string fixName(const Study& study, const Fix& fix);

}  // namespace jacinth
