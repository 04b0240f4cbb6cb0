#include "work/find_runs.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

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

Names namesAboutRuns(const Study& study, const Span& run, const std::vector<Span>& all) {
    Names names = namesIn(study, run.asset);
    names.aboutSpan = true;
    names.facts["duration"] = ValueType::DurationValue;
    for (const Span& s : all)
        for (const auto& [name, fact] : s.facts)
            names.facts[name] = std::holds_alternative<double>(fact) ? ValueType::Number : ValueType::Text;
    return names;
}

}  // namespace

Result<std::vector<Span>> findRuns(Study& study, const RunSearch& search, Which which) {
    const auto fleet = compileForFleet(study, search.where, search.asset);
    if (!fleet) return fleet.error();
    const TimeRange record = study.record();
    const std::vector<Span> batches = study.spansOf(track_kind::kBatches);
    std::vector<Span> out;
    for (const auto& [asset, expression] : fleet->byAsset) {
        if (expression.type != ValueType::Condition)
            return Error{fmt::format("this is a {}; a condition that is true while a run lasts would fit",
                                     typeName(expression.type)),
                         1};
        StudyInputs inputs(study, asset.id, record, expression.lookBack, which);
        const auto value = evaluate(expression, inputs, record);
        if (!value) return value.error();
        int number = 0;
        for (const TimeRange& r : joined(stretches(std::get<Condition>(*value), record), search.join)) {
            if (r.length() < search.least || r.length() > search.most) continue;
            Span run{0, asset.id, 0, r.from, r.to, {}};
            run.facts["number"] = static_cast<double>(++number);
            addBatchFacts(batches, run);
            if (r.to >= record.to) run.facts["unfinished"] = std::string("yes");
            out.push_back(std::move(run));
        }
    }
    return out;
}

std::int64_t keepRuns(Study& study, const std::string& trackName, const RunSearch& search,
                      const std::vector<Span>& runs) {
    const nlohmann::json definition{
        {"where", search.where}, {"least", search.least}, {"most", search.most}, {"join", search.join}};
    std::int64_t track = 0;
    study.change(fmt::format("runs on {}", trackName), "", definition, [&] {
        track = study.putTrack(trackName, track_kind::kRuns, definition.dump());
        std::vector<Span> before = study.spans(track);
        for (const Span& run : runs) {
            const auto same = std::find_if(before.begin(), before.end(), [&](const Span& s) {
                return s.asset == run.asset && s.start == run.start && s.end == run.end;
            });
            if (same == before.end()) {
                study.addSpan(track, run);
                continue;
            }
            Span kept = run;
            kept.id = same->id;
            if (kept.facts != same->facts) study.updateSpan(kept);
            before.erase(same);
        }
        for (const Span& gone : before) study.removeSpan(gone.id);
    });
    return track;
}

Result<std::vector<std::int64_t>> runsWhere(Study& study, std::int64_t track, const std::string& where,
                                            Which which) {
    const std::vector<Span> runs = study.spans(track);
    std::vector<std::int64_t> out;
    for (const Span& run : runs) {
        const auto expression = compileExpression(where, namesAboutRuns(study, run, runs));
        if (!expression) return expression.error();
        if (expression->type != ValueType::Condition)
            return Error{
                fmt::format("this is a {}; a condition about a run would fit", typeName(expression->type)),
                1};
        StudyInputs inputs(study, run.asset, run.range(), expression->lookBack, which);
        const auto value = evaluateAbout(run, *expression, inputs);
        if (!value) return value.error();
        const Truth* truth = std::get_if<Truth>(&*value);
        if (truth && *truth == Truth::True) out.push_back(run.id);
    }
    return out;
}

}  // namespace jacinth
