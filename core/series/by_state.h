// The values of one tag, split by the states of another.
#pragma once

#include <vector>

#include "core/series/series.h"

namespace jacinth {

/// What a tag does in one state of another.
struct StateValues {
    int state = 0;
    std::vector<double> sorted;  ///< usable values at samples, rising
    Duration time{};             ///< that the state lasted, in the range
};

/// One entry for each of `states` states, by code. A sample belongs to the state that holds at its time;
/// samples while no state is known are left out. `range` bounds both.
std::vector<StateValues> splitByState(const SeriesView& values, const SeriesView& states,
                                      const Bridging& held, int count, TimeRange range);

/// When the state held and the value lay in [low, high]: stretches from the first such sample to the sample
/// that ends it; samples further apart than `longestGap` end a stretch too.
std::vector<TimeRange> whenInCluster(const SeriesView& values, const SeriesView& states, const Bridging& held,
                                     int state, double low, double high, Duration longestGap);

}  // namespace jacinth
