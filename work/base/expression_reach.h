// Over what time an expression has a value, and how finely.
#pragma once

#include "work/base/study_inputs.h"

namespace jacinth {

/// Over what an expression has a value, and how finely.
struct ExpressionReach {
    TimeRange range;              ///< from the first sample of its tags to just after the last
    Duration spacing = kHour;     ///< the least of its tags' median spacings
    Duration longestGap = kHour;  ///< the least of its tags' longest gaps
    Duration margin{};            ///< the greatest: over which a line may reach
};
ExpressionReach reachOf(Study& study, const Expression& expression, AssetId asset);

}  // namespace jacinth
