#include "work/prove/proving.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "store/judgement.h"
#include "store/tracks.h"
#include "work/base/expression_over_time.h"
#include "work/label/labels.h"
#include "work/prove/kept_figures.h"

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

Result<Track> trackNamed(const Study& study, const std::string& name) {
    if (const auto track = study.tracks().named(name)) return *track;
    std::vector<std::string> known;
    for (const Track& t : study.tracks().all()) known.push_back(t.name);
    return Error{fmt::format("`{}` is not a track of this study{}", name, sayNearest(name, known))};
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

RuleOnAsset ruleOnAsset(const Value& rule, std::vector<TimeRange> covered, TimeRange record) {
    return {stretches(std::get<Condition>(rule), record), std::move(covered)};
}

/// On every asset of the fleet.
Result<std::vector<RuleOnAsset>> evaluateOnFleet(Study& study, const FleetExpression& fleet, Which which,
                                                 KeptFigures* kept, const Progress& progress) {
    std::vector<RuleOnAsset> out;
    for (const auto& [asset, expression] : fleet.byAsset)
        if (const Status good = checkIsCondition(expression); !good) return good.error();
    const TimeRange record = study.record();
    if (kept) {
        auto all = kept->evaluate(study, fleet, which, progress);
        if (!all) return all.error();
        if (*all) {
            for (ValueOverTime& rule : **all)
                out.push_back(ruleOnAsset(rule.value, std::move(rule.covered), record));
            return out;
        }
    }
    std::vector<OnAsset> assets;
    for (const auto& [asset, expression] : fleet.byAsset) assets.push_back({asset.id, {&expression, 1}});
    const auto take = [&](std::size_t, ValuesOverTime rule) {
        out.push_back(ruleOnAsset(rule.values.front(), std::move(rule.covered), record));
    };
    if (const Status done = ExpressionOverTime(study, which).evaluateEach(assets, record, take, progress);
        !done)
        return done.error();
    return out;
}

/// Where a condition is true, on the assets that it can be about.
Status addMaskWhere(Study& study, const std::string& condition, Which which, ProveCases& cases,
                    const Progress& progress) {
    std::vector<AssetId> asked;
    for (const AssetCase& c : cases.assets) asked.push_back(c.asset);
    auto fleet = compileForFleet(study, condition, {}, asked);
    if (!fleet) return fleet.error();
    std::erase_if(fleet->byAsset, [&](const auto& on) {
        return std::none_of(cases.assets.begin(), cases.assets.end(),
                            [&](const AssetCase& c) { return c.asset == on.first.id; });
    });
    const auto where = evaluateOnFleet(study, *fleet, which, nullptr, progress);
    if (!where) return where.error();
    for (std::size_t i = 0; i < where->size(); ++i)
        for (AssetCase& c : cases.assets)
            if (c.asset == fleet->byAsset[i].first.id)
                c.notCounted.insert(c.notCounted.end(), (*where)[i].where.begin(), (*where)[i].where.end());
    return Done{};
}

/// What names no tag and compares nothing is meant as a track.
bool isCondition(const std::string& mask) {
    return mask.find_first_of("@`<>=(") != std::string::npos;
}

void addMask(const std::vector<Span>& spans, ProveCases& cases) {
    for (AssetCase& c : cases.assets)
        for (const Span& m : spans)
            if (m.asset == c.asset) c.notCounted.push_back(m.range());
}

Status addMasks(Study& study, const ProveRequest& request, ProveCases& cases, const Progress& progress) {
    if (request.masks.empty()) addMask(study.tracks().spansOf(track_kind::kStops), cases);
    for (const std::string& mask : request.masks) {
        const auto track = trackNamed(study, mask);
        if (track) {
            addMask(study.tracks().spans(track->id), cases);
            continue;
        }
        if (!isCondition(mask)) return track.error();
        if (const Status good = addMaskWhere(study, mask, request.which, cases, progress); !good) return good;
    }
    return Done{};
}

/// Labels that say what an alarm was.
void addLookedAt(const Study& study, ProveCases& cases) {
    const std::vector<Span> labels = labelsOf(study);
    for (AssetCase& c : cases.assets)
        for (const Span& label : labels) {
            if (label.asset != c.asset) continue;
            const std::string kind = factText(label.facts, label_fact::kKind);
            if (kind == kNearMiss) c.nearMisses.push_back(label.range());
            if (kind == kTrueAfterAll) c.trueAfterAll.push_back(label.range());
        }
}

std::string whyNotCounted(const Span& failure) {
    const std::string why = factText(failure.facts, kNotCountedWhy);
    return why.empty() ? "not counted" : "not counted: " + why;
}

}  // namespace

Status checkIsCondition(const Expression& expression) {
    if (expression.type == ValueType::Condition) return Done{};
    return Error{fmt::format("this is a {}; a rule is a condition, like `… > 3`", typeName(expression.type)),
                 1};
}

Status checkMask(const Study& study, const std::string& mask) {
    const auto track = trackNamed(study, mask);
    if (track) return Done{};
    if (!isCondition(mask)) return track.error();
    const auto fleet = compileForFleet(study, mask);
    if (!fleet) return fleet.error();
    if (fleet->byAsset.front().second.type == ValueType::Condition) return Done{};
    return Error{
        fmt::format("`{}` is a {}, not a condition", mask, typeName(fleet->byAsset.front().second.type))};
}

bool isCounted(const Span& failure) {
    return factText(failure.facts, kCounted) != "no";
}

std::vector<std::string> failureKinds(const Study& study) {
    std::set<std::string> kinds;
    for (const Span& f : study.tracks().spansOf(track_kind::kFailures))
        if (const std::string kind = factText(f.facts, kFailureKind); !kind.empty()) kinds.insert(kind);
    return {kinds.begin(), kinds.end()};
}

Result<std::vector<Span>> failuresOf(const Study& study, const std::string& kindOrTrack) {
    std::vector<Span> all = study.tracks().spansOf(track_kind::kFailures);
    if (kindOrTrack.empty()) return all;
    if (const auto track = study.tracks().named(kindOrTrack)) return study.tracks().spans(track->id);
    std::vector<std::string> known = failureKinds(study);
    if (std::find(known.begin(), known.end(), kindOrTrack) != known.end()) {
        std::erase_if(all, [&](const Span& f) { return factText(f.facts, kFailureKind) != kindOrTrack; });
        return all;
    }
    for (const Track& t : study.tracks().all()) known.push_back(t.name);
    return Error{fmt::format("`{}` is neither a kind of failure nor a track of this study{}", kindOrTrack,
                             sayNearest(kindOrTrack, known))};
}

std::vector<AssetId> assetsWithFailures(const Study& study, const std::string& kindOrTrack) {
    const auto failures = failuresOf(study, kindOrTrack);
    if (!failures) return {};
    std::set<std::string> kinds;
    for (const Span& f : *failures)
        if (const Asset* asset = study.catalog().asset(f.asset)) kinds.insert(asset->kind);
    std::vector<AssetId> out;
    for (const Asset& asset : study.catalog().assets())
        if (kinds.contains(asset.kind)) out.push_back(asset.id);
    return out;
}

std::string whyNoneIsAboutFailures(const Study& study, const FleetExpression& fleet,
                                   const std::string& kindOrTrack) {
    const std::vector<AssetId> asked = assetsWithFailures(study, kindOrTrack);
    const auto isAsked = [&](const auto& on) {
        return std::find(asked.begin(), asked.end(), on.first.id) != asked.end();
    };
    if (asked.empty() || std::any_of(fleet.byAsset.begin(), fleet.byAsset.end(), isAsked)) return {};
    const auto without = std::find_if(fleet.without.begin(), fleet.without.end(), isAsked);
    return without == fleet.without.end() ? "it is about other assets" : without->second;
}

Result<FleetExpression> compileRule(const Study& study, const std::string& text, const std::string& failures,
                                    const std::string& onlyAsset) {
    return compileForFleet(study, text, onlyAsset, assetsWithFailures(study, failures));
}

Result<ProveCases> casesFor(Study& study, const ProveRequest& request, const FleetExpression& fleet,
                            const Progress& progress) {
    if (request.spec.least > request.spec.most) return Error{"the least warning is longer than the most"};
    const auto failures = failuresOf(study, request.failures);
    if (!failures) return failures.error();
    ProveCases out;
    for (const Span& f : *failures) {
        const Asset* asset = study.catalog().asset(f.asset);
        const bool covers = std::any_of(fleet.byAsset.begin(), fleet.byAsset.end(),
                                        [&](const auto& on) { return on.first.id == f.asset; });
        const bool asked = request.asset.empty() || (asset && asset->name == request.asset);
        if (!asked || (covers && isCounted(f))) continue;
        out.uncovered.push_back({f.asset, f.start, covers ? whyNotCounted(f) : reasonFor(fleet, f.asset)});
    }
    const std::vector<Span> stops = study.tracks().spansOf(track_kind::kStops);
    const Instant recordEnd = study.record().to;  // looks at every tag
    for (const auto& on : fleet.byAsset) {
        AssetCase& c = out.assets.emplace_back();
        c.asset = on.first.id;
        c.recordEnd = recordEnd;
        std::vector<Instant> all;  // the time after one that is not counted does not count either
        for (const Span& f : *failures) {
            if (f.asset != c.asset) continue;
            all.push_back(f.start);
            if (isCounted(f)) c.failures.push_back(f.start);
        }
        c.notCounted = outages(all, stops, c.asset);
    }
    addLookedAt(study, out);
    if (const Status good = addMasks(study, request, out, progress); !good) return good.error();
    return out;
}

Result<Proof> proveRule(Study& study, const ProveRequest& request, const Progress& progress,
                        KeptFigures* kept) {
    const auto text = withSettings(request.rule, request.settings);
    if (!text) return text.error();
    const auto fleet = compileRule(study, *text, request.failures, request.asset);
    if (!fleet) return fleet.error();
    auto cases = casesFor(study, request, *fleet, progress.part(0, 0.1));
    if (!cases) return cases.error();
    auto rules = evaluateOnFleet(study, *fleet, request.which, kept, progress.part(0.1, 1));
    if (!rules) return rules.error();
    for (std::size_t i = 0; i < rules->size(); ++i) {
        cases->assets[i].alarms = std::move((*rules)[i].where);
        cases->assets[i].covered = std::move((*rules)[i].covered);
    }
    return prove(cases->assets, request.spec, cases->uncovered);
}

std::string warningWords(Duration warning, Duration most) {
    // It began before the time that counts, and nobody looked further back.
    return (most > Duration::zero() && warning >= most ? "at least " : "") + sayDuration(warning);
}

}  // namespace jacinth
