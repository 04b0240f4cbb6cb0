#include "work/limit_lines.h"

#include <algorithm>
#include <limits>

#include "work/screening.h"

namespace jacinth {
namespace {

void knot(Signal& s, Instant t, double v) {
    if (!s.times.empty() && s.times.back() >= t) return;
    s.times.push_back(t);
    s.values.push_back(v);
}

void addRun(LimitLines& out, const GoldenLimits& limits, const Span& run) {
    constexpr double kMissing = std::numeric_limits<double>::quiet_NaN();
    const Duration length = run.end - run.start;
    std::vector<Duration> into{0, length};  // time since the start, of every slice within the run
    for (const LimitSlice& s : limits.slices) {
        const Duration at = limits.spec.lineUp == LineUp::Start ? s.offset : length - s.offset;
        if (at > 0 && at < length) into.push_back(at);
    }
    std::sort(into.begin(), into.end());
    for (const Duration at : into) {
        const LimitsAt l = limitsAt(limits, limits.spec.lineUp == LineUp::Start ? at : length - at);
        knot(out.low, run.start + at, l.low);
        knot(out.high, run.start + at, l.high);
    }
    for (Signal* line : {&out.low, &out.high}) knot(*line, run.end + 1, kMissing);
}

}  // namespace

LimitLines limitLines(Study& study, const LimitSet& set, const std::string& role, std::int64_t asset,
                      TimeRange range, Which which) {
    LimitLines out;
    const auto found = set.byRole.find(role);
    if (found == set.byRole.end()) return out;
    const LimitsOfRuns judged(study, set, role, which);
    for (const Span& run : study.spans(set.track))
        if (run.asset == asset && run.end > range.from && run.start < range.to)
            addRun(out, judged.of(run.id), run);
    return out;
}

}  // namespace jacinth
