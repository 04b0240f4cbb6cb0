#include "work/prove/searching.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "work/base/expression_over_time.h"

namespace jacinth {
namespace {

/// Every setting of the grid, with the numbers that stay.
Result<std::vector<Settings>> allSettings(const SearchRequest& request) {
    for (const Vary& v : request.vary)
        if (request.prove.settings.contains(v.name))
            return Error{fmt::format("{{{}}} is both given and varied", v.name)};
    auto grid = gridOf(request.vary);
    if (!grid) return grid.error();
    if (grid->empty()) return Error{"say which setting to vary, from where to where"};
    for (Settings& s : *grid) s.insert(request.prove.settings.begin(), request.prove.settings.end());
    return grid;
}

/// The rule with each of the settings, for each asset.
struct Compiled {
    FleetExpression fleet;                         ///< of the first
    std::vector<std::vector<Expression>> byAsset;  ///< then by setting
};

Result<Compiled> compileAll(const Study& study, const ProveRequest& request,
                            const std::vector<Settings>& settings) {
    Compiled out;
    const FleetNames names(study, request.asset, assetsWithFailures(study, request.failures));
    for (std::size_t s = 0; s < settings.size(); ++s) {
        const auto text = withSettings(request.rule, settings[s]);
        if (!text) return text.error();
        auto fleet = names.compile(*text);
        if (!fleet) return fleet.error();
        if (s == 0) out.byAsset.resize(fleet->byAsset.size());
        for (std::size_t a = 0; a < out.byAsset.size(); ++a) {
            const Expression& e = fleet->byAsset[a].second;
            if (const Status good = checkIsCondition(e); !good) return good.error();
            out.byAsset[a].push_back(e);
        }
        if (s == 0) out.fleet = std::move(*fleet);
    }
    return out;
}

/// For these settings of the grid. `soFar` gets it after each asset, with how many of them are in it.
Result<SearchCase> caseFor(Study& study, const SearchRequest& request, const std::vector<Settings>& settings,
                           const Progress& progress,
                           const std::function<void(const SearchCase&, std::size_t)>& soFar = {}) {
    const auto compiled = compileAll(study, request.prove, settings);
    if (!compiled) return compiled.error();
    auto cases = casesFor(study, request.prove, compiled->fleet, progress.part(0, 0.1));
    if (!cases) return cases.error();
    SearchCase out{request.vary, std::move(cases->assets),
                   {},           request.prove.spec,
                   request.aim,  static_cast<int>(cases->uncovered.size())};
    out.alarms.assign(settings.size(), std::vector<std::vector<TimeRange>>(out.assets.size()));
    const TimeRange record = study.record();
    std::vector<OnAsset> assets;
    for (std::size_t a = 0; a < out.assets.size(); ++a)
        assets.push_back({out.assets[a].asset, compiled->byAsset[a]});
    const auto take = [&](std::size_t a, ValuesOverTime found) {
        out.assets[a].covered = std::move(found.covered);
        for (std::size_t s = 0; s < settings.size(); ++s)
            out.alarms[s][a] = stretches(std::get<Condition>(found.values[s]), record);
        if (soFar) soFar(out, a + 1);
    };
    ExpressionOverTime evaluator(study, request.prove.which);
    const Status done = evaluator.evaluateEach(assets, record, take, progress.part(0.1, 1));
    if (!done) return done.error();
    return out;
}

}  // namespace

Result<SearchCase> searchCase(Study& study, const SearchRequest& request, const Progress& progress) {
    const auto settings = allSettings(request);
    if (!settings) return settings.error();
    return caseFor(study, request, *settings, progress);
}

namespace {

std::vector<std::string> atEndsOf(const std::vector<Vary>& vary, const Settings& best) {
    std::vector<std::string> out;
    for (const Vary& v : vary)
        if (const auto at = best.find(v.name);
            at != best.end() && (at->second <= v.low || at->second >= v.high))
            out.push_back(fmt::format("{} = {:.6g}", v.name, at->second));
    return out;
}

}  // namespace

Result<Searched> searchRule(Study& study, const SearchRequest& request, const Progress& progress,
                            const std::function<void(const Searched&)>& soFar) {
    auto settings = allSettings(request);
    if (!settings) return settings.error();
    Searched out;
    out.settings = std::move(*settings);
    const auto judge = [&](const SearchCase& of, std::size_t assets) {
        auto found = searchOnFirst(assets, of);
        if (!found) return;
        out.result = std::move(*found);
        out.onAssets = assets;
        out.ofAssets = of.assets.size();
        soFar(out);
    };
    const auto of = caseFor(study, request, out.settings, progress.part(0, 0.7),
                            soFar ? judge : std::function<void(const SearchCase&, std::size_t)>{});
    if (!of) return of.error();
    if (out.onAssets < of->assets.size() || of->assets.empty()) {
        auto found = search(*of, progress.part(0.7, 0.75));
        if (!found) return found.error();
        out.result = std::move(*found);
        out.onAssets = out.ofAssets = of->assets.size();
    }
    out.atEnds = atEndsOf(request.vary, out.settings[out.result.best]);
    if (!out.isAllowed()) {
        out.atEnds.clear();
        out.verdict = whyNoneAllowed(out.result.tallies[out.result.best]);
        return out;
    }
    for (const LeaveOut by : request.leaveOut) {
        auto left = leaveOut(*of, by, progress.part(0.75, 0.85));
        if (!left) return left.error();
        out.leftOut.push_back(std::move(*left));
    }
    if (request.shuffles <= 0) return out;
    auto tries = shuffled(*of, out.result.scores[out.result.best], request.shuffles, request.seed,
                          progress.part(0.85, 1));
    if (!tries) return tries.error();
    out.shuffled = *tries;
    out.verdict = verdictSentence(out.shuffled, out.leftOut.empty() ? LeftOut{} : out.leftOut.front(),
                                  out.result.tallies[out.result.best]);
    return out;
}

std::optional<std::size_t> nearestSetting(const std::vector<Vary>& vary,
                                          const std::vector<Settings>& settings, const Settings& to) {
    std::optional<std::size_t> best;
    double least = 0;
    for (std::size_t i = 0; i < settings.size(); ++i) {
        double away = 0;
        for (const Vary& v : vary) {
            const auto at = to.find(v.name);
            if (at == to.end()) return {};
            away += std::abs(settings[i].at(v.name) - at->second) / (v.high - v.low);
        }
        if (!best || away < least) best = i, least = away;
    }
    return best;
}

namespace {

std::string noneTestable(const Tally& best) {
    return fmt::format(
        "None of the {} failures could be tested with this rule; its proof says why. Do not put it on watch.",
        best.untestable);
}

}  // namespace

std::string whyNoneAllowed(const Tally& best) {
    if (best.caught + best.missed > 0)
        return "No setting keeps to the bounds on false alarms and on time in alarm, so there is nothing to "
               "judge.";
    return best.untestable > 0 ? noneTestable(best)
                               : "The record holds no failures to judge settings by: do not put it on watch.";
}

std::string verdictSentence(const Shuffled& tries, const LeftOut& leftOut, const Tally& best) {
    std::string out;
    if (best.untestable > 0 && best.caught + best.missed == 0) return noneTestable(best);
    if (leftOut.of > 0)
        out = fmt::format("On failures it had not seen this rule caught {} of {}. ", leftOut.caught,
                          leftOut.of);
    else
        out = "There are too few failures to leave one out. ";
    if (tries.tries == 0) return out + "It was not searched on random moments.";
    out += tries.asGood == 0
               ? fmt::format("A search on random moments does as well in none of {} tries.", tries.tries)
               : fmt::format("A search on random moments does as well in {} of {} tries.", tries.asGood,
                             tries.tries);
    switch (verdictOf(tries)) {
        case SearchVerdict::Luck:
            return out + " This is what luck gives: do not put it on watch.";
        case SearchVerdict::TooFewTries:
            return out + " These are too few tries to tell it from luck: take a hundred or more.";
        case SearchVerdict::Holds:
            break;
    }
    return out;
}

}  // namespace jacinth
