#include "work/edit_runs.h"

#include "work/find_runs.h"
#include "work/screening.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

namespace jacinth {
namespace {

/// The track a run stands on, with all its runs.
struct OnTrack {
    Track track;
    std::vector<Span> runs;
    Span run;
};

Result<OnTrack> find(const Study& study, std::int64_t id) {
    for (const Track& t : study.tracks()) {
        if (t.kind != track_kind::kRuns) continue;
        std::vector<Span> runs = study.spans(t.id);
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
void numberAgain(Study& study, std::int64_t track, std::int64_t asset) {
    double number = 0;
    for (Span s : study.spans(track)) {
        if (s.asset != asset) continue;
        if (factNumber(s.facts, "number") != ++number) {
            s.facts["number"] = number;
            study.updateSpan(s);
        }
    }
}

/// Phases of the asset's runs found again by the track's own text; false where it has none or it fails now.
bool findPhasesAgain(Study& study, const Track& track, std::int64_t asset) {
    const std::string text = searchOf(track).phases;
    if (text.empty()) return false;
    std::vector<Span> mine, all = study.spans(track.id);
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
void cutPhases(Study& study, const Track& track, std::int64_t asset) {
    const auto phases = study.trackNamed(phaseTrackOf(track.name));
    if (!phases) return;
    std::vector<Span> old;
    for (const Span& p : study.spans(phases->id))
        if (p.asset == asset) old.push_back(p);
    for (const Span& p : old) study.removeSpan(p.id);
    for (const Span& run : study.spans(track.id)) {
        if (run.asset != asset) continue;
        for (Span p : old) {
            p.start = std::max(p.start, run.start);
            p.end = std::min(p.end, run.end);
            p.facts["run"] = static_cast<double>(run.id);
            if (p.end > p.start) study.addSpan(phases->id, p);
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
    nlohmann::json definition = nlohmann::json::parse(track.definition, nullptr, false);
    if (!definition.is_object()) definition = nlohmann::json::object();
    nlohmann::json& list = definition["leftOut"];
    if (!list.is_array()) list = nlohmann::json::array();
    for (const Span& s : runs) list.push_back({{"asset", s.asset}, {"start", s.start}, {"end", s.end}});
    study.setTrackDefinition(track.id, definition.dump());
}

}  // namespace

Status splitRun(Study& study, std::int64_t id, Instant at, const std::string& why) {
    const auto found = find(study, id);
    if (!found) return found.error();
    const Span run = found->run;
    if (at <= run.start || at >= run.end) return Error{"the moment to split at is not inside the run"};
    changeRuns(study, *found, "split " + nameOf(study, run), why, {{"run", id}, {"at", toIso(at)}}, [&] {
        Span first = run, second = run;
        first.end = at;
        first.facts.erase("unfinished");
        second.start = at;
        study.updateSpan(first);
        study.addSpan(found->track.id, second);
    });
    return Done{};
}

Status mergeRuns(Study& study, const std::vector<std::int64_t>& ids, const std::string& why) {
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
                   auto golden = study.goldenRuns(found->track.id);
                   for (std::size_t i = 1; i < chosen.size(); ++i) {
                       study.removeSpan(chosen[i].id);
                       std::erase(golden, chosen[i].id);
                   }
                   study.setGoldenRuns(found->track.id, golden, "");
                   study.updateSpan(whole);
               });
    return Done{};
}

Status moveRunEdges(Study& study, std::int64_t id, TimeRange range, const std::string& why) {
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
                   study.updateSpan(run);
               });
    return Done{};
}

Status leaveOutRuns(Study& study, const std::vector<std::int64_t>& ids, const std::string& why) {
    if (ids.empty()) return Error{"choose the runs to leave out"};
    const auto found = find(study, ids.front());
    if (!found) return found.error();
    const std::string name = ids.size() == 1 ? "leave out " + nameOf(study, found->run)
                                             : fmt::format("leave out {} runs", ids.size());
    std::set<std::int64_t> assets;
    study.change(name, why, {{"runs", ids}}, [&] {
        auto golden = study.goldenRuns(found->track.id);
        std::vector<Span> gone;
        std::set<std::int64_t> goneIds;
        for (const Span& s : found->runs) {
            if (std::find(ids.begin(), ids.end(), s.id) == ids.end()) continue;
            assets.insert(s.asset);
            std::erase(golden, s.id);
            study.removeSpan(s.id);
            gone.push_back(s);
            goneIds.insert(s.id);
        }
        rememberLeftOut(study, found->track, gone);
        removeExcursionsOf(study, goneIds);
        study.setGoldenRuns(found->track.id, golden, "");
        for (const std::int64_t asset : assets) {
            numberAgain(study, found->track.id, asset);
            cutPhases(study, found->track, asset);
        }
    });
    return Done{};
}

Status markGolden(Study& study, std::int64_t track, const std::vector<std::int64_t>& runs, Golden how,
                  const std::string& given) {
    if (runs.empty()) return Error{"choose runs first"};
    std::set<std::int64_t> known;
    for (const Span& run : study.spans(track)) known.insert(run.id);
    for (const std::int64_t run : runs)
        if (!known.contains(run)) return Error{fmt::format("{} is not a run of this track", run)};
    std::vector<std::int64_t> all =
        how == Golden::Only ? std::vector<std::int64_t>() : study.goldenRuns(track);
    for (const std::int64_t run : runs) {
        std::erase(all, run);
        if (how != Golden::NoLonger) all.push_back(run);
    }
    const std::string why = given.empty() ? "chosen by hand" : given;
    study.change(fmt::format("{} runs {}golden", runs.size(), how == Golden::NoLonger ? "not " : ""), why,
                 {{"runs", runs}}, [&] { study.setGoldenRuns(track, all, why); });
    return Done{};
}

std::map<std::int64_t, std::string> goldenReasons(const Study& study, std::int64_t track) {
    std::map<std::int64_t, std::string> out;
    for (const std::int64_t run : study.goldenRuns(track)) out[run] = study.goldenWhy(track, run);
    return out;
}

void toggleGolden(Study& study, std::int64_t track, std::int64_t run) {
    auto golden = study.goldenRuns(track);
    const auto found = std::find(golden.begin(), golden.end(), run);
    const bool adding = found == golden.end();
    if (adding)
        golden.push_back(run);
    else
        golden.erase(found);
    const auto span = study.span(run);
    const Asset* asset = span ? study.catalog().asset(span->asset) : nullptr;
    const std::string name = std::string(adding ? "golden: " : "not golden: ") + (asset ? asset->name : "") +
                             " run " + (span ? factText(span->facts, "number") : "");
    study.change(name, "chosen by hand", {{"run", run}},
                 [&] { study.setGoldenRuns(track, golden, "chosen by hand"); });
}

}  // namespace jacinth
