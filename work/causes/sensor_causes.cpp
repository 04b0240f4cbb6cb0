#include "work/causes/sensor_causes.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "store/judgement.h"
#include "work/mend/take_out_step.h"

namespace jacinth {
namespace {

constexpr Duration kSameMoment = 2 * kMinute;

bool isProcess(const SuspectedStep& step, const std::optional<JudgedStep>& verdict) {
    return verdict ? verdict->verdict == StepVerdict::Process : step.kind == StepKind::Process;
}

void addTag(std::vector<TagId>& tags, TagId tag) {
    if (std::find(tags.begin(), tags.end(), tag) == tags.end()) tags.push_back(tag);
}

CauseEffect effectOf(const Study& study, const SuspectedStep& step) {
    CauseEffect out;
    out.tag = step.tag;
    out.range = {step.time, step.returns.value_or(study.record().to)};
    out.shape.values = {step.size};
    const TimeRange beside{step.time - 3 * kDay, step.time + 3 * kDay};
    const Series series = study.readForFigures(*study.catalog().tag(step.tag), beside, Which::Mended);
    out.endOfScale = endOfScale(series.view().within(beside), step.size > 0);
    return out;
}

}  // namespace

std::vector<Cause> stepCauses(const Study& study, const std::vector<SuspectedStep>& steps) {
    const auto verdicts = verdictsOn(study, steps);
    std::vector<Cause> out;
    std::vector<bool> taken(steps.size(), false);
    for (std::size_t i = 0; i < steps.size(); ++i) {
        if (taken[i] || verdicts[i] || steps[i].kind != StepKind::Lonely) continue;
        Cause cause;
        cause.kind = CauseKind::Step;
        cause.asset = study.catalog().tag(steps[i].tag)->asset;
        for (const std::size_t mate : mountMates(steps, i)) {
            if (taken[mate] || verdicts[mate] || steps[mate].kind != StepKind::Lonely) continue;
            taken[mate] = true;
            cause.tags.push_back(steps[mate].tag);
            cause.effects.push_back(effectOf(study, steps[mate]));
            cause.why += (cause.why.empty() ? "" : " ") + stepSentence(study, steps[mate]);
        }
        cause.range = cause.effects.front().range;
        out.push_back(std::move(cause));
    }
    return out;
}

std::vector<ProcessChange> processChanges(const Study& study, const std::vector<SuspectedStep>& steps) {
    const auto verdicts = verdictsOn(study, steps);
    std::vector<ProcessChange> out;
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const SuspectedStep& s = steps[i];
        if (!isProcess(s, verdicts[i])) continue;
        const AssetId asset = study.catalog().tag(s.tag)->asset;
        auto same = std::find_if(out.begin(), out.end(), [&](const ProcessChange& c) {
            return c.asset == asset && (std::chrono::abs(c.time - s.time) <= kSameMoment ||
                                        (c.time >= s.between.from && c.time <= s.between.to));
        });
        if (same == out.end()) same = out.insert(out.end(), {asset, s.time, s.returns, {}});
        addTag(same->tags, s.tag);
        for (const TagId moved : s.moved) addTag(same->tags, moved);
    }
    std::sort(out.begin(), out.end(), [](const ProcessChange& a, const ProcessChange& b) {
        return std::pair(a.asset, a.time) < std::pair(b.asset, b.time);
    });
    return out;
}

}  // namespace jacinth
