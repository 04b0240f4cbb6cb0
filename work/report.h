// What a study holds, for reading away from it: HTML with its own drawings, and plain text of a proof.
#pragma once

#include "store/study.h"

namespace jacinth {

/// One page: record, runs, limits with the worst run drawn against them, excursions, fixes, labels, rules as
/// proved now.
std::string reportHtml(Study& study);

/// A proof as a few lines of text.
std::string proofText(const Study& study, const Proof& proof);

}  // namespace jacinth
