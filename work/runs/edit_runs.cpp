#include "work/runs/edit_runs.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/parse_json.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/base/whole_fact.h"
#include "work/runs/find_runs.h"

namespace jacinth {
namespace {

/// The track a run stands on, with all its runs.
struct OnTrack {
    Track track;
    std::vector<Span> runs;
    Span run;
};

Result<OnTrack> find(const Study& study, SpanId id) {
    for (const Track& t : study.tracks().all()) {
        if (t.kind != track_kind::kRuns) continue;
        std::vector<Span> runs = study.tracks().spans(t.id);
        const auto found = std::find_if(runs.begin(), runs.end(), [&](const Span& s) { return s.id == id; });
        if (found == runs.end()) continue;
        const Span run = *found;
        return OnTrack{t, std::move(runs), run};
    }
    return Error{"this run is not there any more"};
}

std::string nameOf(const Study& study, const Span& run) {
    const Asset* asset = study.catalog().asset(run.asset);
    return fmt::format("{} run {}", asset ? asset->name : "", factText(run.facts, "number"));
}

/// Runs of an asset are numbered in order of time.
void numberAgain(Study& study, TrackId track, AssetId asset) {
    double number = 0;
    for (Span s : study.tracks().spans(track)) {
        if (s.asset != asset) continue;
        if (factNumber(s.facts, "number") != ++number) {
            s.facts["number"] = number;
            study.tracks().updateSpan(s);
        }
    }
}

/// Phases of the asset's runs found again by the track's own text; false where it has none or it fails now.
bool findPhasesAgain(Study& study, const Track& track, AssetId asset) {
    const std::string text = searchOf(track).phases;
    if (text.empty()) return false;
    std::vector<Span> mine, all = study.tracks().spans(track.id);
    for (const Span& run : all)
        if (run.asset == asset) mine.push_back(run);
    const auto found = findPhases(study, text, mine, Which::Mended);
    if (!found) return false;
    PhasesOfRuns phases = phasesOf(study, track.id);
    for (const auto& [run, list] : *found) phases[run] = list;
    putPhases(study, track.name, all, phases);
    return true;
}

/// Phases of the track cut to the runs as they are now, each to the run that it lies in.
void cutPhases(Study& study, const Track& track, AssetId asset) {
    const auto phases = study.tracks().named(phaseTrackOf(track.name));
    if (!phases) return;
    std::vector<Span> old;
    for (const Span& p : study.tracks().spans(phases->id))
        if (p.asset == asset) old.push_back(p);
    for (const Span& p : old) study.tracks().removeSpan(p.id);
    for (const Span& run : study.tracks().spans(track.id)) {
        if (run.asset != asset) continue;
        for (Span p : old) {
            p.start = std::max(p.start, run.start);
            p.end = std::min(p.end, run.end);
            setRunOfSpan(p.facts, run.id);
            if (p.end > p.start) study.tracks().addSpan(phases->id, p);
        }
    }
}

void changeRuns(Study& study, const OnTrack& at, const std::string& name, const std::string& why,
                const nlohmann::json& detail, const std::function<void()>& work) {
    study.change(name, why, detail, [&] {
        work();
        numberAgain(study, at.track.id, at.run.asset);
        if (!findPhasesAgain(study, at.track, at.run.asset)) cutPhases(study, at.track, at.run.asset);
    });
}

/// Adds runs to those that finding runs passes over.
void rememberLeftOut(Study& study, const Track& track, const std::vector<Span>& runs) {
    nlohmann::json definition = parseJson(track.definition);
    if (!definition.is_object()) definition = nlohmann::json::object();
    nlohmann::json& list = definition["leftOut"];
    if (!list.is_array()) list = nlohmann::json::array();
    for (const Span& s : runs)
        list.push_back(
            {{"asset", s.asset}, {"start", epochNanoseconds(s.start)}, {"end", epochNanoseconds(s.end)}});
    study.tracks().setDefinition(track.id, definition.dump());
}

}  // namespace

Status splitRun(Study& study, SpanId id, Instant at, const std::string& why) {
    const auto found = find(study, id);
    if (!found) return found.error();
    const Span run = found->run;
    if (at <= run.start || at >= run.end) return Error{"the moment to split at is not inside the run"};
    changeRuns(study, *found, "split " + nameOf(study, run), why, {{"run", id}, {"at", toIso(at)}}, [&] {
        Span first = run, second = run;
        first.end = at;
        first.facts.erase("unfinished");
        second.start = at;
        study.tracks().updateSpan(first);
        study.tracks().addSpan(found->track.id, second);
    });
    return Done{};
}

Status mergeRuns(Study& study, const std::vector<SpanId>& ids, const std::string& why) {
    if (ids.size() < 2) return Error{"choose two runs or more to merge"};
    const auto found = find(study, ids.front());
    if (!found) return found.error();
    std::vector<Span> chosen;
    for (const Span& s : found->runs)
        if (std::find(ids.begin(), ids.end(), s.id) != ids.end()) chosen.push_back(s);
    if (chosen.size() != ids.size()) return Error{"runs of one track can be merged"};
    for (const Span& s : chosen)
        if (s.asset != chosen.front().asset) return Error{"runs of one asset can be merged"};
    Span whole = chosen.front();
    whole.end = chosen.back().end;
    for (const Span& s : found->runs)
        if (s.asset == whole.asset && s.start >= whole.start && s.end <= whole.end &&
            std::find(ids.begin(), ids.end(), s.id) == ids.end())
            return Error{fmt::format("{} lies between them", nameOf(study, s))};
    if (chosen.back().facts.contains("unfinished")) whole.facts["unfinished"] = std::string("yes");
    changeRuns(study, *found, fmt::format("merge {} runs into {}", ids.size(), nameOf(study, whole)), why,
               {{"runs", ids}}, [&] {
                   auto golden = study.judgement().goldenRuns(found->track.id);
                   for (std::size_t i = 1; i < chosen.size(); ++i) {
                       study.tracks().removeSpan(chosen[i].id);
                       std::erase(golden, chosen[i].id);
                   }
                   study.judgement().setGoldenRuns(found->track.id, golden, "");
                   study.tracks().updateSpan(whole);
               });
    return Done{};
}

Status moveRunEdges(Study& study, SpanId id, TimeRange range, const std::string& why) {
    const auto found = find(study, id);
    if (!found) return found.error();
    if (range.to <= range.from) return Error{"the run would have no length"};
    for (const Span& s : found->runs)
        if (s.id != id && s.asset == found->run.asset && s.start < range.to && s.end > range.from)
            return Error{fmt::format("it would reach into {}", nameOf(study, s))};
    changeRuns(study, *found, "edges of " + nameOf(study, found->run), why,
               {{"run", id},
                {"from", toIso(found->run.start)},
                {"to", toIso(found->run.end)},
                {"newFrom", toIso(range.from)},
                {"newTo", toIso(range.to)}},
               [&] {
                   Span run = found->run;
                   run.start = range.from;
                   run.end = range.to;
                   study.tracks().updateSpan(run);
               });
    return Done{};
}

Status leaveOutRuns(Study& study, const std::vector<SpanId>& ids, const std::string& why) {
    if (ids.empty()) return Error{"choose the runs to leave out"};
    const auto found = find(study, ids.front());
    if (!found) return found.error();
    const std::string name = ids.size() == 1 ? "leave out " + nameOf(study, found->run)
                                             : fmt::format("leave out {} runs", ids.size());
    std::set<AssetId> assets;
    study.change(name, why, {{"runs", ids}}, [&] {
        auto golden = study.judgement().goldenRuns(found->track.id);
        std::vector<Span> gone;
        std::set<SpanId> goneIds;
        for (const Span& s : found->runs) {
            if (std::find(ids.begin(), ids.end(), s.id) == ids.end()) continue;
            assets.insert(s.asset);
            std::erase(golden, s.id);
            study.tracks().removeSpan(s.id);
            gone.push_back(s);
            goneIds.insert(s.id);
        }
        rememberLeftOut(study, found->track, gone);
        removeExcursionsOf(study, goneIds);
        study.judgement().setGoldenRuns(found->track.id, golden, "");
        for (const AssetId asset : assets) {
            numberAgain(study, found->track.id, asset);
            cutPhases(study, found->track, asset);
        }
    });
    return Done{};
}

Status markGolden(Study& study, TrackId track, const std::vector<SpanId>& runs, Golden how,
                  const std::string& given) {
    if (runs.empty()) return Error{"choose runs first"};
    std::set<SpanId> known;
    for (const Span& run : study.tracks().spans(track)) known.insert(run.id);
    for (const SpanId run : runs)
        if (!known.contains(run)) return Error{fmt::format("{} is not a run of this track", run)};
    std::vector<SpanId> all =
        how == Golden::Only ? std::vector<SpanId>() : study.judgement().goldenRuns(track);
    for (const SpanId run : runs) {
        std::erase(all, run);
        if (how != Golden::NoLonger) all.push_back(run);
    }
    const std::string why = given.empty() ? "chosen by hand" : given;
    study.change(fmt::format("{} runs {}golden", runs.size(), how == Golden::NoLonger ? "not " : ""), why,
                 {{"runs", runs}}, [&] { study.judgement().setGoldenRuns(track, all, why); });
    return Done{};
}

std::map<SpanId, std::string> goldenReasons(const Study& study, TrackId track) {
    std::map<SpanId, std::string> out;
    for (const SpanId run : study.judgement().goldenRuns(track))
        out[run] = study.judgement().goldenWhy(track, run);
    return out;
}

void toggleGolden(Study& study, TrackId track, SpanId run) {
    auto golden = study.judgement().goldenRuns(track);
    const auto found = std::find(golden.begin(), golden.end(), run);
    const bool adding = found == golden.end();
    if (adding)
        golden.push_back(run);
    else
        golden.erase(found);
    const auto span = study.tracks().span(run);
    const Asset* asset = span ? study.catalog().asset(span->asset) : nullptr;
    const std::string name = std::string(adding ? "golden: " : "not golden: ") + (asset ? asset->name : "") +
                             " run " + (span ? factText(span->facts, "number") : "");
    study.change(name, "chosen by hand", {{"run", run}},
                 [&] { study.judgement().setGoldenRuns(track, golden, "chosen by hand"); });
}

}  // namespace jacinth
