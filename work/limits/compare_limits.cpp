#include "work/limits/compare_limits.h"

#include <fmt/format.h>

#include <cmath>

#include "core/stats/stats.h"
#include "store/judgement.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

struct Flagged {
    std::set<SpanId> runs;
    double hours = 0;
};

Flagged flaggedBy(Study& study, LimitSet set, const std::string& role, const std::vector<Span>& runs,
                  const ScreenSpec& spec, Which which, const Progress& progress) {
    std::erase_if(set.byRole, [&](const auto& entry) { return entry.first != role; });
    Flagged out;
    for (const ScreenedRun& s : screenBy(study, set, runs, spec, which, progress))
        for (const Excursion& e : s.excursions) {
            out.runs.insert(s.run.id);
            out.hours += toHours(e.end - e.start);
        }
    return out;
}

double medianWidth(const GoldenLimits& limits) {
    std::vector<double> widths;
    for (const LimitSlice& s : limits.slices)
        if (std::isfinite(s.low)) widths.push_back(s.high - s.low);
    return median(std::move(widths));
}

}  // namespace

Result<LimitComparison> compareLimits(Study& study, const LimitSet& a, const LimitSet& b,
                                      const std::string& role, const ScreenSpec& spec, Which which,
                                      const Progress& progress) {
    for (const LimitSet* set : {&a, &b})
        if (!set->byRole.contains(role))
            return Error{fmt::format("{} have no limits for `{}`", limitsTitle(*set), role)};
    LimitComparison out{a, b, role};
    const std::vector<Span> runs = study.tracks().spans(a.track);
    out.runs = runs.size();
    bool stopped = false;
    const auto half = [&](double from) {
        return Progress([&progress, &stopped, from](double share) {
            stopped = stopped || progress.stopped(from + share / 2);
            return !stopped;
        });
    };
    const Flagged byA = flaggedBy(study, a, role, runs, spec, which, half(0));
    const Flagged byB = flaggedBy(study, b, role, runs, spec, which, half(0.5));
    if (stopped) return Error::cancelled();
    for (const Span& run : runs) {
        const bool inA = byA.runs.contains(run.id), inB = byB.runs.contains(run.id);
        if (inA && inB) out.both.push_back(run.id);
        if (inA && !inB) out.onlyA.push_back(run.id);
        if (inB && !inA) out.onlyB.push_back(run.id);
    }
    out.hoursA = byA.hours;
    out.hoursB = byB.hours;
    out.widthA = medianWidth(a.byRole.at(role));
    out.widthB = medianWidth(b.byRole.at(role));
    return out;
}

}  // namespace jacinth
