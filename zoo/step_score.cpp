#include "zoo/step_score.h"

#include <algorithm>
#include <cmath>

namespace jacinth::zoo {
namespace {

constexpr Duration kNear = 30 * kMinute;

bool near(Instant a, Instant b) {
    return abs(a - b) <= kNear;
}

bool tellsOf(const SuspectedStep& s, std::size_t tag, Instant time) {
    return s.tag == TagId(static_cast<std::int64_t>(tag) + 1) &&
           (near(s.time, time) || (time >= s.between.from - kNear && time <= s.between.to + kNear));
}

StepScore::Share& shareOf(StepScore& score, double inNoise) {
    return inNoise >= 8 ? score.strong : inNoise >= 5 ? score.middle : score.weak;
}

}  // namespace

const SuspectedStep* stepFor(const std::vector<SuspectedStep>& found, const TrueStep& truth) {
    const auto it = std::find_if(found.begin(), found.end(), [&](const SuspectedStep& s) {
        return s.kind != StepKind::Process && s.size * truth.size > 0 && tellsOf(s, truth.tag, truth.time);
    });
    return it == found.end() ? nullptr : &*it;
}

bool isTrue(const Plant& plant, const SuspectedStep& s) {
    const auto tells = [&](std::size_t tag, Instant time) { return tellsOf(s, tag, time); };
    return std::any_of(plant.steps.begin(), plant.steps.end(),
                       [&](const TrueStep& t) {
                           return tells(t.tag, t.time) || (t.returns && tells(t.tag, *t.returns));
                       }) ||
           std::any_of(plant.drifts.begin(), plant.drifts.end(),
                       [&](const TrueDrift& d) { return tells(d.tag, d.range.to); });
}

bool isNamed(const std::vector<SuspectedStep>& found, const TrueChange& change) {
    return std::any_of(found.begin(), found.end(), [&](const SuspectedStep& s) {
        return s.kind == StepKind::Process &&
               (near(s.time, change.time) || (change.time >= s.between.from && change.time <= s.between.to));
    });
}

void StepScore::add(const StepScore& o) {
    for (Share StepScore::*share :
         {&StepScore::strong, &StepScore::middle, &StepScore::weak, &StepScore::sized, &StepScore::inRange,
          &StepScore::returns, &StepScore::changes}) {
        (this->*share).of += (o.*share).of;
        (this->*share).right += (o.*share).right;
    }
    wrong += o.wrong;
    assetMonths += o.assetMonths;
}

StepScore scoreOf(const Plant& plant, const std::vector<SuspectedStep>& found) {
    StepScore out;
    out.assetMonths = toHours(plant.range.length()) / (24 * 30.44);
    for (const TrueStep& truth : plant.steps) {
        StepScore::Share& share = shareOf(out, truth.inNoise);
        ++share.of;
        const SuspectedStep* s = stepFor(found, truth);
        if (!s) continue;
        ++share.right;
        ++out.sized.of, ++out.inRange.of;
        out.sized.right += std::abs(s->size - truth.size) <= 0.05 * std::abs(truth.size);
        out.inRange.right += truth.size >= s->low() && truth.size <= s->high();
        if (!truth.returns) continue;
        ++out.returns.of;
        out.returns.right += s->returns && near(*s->returns, *truth.returns);
    }
    for (const TrueChange& change : plant.changes) {
        if (change.tags.size() < 2) continue;
        ++out.changes.of;
        out.changes.right += isNamed(found, change);
    }
    for (const SuspectedStep& s : found) out.wrong += s.kind != StepKind::Process && !isTrue(plant, s);
    return out;
}

std::vector<SuspectedStep> stepsIn(const Plant& plant) {
    const BlockGrid grid = gridFor(plant.range);
    std::vector<TagScan> scans;
    for (std::size_t i = 0; i < plant.tags.size(); ++i)
        scans.push_back(scanTag(TagId(static_cast<std::int64_t>(i) + 1), plant.tags[i].unit,
                                plant.tags[i].series, grid, plant.scales));
    return suspectedSteps(scans, grid, plant.stateChanges);
}

}  // namespace jacinth::zoo
