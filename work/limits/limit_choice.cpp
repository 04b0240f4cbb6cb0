#include "work/limits/limit_choice.h"

#include <fmt/format.h>

#include <tuple>

#include "store/judgement.h"
#include "work/runs/find_runs.h"

namespace jacinth {

std::vector<LimitSet> limitSetsOf(const Study& study, TrackId track) {
    std::vector<LimitSet> out = study.judgement().limitSets();
    std::erase_if(out, [&](const LimitSet& set) { return set.track != track; });
    return out;
}

LimitChoice::LimitChoice(Study& study, TrackId track, const std::string& name, Which which, SpanId only) {
    for (LimitSet& set : limitSetsOf(study, track)) {
        if (!name.empty() && set.name != name) continue;
        std::set<SpanId> fitting;
        if (!set.forRuns.empty()) {
            const auto runs = runsWhere(study, track, set.forRuns, which, only);
            if (runs)
                fitting = {runs->begin(), runs->end()};
            else
                error_ = Error{fmt::format("limits {}: {}", set.name, runs.error().message)};
        }
        sets_.push_back(std::move(set));
        fitting_.push_back(std::move(fitting));
    }
}

int LimitChoice::of(const Span& run) const {
    int best = -1;
    const auto rank = [&](int i) {
        const LimitSet& s = sets_[static_cast<std::size_t>(i)];
        return std::tuple(!s.forRuns.empty(), s.validFrom, s.id);
    };
    for (int i = 0; i < static_cast<int>(sets_.size()); ++i) {
        const LimitSet& s = sets_[static_cast<std::size_t>(i)];
        if (run.start < s.validFrom) continue;
        if (!s.forRuns.empty() && !fitting_[static_cast<std::size_t>(i)].contains(run.id)) continue;
        if (best < 0 || rank(i) > rank(best)) best = i;
    }
    return best;
}

}  // namespace jacinth
