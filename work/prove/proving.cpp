#include "work/prove/proving.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "store/judgement.h"
#include "store/tracks.h"
#include "work/base/expression_over_time.h"

namespace jacinth {
namespace {

/// Outages after failures: from the failure to the end of the stop that belongs to it.
std::vector<TimeRange> outages(const std::vector<Instant>& failures, const std::vector<Span>& stops,
                               AssetId asset) {
    std::vector<TimeRange> out;
    for (const Instant failure : failures)
        for (const Span& s : stops)
            if (s.asset == asset && s.start <= failure + kHour && s.end > failure)
                out.push_back({failure, s.end});
    return out;
}

Result<std::vector<Span>> spansOfTracks(const Study& study, const std::vector<std::string>& names,
                                        const char* otherwise) {
    if (names.empty()) return study.tracks().spansOf(otherwise);
    std::vector<Span> out;
    for (const std::string& name : names) {
        const auto track = study.tracks().named(name);
        if (!track) {
            std::vector<std::string> known;
            for (const Track& t : study.tracks().all()) known.push_back(t.name);
            const std::string near = nearestName(name, known);
            return Error{fmt::format("`{}` is not a track of this study{}", name,
                                     near.empty() ? "" : fmt::format("; nearest is `{}`", near))};
        }
        const auto spans = study.tracks().spans(track->id);
        out.insert(out.end(), spans.begin(), spans.end());
    }
    return out;
}

/// Why the rule does not cover an asset.
std::string reasonFor(const FleetExpression& fleet, AssetId asset) {
    for (const auto& [other, why] : fleet.without)
        if (other.id == asset) return "not covered by the rule: " + why;
    return asset ? "not covered by the rule" : "of no asset";
}

struct RuleOnAsset {
    std::vector<TimeRange> where, covered;
};

Result<RuleOnAsset> evaluateRule(ExpressionOverTime& evaluator, TimeRange record, const Asset& asset,
                                 const Expression& expression, const Progress& progress) {
    if (expression.type != ValueType::Condition)
        return Error{
            fmt::format("this is a {}; a rule is a condition, like `… > 3`", typeName(expression.type)), 1};
    auto rule = evaluator.evaluate(asset.id, expression, record, progress);
    if (!rule) return rule.error();
    return RuleOnAsset{stretches(std::get<Condition>(rule->value), record), std::move(rule->covered)};
}

}  // namespace

Result<Proof> proveRule(Study& study, const ProveRequest& request, const Progress& progress) {
    if (request.spec.least > request.spec.most) return Error{"the least warning is longer than the most"};
    const auto fleet = compileForFleet(study, request.rule, request.asset);
    if (!fleet) return fleet.error();
    const auto failures = spansOfTracks(
        study,
        request.failuresTrack.empty() ? std::vector<std::string>{} : std::vector{request.failuresTrack},
        track_kind::kFailures);
    if (!failures) return failures.error();
    const auto masks = spansOfTracks(study, request.masks, track_kind::kStops);
    if (!masks) return masks.error();
    const std::vector<Span> stops = study.tracks().spansOf(track_kind::kStops);
    std::vector<UncoveredFailure> uncovered;
    for (const Span& f : *failures) {
        const Asset* asset = study.catalog().asset(f.asset);
        const bool covers = std::any_of(fleet->byAsset.begin(), fleet->byAsset.end(),
                                        [&](const auto& on) { return on.first.id == f.asset; });
        const bool asked = request.asset.empty() || (asset && asset->name == request.asset);
        if (!covers && asked) uncovered.push_back({f.asset, f.start, reasonFor(*fleet, f.asset)});
    }
    std::vector<AssetCase> cases;
    const TimeRange record = study.record();
    ExpressionOverTime evaluator(study, request.which);
    for (const auto& [asset, expression] : fleet->byAsset) {
        const double n = static_cast<double>(cases.size()), all = static_cast<double>(fleet->byAsset.size());
        auto rule = evaluateRule(evaluator, record, asset, expression, progress.part(n / all, (n + 1) / all));
        if (!rule) return rule.error();
        AssetCase c{asset.id, std::move(rule->where), {}, {}, std::move(rule->covered), record.to};
        for (const Span& f : *failures)
            if (f.asset == asset.id) c.failures.push_back(f.start);
        for (const Span& m : *masks)
            if (m.asset == asset.id) c.notCounted.push_back(m.range());
        for (const TimeRange& r : outages(c.failures, stops, asset.id)) c.notCounted.push_back(r);
        cases.push_back(std::move(c));
    }
    return prove(cases, request.spec, uncovered);
}

void keepRule(Study& study, const Rule& rule) {
    study.change("rule " + rule.name, "", {{"text", rule.text}}, [&] { study.judgement().putRule(rule); });
}

Result<RuleReach> ruleReach(Study& study, const std::string& rule, Which which) {
    const auto fleet = compileForFleet(study, rule);
    if (!fleet) return fleet.error();
    RuleReach out;
    Duration where{}, covered{};
    const TimeRange record = study.record();
    ExpressionOverTime evaluator(study, which);
    for (const auto& [asset, expression] : fleet->byAsset) {
        auto on = evaluateRule(evaluator, record, asset, expression, {});
        if (!on) return on.error();
        where += totalLength(on->where);
        covered += totalLength(on->covered);
        out.trueStretches[asset.id] = std::move(on->where);
    }
    out.shareTrue = covered > Duration::zero() ? toNanoseconds(where) / toNanoseconds(covered) : 0;
    return out;
}

}  // namespace jacinth
