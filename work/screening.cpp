#include "work/screening.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

namespace jacinth {
namespace {

std::vector<AlignedRun> alignGolden(Study& study, const std::vector<Span>& runs,
                                    const std::vector<std::int64_t>& golden, const std::string& role,
                                    const LimitSpec& spec, Which which) {
    std::vector<AlignedRun> out;
    for (const Span& run : runs) {
        if (std::find(golden.begin(), golden.end(), run.id) == golden.end()) continue;
        const Tag* tag = study.catalog().tagInRole(run.asset, role);
        if (!tag) continue;
        out.push_back(
            alignRun(study.read(*tag, {run.start, run.end + 1}, which), tag->bridging(), run, spec));
    }
    return out;
}

/// Screens the runs of one role; limits without each golden run are made once.
void screenRole(Study& study, const LimitSet& set, const std::string& role, const std::vector<Span>& runs,
                const ScreenSpec& spec, Which which, const std::function<bool()>& goOn,
                std::vector<ScreenedRun>& out) {
    const GoldenLimits& limits = set.byRole.at(role);
    const auto aligned = alignGolden(study, runs, set.goldenRuns, role, limits.spec, which);
    for (const Span& run : runs) {
        if (goOn && !goOn()) return;
        const Tag* tag = study.catalog().tagInRole(run.asset, role);
        if (!tag) continue;
        const bool golden =
            std::any_of(aligned.begin(), aligned.end(), [&](const AlignedRun& a) { return a.run == run.id; });
        const Series series = study.read(*tag, {run.start, run.end + 1}, which);
        const GoldenLimits own = golden ? buildLimitsWithout(limits.spec, aligned, run.id) : GoldenLimits{};
        out.push_back(
            {run, role, tag->id, findExcursions(series, tag->bridging(), run, golden ? own : limits, spec)});
    }
}

}  // namespace

Result<LimitSet> makeLimits(Study& study, const std::string& name, std::int64_t track,
                            const std::vector<std::string>& roles, const LimitSpec& spec, Which which) {
    LimitSet set{0, name, track, study.goldenRuns(track), {}};
    if (set.goldenRuns.empty()) return Error{"no golden runs are chosen; choose some first"};
    if (spec.every <= 0) return Error{"the slice has no length"};
    const std::vector<Span> runs = study.spans(track);
    for (const std::string& role : roles) {
        const auto aligned = alignGolden(study, runs, set.goldenRuns, role, spec, which);
        if (aligned.empty()) {
            const std::string near = nearestName(role, study.catalog().roles());
            return Error{fmt::format("no golden run has a tag in the role `{}`{}", role,
                                     near.empty() ? "" : fmt::format("; nearest is `{}`", near))};
        }
        set.byRole[role] = buildLimits(spec, aligned);
    }
    return set;
}

void keepLimits(Study& study, const LimitSet& set) {
    std::vector<std::string> roles;
    for (const auto& [role, limits] : set.byRole) roles.push_back(role);
    study.change(fmt::format("limits {}", set.name), "", {{"golden", set.goldenRuns}, {"roles", roles}},
                 [&] { study.putLimitSet(set); });
}

LimitsOfRuns::LimitsOfRuns(Study& study, const LimitSet& set, const std::string& role, Which which) {
    const auto found = set.byRole.find(role);
    if (found == set.byRole.end()) return;
    limits_ = found->second;
    golden_ = alignGolden(study, study.spans(set.track), set.goldenRuns, role, limits_.spec, which);
}

GoldenLimits LimitsOfRuns::of(std::int64_t run) const {
    const bool golden =
        std::any_of(golden_.begin(), golden_.end(), [&](const AlignedRun& a) { return a.run == run; });
    return golden ? buildLimitsWithout(limits_.spec, golden_, run) : limits_;
}

GoldenLimits limitsFor(Study& study, const LimitSet& set, const std::string& role, std::int64_t run,
                       Which which) {
    return LimitsOfRuns(study, set, role, which).of(run);
}

std::vector<ScreenedRun> screenRuns(Study& study, const LimitSet& set, const ScreenSpec& spec, Which which,
                                    const std::function<bool(double)>& goOn) {
    const std::vector<Span> runs = study.spans(set.track);
    std::vector<ScreenedRun> out;
    const double total = static_cast<double>(runs.size() * set.byRole.size());
    double done = 0;
    bool stopped = false;
    for (const auto& [role, limits] : set.byRole) {
        if (stopped) break;
        screenRole(
            study, set, role, runs, spec, which,
            [&] {
                stopped = goOn && !goOn(done++ / total);
                return !stopped;
            },
            out);
    }
    return out;
}

void keepExcursions(Study& study, const LimitSet& set, const ScreenSpec& spec,
                    const std::vector<ScreenedRun>& screened) {
    const nlohmann::json definition{{"limits", set.name}, {"ignore", spec.ignore}, {"join", spec.join}};
    study.change("screen against " + set.name, "", definition, [&] {
        const std::int64_t track = study.putTrack("Excursions", track_kind::kExcursions, definition.dump());
        study.clearTrack(track);
        for (const ScreenedRun& s : screened)
            for (const Excursion& e : s.excursions) {
                Span span{0, s.run.asset, s.tag, e.start, e.end, {}};
                span.facts["run"] = static_cast<double>(s.run.id);
                span.facts["role"] = s.role;
                span.facts["side"] = std::string(e.side == Side::High ? "high" : "low");
                span.facts["peak"] = e.peak;
                span.facts["area"] = e.area;
                span.facts["half-widths"] = e.halfWidths;
                span.facts["severity"] = static_cast<double>(e.severity);
                study.addSpan(track, span);
            }
    });
}

std::vector<KeptExcursion> excursionsOf(const Study& study) {
    std::vector<KeptExcursion> out;
    for (const Span& s : study.spansOf(track_kind::kExcursions)) {
        KeptExcursion e{s, static_cast<std::int64_t>(factNumber(s.facts, "run")), factText(s.facts, "role")};
        e.side = factText(s.facts, "side") == "low" ? Side::Low : Side::High;
        e.peak = factNumber(s.facts, "peak");
        e.area = factNumber(s.facts, "area");
        e.halfWidths = factNumber(s.facts, "half-widths");
        e.severity = static_cast<int>(factNumber(s.facts, "severity", 1));
        out.push_back(std::move(e));
    }
    return out;
}

}  // namespace jacinth
