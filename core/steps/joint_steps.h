// False steps found in what companions leave unexplained.
#pragma once

#include "core/steps/companions.h"
#include "core/steps/remainders.h"
#include "core/steps/suspected_steps.h"

namespace jacinth {

/// Of the tags that have companions (Remainders::hasCompanions), rising in time. The clearest change of level
/// in a remainder is explained (StepExplainer) and subtracted from every remainder; then the next, until
/// none stands above what chance makes (Remainders::threshold). The size is that of all reaches and of the
/// jump together, each with its own error. Steps there and back whose sizes agree within their ranges are
/// one; of one tag within 70 minutes they are none. Three tags or more are the process, and so are jumps of
/// several tags that come seldom (unusualProcessJumps).
std::vector<SuspectedStep> jointSteps(const std::vector<TagScan>& asset, const BlockGrid& grid,
                                      Remainders remainders);

}  // namespace jacinth
