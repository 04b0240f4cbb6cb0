#include "work/find_runs.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <tuple>

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
void addRun(FoundRuns& out, std::int64_t asset, TimeRange r, const RunSearch& search, TimeRange record,
            const std::vector<Span>& batches, int& number) {
    if (r.length() < search.least || r.length() > search.most) return;
    const bool unfinished = r.to >= record.to;
    r.from += search.trimStart;
    if (!unfinished) r.to -= search.trimEnd;
    if (r.to <= r.from) return;
    Span run{static_cast<std::int64_t>(out.runs.size()) + 1, asset, 0, r.from, r.to, {}};
    addBatchFacts(batches, run);
    run.facts["number"] = static_cast<double>(++number);
    if (unfinished) run.facts["unfinished"] = std::string("yes");
    out.runs.push_back(std::move(run));
}

Status findByCondition(Study& study, const RunSearch& search, Which which, FoundRuns& out) {
    const auto fleet = compileForFleet(study, search.where, search.asset);
    if (!fleet) return fleet.error();
    const TimeRange record = study.record();
    const std::vector<Span> batches = study.spansOf(track_kind::kBatches);
    for (const auto& [asset, expression] : fleet->byAsset) {
        if (expression.type != ValueType::Condition)
            return Error{fmt::format("this is a {}; a condition that is true while a run lasts would fit",
                                     typeName(expression.type)),
                         1};
        StudyInputs inputs(study, asset.id, record, expression.lookBack, which);
        const auto value = evaluate(expression, inputs, record);
        if (!value) return value.error();
        int number = 0;
        for (const TimeRange& r : joined(stretches(std::get<Condition>(*value), record), search.join))
            addRun(out, asset.id, r, search, record, batches, number);
    }
    return Done{};
}

Status findInList(Study& study, const RunSearch& search, FoundRuns& out) {
    const auto list = study.trackNamed(search.list);
    if (!list) return Error{fmt::format("there is no list `{}`", search.list)};
    const TimeRange record = study.record();
    for (const Asset& asset : study.catalog().assets()) {
        if (!search.asset.empty() && asset.name != search.asset) continue;
        int number = 0;
        for (const Span& s : study.spans(list->id)) {
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

Names namesAboutRuns(const Study& study, std::int64_t asset, const std::vector<Span>& all) {
    Names names = namesIn(study, asset);
    names.aboutSpan = true;
    names.facts["duration"] = ValueType::DurationValue;
    for (const Span& s : all)
        for (const auto& [name, fact] : s.facts)
            names.facts[name] = std::holds_alternative<double>(fact) ? ValueType::Number : ValueType::Text;
    return names;
}

Result<FoundRuns> findRuns(Study& study, const RunSearch& search, Which which) {
    FoundRuns out;
    const Status found =
        search.list.empty() ? findByCondition(study, search, which, out) : findInList(study, search, out);
    if (!found) return found.error();
    if (const Status phases = addPhases(study, search, which, out); !phases) return phases.error();
    return out;
}

std::int64_t keepRuns(Study& study, const std::string& trackName, const RunSearch& search,
                      const FoundRuns& found) {
    nlohmann::json definition = nlohmann::json::object();
    if (const auto known = study.trackNamed(trackName))
        definition = nlohmann::json::parse(known->definition, nullptr, false);
    if (!definition.is_object()) definition = nlohmann::json::object();
    definition.update({{"where", search.where},
                       {"least", search.least},
                       {"most", search.most},
                       {"join", search.join},
                       {"trimStart", search.trimStart},
                       {"trimEnd", search.trimEnd},
                       {"phases", search.phases},
                       {"list", search.list}});
    std::int64_t track = 0;
    study.change(fmt::format("runs on {}", trackName), "", definition, [&] {
        track = study.putTrack(trackName, track_kind::kRuns, definition.dump());
        std::map<std::tuple<std::int64_t, Instant, Instant>, Span> before;
        for (const Span& s : study.spans(track)) before[{s.asset, s.start, s.end}] = s;
        std::vector<Span> kept;
        PhasesOfRuns phases;
        for (const Span& run : found.runs) {
            kept.push_back(run);
            const auto same = before.find({run.asset, run.start, run.end});
            if (same == before.end()) {
                kept.back().id = study.addSpan(track, run);
            } else {
                kept.back().id = same->second.id;
                if (run.facts != same->second.facts) study.updateSpan(kept.back());
                before.erase(same);
            }
            if (const auto p = found.phases.find(run.id); p != found.phases.end())
                phases[kept.back().id] = p->second;
        }
        for (const auto& [where, gone] : before) study.removeSpan(gone.id);
        putPhases(study, trackName, kept, phases);
    });
    return track;
}

RunSearch searchOf(const Track& track) {
    RunSearch out;
    const auto d = nlohmann::json::parse(track.definition, nullptr, false);
    if (!d.is_object()) return out;
    out.where = d.value("where", "");
    out.least = d.value("least", out.least);
    out.most = d.value("most", out.most);
    out.join = d.value("join", out.join);
    out.trimStart = d.value("trimStart", out.trimStart);
    out.trimEnd = d.value("trimEnd", out.trimEnd);
    out.phases = d.value("phases", "");
    out.list = d.value("list", "");
    return out;
}

Result<std::vector<std::int64_t>> runsWhere(Study& study, std::int64_t track, const std::string& where,
                                            Which which, std::int64_t only) {
    const std::vector<Span> runs = study.spans(track);
    std::map<std::int64_t, Expression> byAsset;
    std::vector<std::int64_t> out;
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
        const auto value = evaluateAbout(run, known->second, inputs);
        if (!value) return value.error();
        const Truth* truth = std::get_if<Truth>(&*value);
        if (truth && *truth == Truth::True) out.push_back(run.id);
    }
    return out;
}

}  // namespace jacinth
