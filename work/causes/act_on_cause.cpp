#include "work/causes/act_on_cause.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/base/text.h"
#include "store/judgement.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

std::string assetName(const Study& study, AssetId id) {
    const Asset* asset = study.catalog().asset(id);
    return asset ? asset->name : "";
}

/// Runs of the asset since the cause began without an excursion of another cause.
std::vector<SpanId> runsOnlyWith(const Study& study, const FoundCauses& found, const Cause& cause,
                                 TrackId track) {
    std::set<SpanId> others;
    for (const ExplainedExcursion& e : found.excursions)
        if (e.cause != cause.id) others.insert(e.run);
    std::vector<SpanId> out;
    for (const Span& run : study.tracks().spans(track))
        if (run.asset == cause.asset && run.start >= cause.range.from && run.end <= cause.range.to &&
            !others.contains(run.id) && !run.facts.contains("unfinished"))
            out.push_back(run.id);
    return out;
}

}  // namespace

std::vector<Fix> fixesOf(const Study& study, const Cause& cause, const std::string& why) {
    std::vector<Fix> out;
    if (cause.kind != CauseKind::Step) return out;
    for (const CauseEffect& effect : cause.effects) {
        if (effect.dependsOnPlace()) return {};
        Fix fix;
        fix.tag = effect.tag;
        fix.body = ShiftFix{-effect.shape.values.front()};
        fix.from = effect.range.from;
        fix.to = std::min(effect.range.to, study.record().to) - kNanosecond;
        fix.why = why;
        out.push_back(std::move(fix));
    }
    return out;
}

Result<LimitSet> limitsFromCauseOn(Study& study, const FoundCauses& found, const Cause& cause, TrackId track,
                                   const std::string& name) {
    std::optional<LimitSet> like;
    for (const LimitSet& set : study.judgement().limitSets())
        if (set.track == track && (name.empty() || set.name == name) && set.forRuns.empty()) like = set;
    if (!like || like->byRole.empty())
        return Error{"no limits for all runs were built yet, to make these like them"};
    const LimitSpec spec = like->byRole.begin()->second.spec;
    const std::vector<SpanId> runs = runsOnlyWith(study, found, cause, track);
    const std::string asset = assetName(study, cause.asset);
    if (static_cast<int>(runs.size()) < spec.leastRuns)
        return Error{
            fmt::format("{} runs of {} since then have no excursion of another cause; limits take {}",
                        runs.size(), asset, spec.leastRuns)};
    std::vector<std::string> roles;
    for (const auto& [role, limits] : like->byRole)
        if (study.catalog().tagInRole(cause.asset, role)) roles.push_back(role);
    auto set = makeLimitsFrom(study, fmt::format("{}, {}", like->name, asset), track, roles, spec, runs);
    if (!set) return set.error();
    set->validFrom = cause.range.from;
    set->forRuns = fmt::format("asset = \"{}\"", asset);
    return set;
}

Result<std::size_t> setApart(Study& study, const FoundCauses& found, const Cause& cause,
                             const std::string& reason) {
    const std::string why(trimmed(reason));
    if (why.empty()) return Error{"say why: it is kept with the excursions"};
    std::vector<KeptExcursion> chosen;
    for (const KeptExcursion& kept : excursionsOf(study))
        for (const ExplainedExcursion& e : found.excursions)
            if (e.cause == cause.id && kept.dismissed.empty() && kept.run == e.run && kept.role == e.role &&
                kept.side == e.excursion.side && kept.span.start < e.excursion.end &&
                kept.span.end > e.excursion.start) {
                chosen.push_back(kept);
                break;
            }
    if (chosen.empty()) return Error{"none of these excursions is on record: screen the runs first"};
    dismissExcursions(study, chosen, why, "set apart: " + causeTitle(study, cause));
    return chosen.size();
}

std::string causeTitle(const Study& study, const Cause& cause) {
    const Tag* tag = cause.tags.empty() ? nullptr : study.catalog().tag(cause.tags.front());
    const std::string asset = assetName(study, cause.asset);
    const std::string more = cause.tags.size() > 1 ? fmt::format(" and {} more", cause.tags.size() - 1) : "";
    const std::string on = tag ? fmt::format("{} {}{}", asset, tag->name, more) : asset;
    switch (cause.kind) {
        case CauseKind::Step:
            return "Step of " + on;
        case CauseKind::Drift:
            return "Sensor in doubt: " + on;
        case CauseKind::Process:
            return "Process change of " + asset;
        case CauseKind::Event:
            return asset + ": " + cause.why.substr(0, cause.why.find("; "));
        case CauseKind::Asset:
            return fmt::format("{} differs: {}{}", asset, tag ? tag->name : "", more);
        case CauseKind::Gradual:
            return cause.asset ? "Gradual change of " + on
                               : fmt::format("All assets together: {}", tag ? tag->name : "");
    }
    return {};
}

}  // namespace jacinth
