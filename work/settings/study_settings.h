// Settings of a study that change what everything reads: entered in the ledger.
#pragma once

#include "store/study.h"

namespace jacinth {

/// The plant's zone, for wall-clock times in files and on screen. Samples stay at their instants.
Status setZone(Study& study, const std::string& zone);

/// Whether samples of uncertain quality count as missing in every expression.
void setSoundDataOnly(Study& study, bool on);

}  // namespace jacinth
