#include "work/survey/tag_by_state.h"

#include <fmt/format.h>

#include "core/span/span.h"
#include "store/sample_store.h"

namespace jacinth {

Result<Series> allSamples(Study& study, const Tag& tag, TimeRange range, Which which) {
    const std::int64_t count = study.reader(tag.id).countAbout(tag.id, range);
    if (count > kMostSamplesAtOnce)
        return Error{
            fmt::format("{} has about {} million samples in this time; choose a shorter one (up to {} "
                        "million samples)",
                        tag.path(), count / 1'000'000, kMostSamplesAtOnce / 1'000'000)};
    return study.readForFigures(tag, range, which);
}

Result<std::vector<StateValues>> tagByState(Study& study, const Tag& values, const Tag& states,
                                            TimeRange range, Which which) {
    const auto read = allSamples(study, values, range, which);
    if (!read) return read.error();
    const auto held = allSamples(study, states, range, which);
    if (!held) return held.error();
    return splitByState(*read, *held, states.bridging(), static_cast<int>(states.states.size()), range);
}

Result<std::vector<TimeRange>> whenTagInCluster(Study& study, const Tag& values, const Tag& states,
                                                TimeRange range, Which which, int state, double low,
                                                double high) {
    const auto read = allSamples(study, values, range, which);
    if (!read) return read.error();
    const auto held = allSamples(study, states, range, which);
    if (!held) return held.error();
    return joined(whenInCluster(read->view().within(range), *held, states.bridging(), state, low, high,
                                values.bridging().longestGap),
                  5 * kMinute);
}

}  // namespace jacinth
