// The values of a tag by the states of another, from the study.
#pragma once

#include "core/series/by_state.h"
#include "store/study.h"

namespace jacinth {

/// Samples of a tag in a stretch, for calculations that need all of them at once. An Error for the user where
/// there are more than memory should be spent on (kMostSamplesAtOnce).
inline constexpr std::int64_t kMostSamplesAtOnce = 20'000'000;
Result<Series> allSamples(Study& study, const Tag& tag, TimeRange range, Which which);

/// See splitByState.
Result<std::vector<StateValues>> tagByState(Study& study, const Tag& values, const Tag& states,
                                            TimeRange range, Which which);

/// When the state held and the value lay in [low, high]. Stretches less than five minutes apart are one:
/// samples on either side of a bound are not many stretches.
Result<std::vector<TimeRange>> whenTagInCluster(Study& study, const Tag& values, const Tag& states,
                                                TimeRange range, Which which, int state, double low,
                                                double high);

}  // namespace jacinth
