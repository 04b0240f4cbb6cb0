#include "core/series/step_count.h"

#include <fmt/format.h>

#include <algorithm>

namespace jacinth {

Status checkStepCount(Duration length, Duration step, std::int64_t most) {
    if (step <= Duration::zero()) return Error{"the step is not a length of time above 0"};
    const std::int64_t count = length / step;
    if (count <= most) return Done{};
    constexpr std::int64_t kMillion = 1'000'000;
    return Error{
        fmt::format("a step of {} makes {} million values of {}; at most {} can be calculated at once: "
                    "take a longer step",
                    formatDuration(step), count / kMillion, formatDuration(length),
                    most >= kMillion ? fmt::format("{} million", most / kMillion) : fmt::format("{}", most))};
}

}  // namespace jacinth
