#include "work/limits/limit_lines.h"

#include <map>

#include "core/base/missing.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/screening.h"

namespace jacinth {
namespace {

void knot(Signal& s, Instant t, double v) {
    if (!s.times.empty() && s.times.back() >= t) return;
    s.times.edit().push_back(t);
    s.values.edit().push_back(v);
}

void addRun(LimitLines& out, const GoldenLimits& limits, const RunScale& scale, const Span& run) {
    for (const LimitMoment& m : limitsInTime(limits, scale)) {
        knot(out.low, m.time, m.limits.low);
        knot(out.high, m.time, m.limits.high);
    }
    for (Signal* line : {&out.low, &out.high}) knot(*line, run.end + kNanosecond, kMissing);
}

}  // namespace

LimitLines limitLines(Study& study, const std::string& name, const std::string& role, AssetId asset,
                      TimeRange range, Which which) {
    LimitLines out;
    const auto newest = study.judgement().limitSetNamed(name);
    if (!newest) return out;
    const LimitChoice choice(study, newest->track, name, which);
    std::map<int, LimitsOfRuns> judged;
    for (const Span& run : study.tracks().spans(newest->track)) {
        if (run.asset != asset || run.end <= range.from || run.start >= range.to) continue;
        const int set = choice.of(run);
        if (set < 0) continue;
        const LimitSet& by = choice.sets()[static_cast<std::size_t>(set)];
        if (!by.byRole.contains(role)) continue;
        const auto known = judged.try_emplace(set, study, by, role, which).first;
        addRun(out, known->second.of(run.id), known->second.scaleOf(run), run);
    }
    return out;
}

}  // namespace jacinth
