// Golden limits as lines over time: what `outside`, `above` and `below` compare with, and what plots draw.
#pragma once

#include "core/expr/evaluate.h"
#include "store/study.h"

namespace jacinth {

/// Low and high of the named limits, of the role on this asset, in every run that touches the range; each run
/// by the version that applies to it, a golden run by limits without itself.
LimitLines limitLines(Study& study, const std::string& name, const std::string& role, AssetId asset,
                      TimeRange range, Which which);

}  // namespace jacinth
