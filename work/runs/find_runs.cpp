#include "work/runs/find_runs.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/parse_json.h"
#include "store/json_body.h"
#include "store/tracks.h"
#include "work/base/expression_over_time.h"
#include "work/base/whole_fact.h"

namespace jacinth {
namespace {

void addBatchFacts(const std::vector<Span>& batches, Span& run) {
    for (const Span& b : batches) {
        if (b.asset != run.asset) continue;
        const Duration common = std::min(b.end, run.end) - std::max(b.start, run.start);
        if (common * 2 <= run.end - run.start) continue;
        for (const auto& [name, fact] : b.facts) run.facts[name] = fact;
        return;
    }
}

std::string listed(const std::vector<std::string>& names) {
    return fmt::format("{}", fmt::join(names, ", "));
}

/// Trimmed, numbered, with the facts of its batch.
void addRun(FoundRuns& out, AssetId asset, TimeRange r, const RunSearch& search, TimeRange record,
            const std::vector<Span>& batches, int& number) {
    if (r.length() < search.least || r.length() > search.most) return;
    const bool unfinished = r.to >= record.to;
    r.from += search.trimStart;
    if (!unfinished) r.to -= search.trimEnd;
    if (r.to <= r.from) return;
    Span run{SpanId(static_cast<std::int64_t>(out.runs.size()) + 1), asset, {}, r.from, r.to, {}};
    addBatchFacts(batches, run);
    run.facts["number"] = static_cast<double>(++number);
    if (unfinished) run.facts["unfinished"] = std::string("yes");
    out.runs.push_back(std::move(run));
}

Status findByCondition(Study& study, const RunSearch& search, Which which, const Progress& progress,
                       FoundRuns& out) {
    const auto fleet = compileForFleet(study, search.where, search.asset);
    if (!fleet) return fleet.error();
    const TimeRange record = study.record();
    const std::vector<Span> batches = study.tracks().spansOf(track_kind::kBatches);
    std::vector<OnAsset> assets;
    for (const auto& [asset, expression] : fleet->byAsset) {
        if (expression.type != ValueType::Condition)
            return Error{fmt::format("this is a {}; a condition that is true while a run lasts would fit",
                                     typeName(expression.type)),
                         1};
        assets.push_back({asset.id, {&expression, 1}});
    }
    const auto take = [&](std::size_t a, const ValuesOverTime& found) {
        int number = 0;
        for (const TimeRange& r :
             joined(stretches(std::get<Condition>(found.values.front()), record), search.join))
            addRun(out, assets[a].asset, r, search, record, batches, number);
    };
    return ExpressionOverTime(study, which).evaluateEach(assets, record, take, progress);
}

Status findInList(Study& study, const RunSearch& search, FoundRuns& out) {
    const auto list = study.tracks().named(search.list);
    if (!list) return Error{fmt::format("there is no list `{}`", search.list)};
    const TimeRange record = study.record();
    for (const Asset& asset : study.catalog().assets()) {
        if (!search.asset.empty() && asset.name != search.asset) continue;
        int number = 0;
        for (const Span& s : study.tracks().spans(list->id)) {
            if (s.asset != asset.id || s.end <= s.start) continue;
            const std::size_t before = out.runs.size();
            addRun(out, asset.id, s.range(), search, record, {}, number);
            if (out.runs.size() > before)
                for (const auto& [name, fact] : s.facts) out.runs.back().facts.try_emplace(name, fact);
        }
    }
    return Done{};
}

Status addPhases(Study& study, const RunSearch& search, Which which, FoundRuns& out) {
    if (search.phases.empty()) return Done{};
    auto phases = findPhases(study, search.phases, out.runs, which);
    if (!phases) return Error{"phases: " + phases.error().message, phases.error().column};
    out.phases = std::move(*phases);
    std::vector<std::vector<RunPhase>> all;
    for (const auto& [run, list] : out.phases) all.push_back(list);
    const std::vector<PhaseSlot> slots = phaseSlots(all);
    for (Span& run : out.runs) {
        const PhaseFaults faults = phaseFaults(out.phases[run.id], slots);
        if (!faults.missing.empty() && !run.facts.contains("unfinished"))
            run.facts["phases missing"] = listed(faults.missing);
        if (!faults.repeated.empty()) run.facts["phases repeated"] = listed(faults.repeated);
    }
    return Done{};
}

}  // namespace

Span withAssetName(const Study& study, const Span& run) {
    Span out = run;
    if (const Asset* asset = study.catalog().asset(run.asset)) out.facts.try_emplace("asset", asset->name);
    return out;
}

Names namesAboutRuns(const Study& study, AssetId asset, const std::vector<Span>& all) {
    Names names = namesIn(study, asset);
    names.aboutSpan = true;
    names.facts["duration"] = ValueType::DurationValue;
    names.facts["asset"] = ValueType::Text;
    for (const Span& s : all)
        for (const auto& [name, fact] : s.facts)
            names.facts[name] = std::holds_alternative<double>(fact) ? ValueType::Number : ValueType::Text;
    return names;
}

Result<FoundRuns> findRuns(Study& study, const RunSearch& search, Which which, const Progress& progress) {
    FoundRuns out;
    const Status found = search.list.empty() ? findByCondition(study, search, which, progress, out)
                                             : findInList(study, search, out);
    if (!found) return found.error();
    if (search.within)
        std::erase_if(out.runs, [&](const Span& run) { return !search.within->contains(run.start); });
    if (const Status phases = addPhases(study, search, which, out); !phases) return phases.error();
    return out;
}

namespace {

/// Runs that are found again at the same place are the same runs: both have at least nine tenths of what they
/// cover together in common.
bool samePlace(const Span& a, const Span& b) {
    if (a.asset != b.asset) return false;
    const Duration common = std::min(a.end, b.end) - std::max(a.start, b.start);
    const Duration together = std::max(a.end, b.end) - std::min(a.start, b.start);
    return together > Duration::zero() && toNanoseconds(common) >= 0.9 * toNanoseconds(together);
}

nlohmann::json definitionOf(const Study& study, const std::string& trackName, const RunSearch& search) {
    nlohmann::json out = nlohmann::json::object();
    if (const auto known = study.tracks().named(trackName)) out = parseJson(known->definition);
    if (!out.is_object()) out = nlohmann::json::object();
    out.update({{"where", search.where},
                {"least", search.least.count()},
                {"most", search.most.count()},
                {"join", search.join.count()},
                {"trimStart", search.trimStart.count()},
                {"trimEnd", search.trimEnd.count()},
                {"phases", search.phases},
                {"list", search.list}});
    return out;
}

/// Was this run looked for, or is it one that was found?
bool searched(const Span& run, const Asset* only, const RunSearch& search, const std::vector<Span>& found) {
    if (only && run.asset != only->id) return false;
    return !search.within || search.within->contains(run.start) ||
           std::any_of(found.begin(), found.end(), [&](const Span& f) { return samePlace(run, f); });
}

/// Takes the earlier run at the same place out of `before`.
std::optional<Span> takeSame(std::vector<Span>& before, const Span& run) {
    auto same = std::find_if(before.begin(), before.end(), [&](const Span& old) {
        return old.asset == run.asset && old.start == run.start && old.end == run.end;
    });
    if (same == before.end())
        same =
            std::find_if(before.begin(), before.end(), [&](const Span& old) { return samePlace(old, run); });
    if (same == before.end()) return {};
    Span out = *same;
    before.erase(same);
    return out;
}

}  // namespace

TrackId keepRuns(Study& study, const std::string& trackName, const RunSearch& search,
                 const FoundRuns& found) {
    const nlohmann::json definition = definitionOf(study, trackName, search);
    const Asset* only = search.asset.empty() ? nullptr : study.catalog().assetNamed(search.asset);
    TrackId track;
    study.change(fmt::format("runs on {}", trackName), "", definition, [&] {
        track = study.tracks().put(trackName, track_kind::kRuns, definition.dump());
        const std::vector<Span> leftOut = leftOutRunsOf(definition);
        std::vector<Span> before, kept;
        PhasesOfRuns phases;
        // Runs of assets that were not searched stay as they are.
        for (const Span& s : study.tracks().spans(track))
            (searched(s, only, search, found.runs) ? before : kept).push_back(s);
        for (const auto& [run, list] : phasesOf(study, track))
            if (std::any_of(kept.begin(), kept.end(), [&, id = run](const Span& s) { return s.id == id; }))
                phases[run] = list;
        for (const Span& run : found.runs) {
            if (std::any_of(leftOut.begin(), leftOut.end(), [&](const Span& s) { return samePlace(s, run); }))
                continue;
            kept.push_back(run);
            if (const auto same = takeSame(before, run)) {
                Span again = run;
                again.id = same->id;
                // What the engineer said of the run stays; what is found again is renewed.
                for (const auto& [name, fact] : same->facts)
                    if (!isFoundFact(name)) again.facts[name] = fact;
                kept.back() = again;
                if (again.start != same->start || again.end != same->end || again.facts != same->facts)
                    study.tracks().updateSpan(again);
            } else {
                kept.back().id = study.tracks().addSpan(track, run);
            }
            if (const auto p = found.phases.find(run.id); p != found.phases.end())
                phases[kept.back().id] = p->second;
        }
        std::set<SpanId> gone;
        for (const Span& s : before) {
            gone.insert(s.id);
            study.tracks().removeSpan(s.id);
        }
        if (!gone.empty()) removeExcursionsOf(study, gone);
        putPhases(study, trackName, kept, phases);
    });
    return track;
}

bool isFoundFact(const std::string& name) {
    return name == "number" || name == "unfinished" || name == "phases missing" || name == "phases repeated";
}

std::vector<Span> leftOutRunsOf(const nlohmann::json& definition) {
    std::vector<Span> out;
    JsonBody body(definition);
    const nlohmann::json& all = body.member("leftOut");
    if (all.is_array())
        for (const nlohmann::json& one : all) {
            JsonBody run(one);
            out.push_back(
                {{}, run.id<AssetId>("asset"), {}, run.instant("start", {}), run.instant("end", {}), {}});
        }
    return out;
}

RunSearch searchOf(const Track& track) {
    RunSearch out;
    JsonBody body(track.definition);
    out.where = body.text("where");
    out.least = body.duration("least", out.least);
    out.most = Duration(body.integer("most", 0, INT64_MAX, out.most.count()));
    out.join = body.duration("join", out.join);
    out.trimStart = body.duration("trimStart", out.trimStart);
    out.trimEnd = body.duration("trimEnd", out.trimEnd);
    out.phases = body.text("phases");
    out.list = body.text("list");
    return out;
}

Result<std::vector<SpanId>> runsWhere(Study& study, TrackId track, const std::string& where, Which which,
                                      SpanId only) {
    const std::vector<Span> runs = study.tracks().spans(track);
    std::map<AssetId, Expression> byAsset;
    std::vector<SpanId> out;
    for (const Span& run : runs) {
        if (only && run.id != only) continue;
        auto known = byAsset.find(run.asset);
        if (known == byAsset.end()) {
            const auto expression = compileExpression(where, namesAboutRuns(study, run.asset, runs));
            if (!expression) return expression.error();
            if (expression->type != ValueType::Condition)
                return Error{fmt::format("this is a {}; a condition about a run would fit",
                                         typeName(expression->type)),
                             1};
            known = byAsset.emplace(run.asset, *expression).first;
        }
        StudyInputs inputs(study, run.asset, run.range(), known->second.lookBack, which);
        const auto value = evaluateAbout(withAssetName(study, run), known->second, inputs);
        if (!value) return value.error();
        const Truth* truth = std::get_if<Truth>(&*value);
        if (truth && *truth == Truth::True) out.push_back(run.id);
    }
    return out;
}

void removeExcursionsOf(Study& study, const std::set<SpanId>& runs) {
    for (const Span& s : study.tracks().spansOf(track_kind::kExcursions))
        if (runs.contains(runOfSpan(s.facts))) study.tracks().removeSpan(s.id);
}

}  // namespace jacinth
