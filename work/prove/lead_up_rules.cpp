#include "work/prove/lead_up_rules.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "core/expr/ast.h"
#include "core/prove/lead_up.h"
#include "core/stats/stats.h"
#include "work/base/expression_over_time.h"
#include "work/prove/searching.h"

namespace jacinth {
namespace {

struct Measure {
    const char* name;
    const char* function;
    bool againstWeek;
};
constexpr std::array<Measure, 8> kMeasures{{{"slope", "slope", false},
                                            {"mean", "mean", false},
                                            {"spread", "sd", false},
                                            {"level", "median", false},
                                            {"slope, against its week", "slope", true},
                                            {"mean, against its week", "mean", true},
                                            {"spread, against its week", "sd", true},
                                            {"level, against its week", "median", true}}};
constexpr int kLimits = 41;

std::string expressionOf(const Measure& m, const LeadUpPart& part) {
    const std::string over = durationWord(part.from - part.to);
    const std::string tag =
        part.name.find('/') == std::string::npos ? "@" + part.name : quotedPath(part.name);
    std::string out = fmt::format("{}({} over {})", m.function, tag, over);
    if (m.againstWeek) out += fmt::format(" - {}({} over 7d)", m.function, tag);
    return out;
}

/// What the expression gives at the end of the part of each stretch; NaN where it gives nothing.
Result<std::vector<double>> valuesAt(ExpressionOverTime& evaluator, const FleetExpression& fleet,
                                     const std::vector<LeadUpStretch>& stretches, Duration before,
                                     const Progress& progress) {
    std::vector<double> out;
    for (const LeadUpStretch& s : stretches) {
        if (progress.stopped(0)) return Error::cancelled();
        const auto on = std::find_if(fleet.byAsset.begin(), fleet.byAsset.end(),
                                     [&](const auto& one) { return one.first.id == s.asset; });
        out.push_back(std::nan(""));
        if (on == fleet.byAsset.end()) continue;
        const Instant t = s.zero - before;
        auto value = evaluator.evaluate(s.asset, on->second, {t, t + kSecond}, progress);
        if (!value) return value.error();
        if (const auto* signal = std::get_if<Signal>(&value->value)) out.back() = signalAt(*signal, t);
    }
    return out;
}

std::vector<double> finite(std::vector<double> values) {
    std::erase_if(values, [](double v) { return !std::isfinite(v); });
    return values;
}

/// A search over the limit alone, from the least to the greatest that was measured; what is moved at random
/// is another question.
Result<Searched> searchLimit(Study& study, const ProveRequest& terms, const LeadUpRule& rule, double low,
                             double high, const Progress& progress) {
    SearchRequest request;
    request.prove = terms;
    request.prove.rule = rule.text;
    request.prove.settings.clear();
    request.vary = {{"limit", low, high, kLimits}};
    request.leaveOut.clear();
    request.shuffles = 0;
    return searchRule(study, request, progress);
}

/// With the place half way as the first limit; the best is the nearest to it among equals.
void takeLimits(LeadUpRule& rule, const Searched& found) {
    const SearchResult& r = found.result;
    std::size_t middle = 0;
    const auto away = [&](std::size_t i) { return std::abs(found.settings[i].at("limit") - rule.limit); };
    for (std::size_t i = 0; i < found.settings.size(); ++i)
        if (away(i) < away(middle)) middle = i;
    rule.limit = found.settings[middle].at("limit");
    rule.tally = r.tallies[middle];
    const bool allowed = std::isfinite(r.scores[r.best]);  // else the one half way stays
    std::size_t best = allowed ? r.best : middle;
    for (std::size_t i = 0; i < found.settings.size(); ++i)
        if (allowed && r.scores[i] == r.scores[best] &&
            r.tallies[i].falseAlarms == r.tallies[best].falseAlarms && away(i) < away(best))
            best = i;
    rule.bestLimit = found.settings[best].at("limit");
    rule.bestTally = r.tallies[best];
}

/// None where it measures too little.
Result<std::optional<LeadUpRule>> ruleFor(Study& study, const ProveRequest& terms, const LeadUpPart& part,
                                          const Measure& measure, const Progress& progress) {
    const std::string text = expressionOf(measure, part);
    const auto fleet = compileRule(study, text, terms.failures);
    if (!fleet) return fleet.error();
    ExpressionOverTime evaluator(study, terms.which);
    const auto at = valuesAt(evaluator, *fleet, part.failures, part.to, progress);
    if (!at) return at.error();
    const auto elsewhere = valuesAt(evaluator, *fleet, part.quiet, part.to, progress);
    if (!elsewhere) return elsewhere.error();
    LeadUpRule out;
    out.measure = measure.name;
    out.atFailures = *at;
    out.elsewhere = *elsewhere;
    std::vector<double> there = finite(*at), rest = finite(*elsewhere), all = there;
    if (there.size() < 2) return std::optional<LeadUpRule>();
    all.insert(all.end(), rest.begin(), rest.end());
    const auto [low, high] = std::minmax_element(all.begin(), all.end());
    if (!(*low < *high)) return std::optional<LeadUpRule>();
    const double middle = median(there), usual = rest.empty() ? *low : median(rest);
    out.middleAtFailures = middle;
    out.middleElsewhere = rest.empty() ? std::nan("") : usual;
    out.text = text + (middle >= usual ? " > {limit}" : " < {limit}");
    out.limit = (middle + usual) / 2;
    const auto found = searchLimit(study, terms, out, *low, *high, progress);
    if (!found) return found.error();
    takeLimits(out, *found);
    return std::optional<LeadUpRule>(std::move(out));
}

}  // namespace

std::vector<LeadUpStretch> spreadOver(std::vector<LeadUpStretch> all, std::size_t most) {
    if (all.size() <= most) return all;
    std::vector<LeadUpStretch> out;
    for (std::size_t i = 0; i < most; ++i) out.push_back(all[i * (all.size() - 1) / (most - 1)]);
    return out;
}

std::vector<LeadUpStretch> quietStretches(TimeRange record, const std::vector<LeadUpStretch>& failures,
                                          Duration before, Duration after, unsigned seed) {
    std::map<AssetId, std::vector<Instant>> byAsset;
    for (const LeadUpStretch& f : failures) byAsset[f.asset].push_back(f.zero);
    std::vector<LeadUpStretch> out;
    for (const auto& [asset, moments] : byAsset)
        for (const Instant t : quietMoments(moments, record, before, after, moments.size(),
                                            seed + static_cast<unsigned>(asset.number)))
            out.push_back({asset, t});
    return out;
}

Result<std::vector<LeadUpRule>> rulesFromPart(Study& study, const ProveRequest& terms, const LeadUpPart& part,
                                              const Progress& progress,
                                              const std::function<void(const LeadUpRule&)>& each) {
    if (part.to < Duration::zero() || part.from <= part.to) return Error{"the part has no length"};
    std::vector<LeadUpRule> out;
    for (std::size_t i = 0; i < kMeasures.size(); ++i) {
        const double n = static_cast<double>(kMeasures.size());
        auto rule = ruleFor(study, terms, part, kMeasures[i],
                            progress.part(static_cast<double>(i) / n, static_cast<double>(i + 1) / n));
        if (!rule) return rule.error();
        if (!*rule) continue;
        if (each) each(**rule);
        out.push_back(std::move(**rule));
    }
    return out;
}

}  // namespace jacinth
