// Fixes and labels entered in a study, each as one undoable change with a name that says what and where.
#pragma once

#include "store/study.h"

namespace jacinth {

/// Checks the fix and enters it; the id. Fails on a fix that makes no sense or on a state tag.
Result<std::int64_t> enterFix(Study& study, const Fix& fix);
Status switchFix(Study& study, std::int64_t id, bool on);
Status takeFixAway(Study& study, std::int64_t id);

/// The ramp that brings the tag, as mended so far, closest to its check readings in the stretch.
Result<RampFit> fitToReadings(Study& study, const Tag& tag, TimeRange stretch,
                              std::optional<double> fixedStart);

/// “ramp on Kiln 3 Air-off RH”
std::string fixName(const Study& study, const Fix& fix);

/// Adds a kind to the label book. Fails on a name or a key that another kind has, and on a colour that is not
/// like #8A4FA3.
Status addLabelKind(Study& study, const LabelKind& kind);

/// A mark of a kind of the label book, on the track “Labels”; the id.
Result<std::int64_t> addLabelled(Study& study, const Span& span, const std::string& kind,
                                 const std::string& note);
Status changeLabel(Study& study, const Span& span, const std::string& name);
Status removeLabel(Study& study, std::int64_t id);

}  // namespace jacinth
