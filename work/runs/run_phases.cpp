#include "work/runs/run_phases.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/text.h"
#include "store/tracks.h"
#include "work/base/expression_over_time.h"
#include "work/base/whole_fact.h"

namespace jacinth {
namespace {

struct NamedCondition {
    std::string name, text;
};

/// Parts of a text between `;` or lines, and the name before the first `:`; neither inside quotes.
std::vector<NamedCondition> namedConditions(const std::string& text) {
    std::vector<NamedCondition> out{{}};
    char quote = 0;
    bool named = false;
    for (const char c : text) {
        if (quote != 0) {
            if (c == quote) quote = 0;
        } else if (c == '"' || c == '`') {
            quote = c;
        } else if (c == ';' || c == '\n') {
            out.emplace_back();
            named = false;
            continue;
        } else if (c == ':' && !named) {
            named = true;
            out.back().name = trimmed(out.back().text);
            out.back().text.clear();
            continue;
        }
        out.back().text += c;
    }
    for (NamedCondition& part : out) part.text = trimmed(part.text);
    std::erase_if(out, [](const NamedCondition& p) { return p.text.empty() && p.name.empty(); });
    return out;
}

struct NamedRange {
    TimeRange range;
    std::string name;
};

/// Where a state signal has which state, inside the record, in order.
std::vector<NamedRange> rangesOfStates(const Signal& s, TimeRange record) {
    std::vector<NamedRange> out;
    for (std::size_t i = 0; i < s.times.size(); ++i) {
        if (!std::isfinite(s.values[i])) continue;
        const Instant from = std::max(record.from, s.times[i]);
        const Instant to = i + 1 < s.times.size() ? std::min(record.to, s.times[i + 1]) : record.to;
        if (to <= from) continue;
        const auto code = static_cast<std::size_t>(s.values[i]);
        const std::string name = code < s.states.size() ? s.states[code] : fmt::format("state {}", code);
        if (!out.empty() && out.back().name == name)
            out.back().range.to = to;
        else
            out.push_back({{from, to}, name});
    }
    return out;
}

/// The stretches of one asset, over the whole record.
Result<std::vector<NamedRange>> rangesOf(Study& study, const Asset& asset, const NamedCondition& part,
                                         Which which) {
    const auto expression = compileExpression(part.text, namesIn(study, asset.id));
    if (!expression) return expression.error();
    const ValueType fits = part.name.empty() ? ValueType::State : ValueType::Condition;
    if (expression->type != fits)
        return Error{fmt::format(
            "this is a {}; {} would fit", typeName(expression->type),
            part.name.empty() ? "a state, or names with conditions like `Hot: @x > 80`," : "a condition")};
    const TimeRange record = study.record();
    const auto found = ExpressionOverTime(study, which).evaluate(asset.id, *expression, record);
    if (!found) return found.error();
    if (part.name.empty()) return rangesOfStates(std::get<Signal>(found->value), record);
    std::vector<NamedRange> out;
    for (const TimeRange& r : stretches(std::get<Condition>(found->value), record))
        out.push_back({r, part.name});
    return out;
}

/// All parts of an asset together: where an earlier part holds, later ones do not.
Result<std::vector<NamedRange>> allRanges(Study& study, const Asset& asset,
                                          const std::vector<NamedCondition>& parts, Which which) {
    std::vector<NamedRange> out;
    std::vector<TimeRange> taken;
    for (const NamedCondition& part : parts) {
        const auto ranges = rangesOf(study, asset, part, which);
        if (!ranges) return ranges.error();
        std::vector<TimeRange> kept;
        for (const NamedRange& r : *ranges)
            for (const TimeRange& left : subtract({r.range}, taken)) {
                out.push_back({left, r.name});
                kept.push_back(left);
            }
        taken.insert(taken.end(), kept.begin(), kept.end());
        taken = joined(std::move(taken));
    }
    std::sort(out.begin(), out.end(),
              [](const NamedRange& a, const NamedRange& b) { return a.range.from < b.range.from; });
    return out;
}

std::vector<RunPhase> phasesIn(const Span& run, const std::vector<NamedRange>& ranges) {
    std::vector<RunPhase> out;
    auto it = std::partition_point(ranges.begin(), ranges.end(),
                                   [&](const NamedRange& r) { return r.range.to <= run.start; });
    for (; it != ranges.end() && it->range.from < run.end; ++it)
        out.push_back({it->name, {std::max(run.start, it->range.from), std::min(run.end, it->range.to)}});
    if (!out.empty() && run.facts.contains("unfinished")) out.back().finished = false;
    return out;
}

}  // namespace

Result<PhasesOfRuns> findPhases(Study& study, const std::string& text, const std::vector<Span>& runs,
                                Which which) {
    const std::vector<NamedCondition> parts = namedConditions(text);
    if (parts.empty()) return Error{"say what the phases are: a state, or names with conditions"};
    if (parts.size() > 1)
        for (const NamedCondition& p : parts)
            if (p.name.empty())
                return Error{fmt::format("`{}` has no name; phases are written `Name: condition`", p.text)};
    PhasesOfRuns out;
    for (const Asset& asset : study.catalog().assets()) {
        const auto mine = [&](const Span& r) { return r.asset == asset.id; };
        if (std::none_of(runs.begin(), runs.end(), mine)) continue;
        const auto ranges = allRanges(study, asset, parts, which);
        if (!ranges) return ranges.error();
        for (const Span& run : runs)
            if (mine(run)) out[run.id] = phasesIn(run, *ranges);
    }
    return out;
}

std::string phasesSuggestedBy(const Study& study, const std::string& where) {
    std::set<std::string> found;
    if (trimmed(where).empty()) return {};
    const auto fleet = compileForFleet(study, where);
    if (!fleet) return {};
    for (const auto& [asset, expression] : fleet->byAsset)
        for (const std::string& role : expression.roles)
            if (const Tag* tag = study.catalog().tagInRole(asset.id, role);
                tag && tag->kind == TagKind::State)
                found.insert(role);
    return found.size() == 1 ? "@" + *found.begin() : "";
}

std::string phaseTrackOf(const std::string& runTrack) {
    return runTrack + " phases";
}

void putPhases(Study& study, const std::string& runTrack, const std::vector<Span>& runs,
               const PhasesOfRuns& phases) {
    if (phases.empty() && !study.tracks().named(phaseTrackOf(runTrack))) return;
    const TrackId track = study.tracks().put(phaseTrackOf(runTrack), track_kind::kPhases);
    study.tracks().clear(track);
    for (const Span& run : runs) {
        const auto found = phases.find(run.id);
        if (found == phases.end()) continue;
        for (const RunPhase& p : found->second) {
            Span span{{}, run.asset, {}, p.range.from, p.range.to, {}};
            span.facts["phase"] = p.name;
            setRunOfSpan(span.facts, run.id);
            if (!p.finished) span.facts["unfinished"] = std::string("yes");
            study.tracks().addSpan(track, span);
        }
    }
}

PhasesOfRuns phasesOf(const Study& study, TrackId runTrack) {
    PhasesOfRuns out;
    for (const Track& t : study.tracks().all()) {
        if (t.id != runTrack) continue;
        if (const auto phases = study.tracks().named(phaseTrackOf(t.name)))
            for (const Span& s : study.tracks().spans(phases->id))
                out[runOfSpan(s.facts)].push_back(
                    {factText(s.facts, "phase"), s.range(), !s.facts.contains("unfinished")});
    }
    return out;
}

}  // namespace jacinth
