// search
#include <fmt/format.h>

#include <cmath>
#include <iostream>

#include "cli/prove_options.h"
#include "core/base/text.h"
#include "work/prove/searching.h"
#include "work/prove/starting_ranges.h"

namespace jacinth::cli {
namespace {

/// `limit=1:6:26`: from, to and how many. A name alone: no steps yet.
Vary varyFrom(const std::string& text) {
    const auto wrong = [&] {
        return CLI::ValidationError("--vary",
                                    fmt::format("takes a name, or name=LOW:HIGH:STEPS, not `{}`", text));
    };
    if (!text.empty() && text.find_first_of("=:") == std::string::npos) return {text, 0, 0, 0};
    const std::size_t is = text.find('='), one = text.find(':', is == std::string::npos ? 0 : is),
                      two = one == std::string::npos ? one : text.find(':', one + 1);
    if (is == std::string::npos || is == 0 || two == std::string::npos) throw wrong();
    const auto low = finiteNumber(text.substr(is + 1, one - is - 1)),
               high = finiteNumber(text.substr(one + 1, two - one - 1)),
               steps = finiteNumber(text.substr(two + 1));
    if (!low || !high || !steps || *steps != std::floor(*steps) || *steps < 2 ||
        *steps > double(kMostSettings))
        throw wrong();
    return {text.substr(0, is), *low, *high, static_cast<int>(*steps)};
}

json scoreJson(double score) {
    return std::isfinite(score) ? json(score) : json();
}

json settingJson(const Searched& found, std::size_t i) {
    const Tally& t = found.result.tallies[i];
    json out = found.settings[i];
    out.update({{"caught", t.caught},
                {"missed", t.missed},
                {"untestable", t.untestable},
                {"falseAlarms", t.falseAlarms},
                {"falsePerAssetMonth", t.falsePerAssetMonth},
                {"cameTrueShare", t.cameTrueShare()},
                {"alarmedShare", t.alarmedShare},
                {"score", scoreJson(found.result.scores[i])}});
    return out;
}

/// Null where there were too few tries to tell.
json luckJson(const Shuffled& tries) {
    const SearchVerdict verdict = verdictOf(tries);
    return verdict == SearchVerdict::TooFewTries ? json() : json(verdict == SearchVerdict::Luck);
}

constexpr std::array<const char*, 3> kLeaveOut{"failure", "asset", "time"};

json searchedJson(const Searched& found) {
    json settings = json::array(), front = json::array(), flat = json::object(), left = json::array();
    for (std::size_t i = 0; i < found.settings.size(); ++i) settings.push_back(settingJson(found, i));
    for (const std::size_t i : found.result.front) front.push_back(settingJson(found, i));
    for (const auto& [name, range] : found.result.flat) flat[name] = {range.first, range.second};
    for (const LeftOut& l : found.leftOut)
        left.push_back({{"by", kLeaveOut[static_cast<std::size_t>(l.by)]},
                        {"score", l.of > 0 ? json(double(l.caught) / l.of) : json()},
                        {"caught", l.caught},
                        {"of", l.of},
                        {"falsePerAssetMonth", l.falsePerAssetMonth}});
    json out{{"settings", settings},
             {"best", settingJson(found, found.result.best)},
             {"depth", found.result.depth},
             {"flat", flat},
             {"front", front},
             {"leftOut", left.empty() ? json() : left.front()},
             {"shuffled", json()},
             {"allowed", found.isAllowed()},
             {"atEnds", found.atEnds},
             {"verdict", found.verdict}};
    if (found.shuffled.tries > 0)
        out["shuffled"] = {{"score", scoreJson(found.result.scores[found.result.best])},
                           {"tries", found.shuffled.tries},
                           {"asGood", found.shuffled.asGood},
                           {"share", found.shuffled.share()},
                           {"luck", luckJson(found.shuffled)}};
    return out;
}

std::string sayTally(const Tally& t) {
    return fmt::format("{} of {} caught, {:.2f} false alarms an asset-month, {:.0f} % came true", t.caught,
                       t.caught + t.missed, t.falsePerAssetMonth, 100 * t.cameTrueShare());
}

void say(const Searched& found, const Aim& aim) {
    const std::size_t best = found.result.best;
    std::string numbers;
    for (const auto& [name, value] : found.settings[best]) {
        const auto flat = found.result.flat.find(name);
        numbers += fmt::format("{}{} = {:.6g}", numbers.empty() ? "" : ", ", name, value);
        if (flat != found.result.flat.end())
            numbers +=
                fmt::format(" (as good from {:.6g} to {:.6g})", flat->second.first, flat->second.second);
    }
    if (found.isAllowed()) {
        std::cout << fmt::format("{} settings tried. Best: {}\n{}\n", found.settings.size(), numbers,
                                 sayTally(found.result.tallies[best]));
        if (aim.kind == AimKind::Cost) std::cout << fmt::format("Cost: {:.6g}\n", -found.result.scores[best]);
        for (const std::string& end : found.atEnds)
            std::cout << end << " is at the end of its range: search further\n";
    } else {
        std::cout << fmt::format("{} settings tried.\n", found.settings.size());
    }
    if (!found.verdict.empty()) std::cout << found.verdict << "\n";
}

struct SearchOptions {
    std::vector<std::string> vary;
    std::string aim = "catch", leaveOut = "failure";
    double falseAtMost = 0.3, alarmedAtMost = 0.25;
    int shuffles = 200;
    unsigned seed = 1;
};

/// Ranges for names that came without.
void fillRanges(SearchRequest& request, Study& study) {
    const auto lacks = [](const Vary& v) { return v.steps == 0; };
    if (std::none_of(request.vary.begin(), request.vary.end(), lacks)) return;
    const auto ranges =
        orRefuse(startingRanges(study, request.prove, progressOnStderr("looking for where to begin")));
    for (Vary& v : request.vary) {
        if (!lacks(v)) continue;
        const auto range = std::find_if(ranges.begin(), ranges.end(),
                                        [&](const StartingSetting& r) { return r.vary.name == v.name; });
        if (range == ranges.end())
            throw CLI::ValidationError("--vary", fmt::format("the rule has no setting {{{}}}", v.name));
        v = range->vary;
        std::cerr << fmt::format("{} from {:.6g} to {:.6g} in {} steps, from {}\n", v.name, v.low, v.high,
                                 v.steps, range->from);
    }
}

SearchRequest requestFrom(const SearchOptions& o, const ProveOptions& prove, Study& study,
                          const Common& common) {
    SearchRequest out;
    out.prove = prove.request(study, common);
    for (const std::string& v : o.vary) out.vary.push_back(varyFrom(v));
    out.aim.kind = o.aim == "f" ? AimKind::F : o.aim == "cost" ? AimKind::Cost : AimKind::Catch;
    out.aim.falseAtMost = o.falseAtMost;
    out.aim.alarmedAtMost = o.alarmedAtMost;
    if (prove.hasCosts()) out.aim.costs = prove.costs();
    if (out.aim.kind == AimKind::Cost && !prove.hasCosts())
        throw CLI::ValidationError("--aim", "cost needs --cost missed=…,false=…,caught=…");
    const auto by = std::find(kLeaveOut.begin(), kLeaveOut.end(), o.leaveOut);
    out.leaveOut = {static_cast<LeaveOut>(by - kLeaveOut.begin())};
    out.shuffles = o.shuffles;
    out.seed = o.seed;
    fillRanges(out, study);
    return out;
}

}  // namespace

void addSearchCommands(CLI::App& app) {
    auto* command =
        app.add_subcommand("search", "Which settings of a rule do best, and is that more than luck?");
    auto o = std::make_shared<SearchOptions>();
    auto common = addCommon(*command, {false, true, true});
    auto prove = addProveOptions(*command);
    command
        ->add_option("--vary", o->vary,
                     "A setting and its numbers: limit=1:6:26; limit alone: a range from what its tag does")
        ->required();
    command->add_option("--aim", o->aim, "catch (the most), f, or cost (the least)")
        ->check(CLI::IsMember({"catch", "f", "cost"}));
    command
        ->add_option("--false-at-most", o->falseAtMost, "False alarms an asset-month, of the aim catch (0.3)")
        ->check(CLI::NonNegativeNumber);
    command
        ->add_option("--alarmed-at-most", o->alarmedAtMost,
                     "Share of the time in which it may be true (0.25)")
        ->check(CLI::Range(0.0, 1.0));
    command->add_option("--leave-out", o->leaveOut, "What each search does not see: failure, asset or time")
        ->check(CLI::IsMember({"failure", "asset", "time"}));
    command->add_option("--shuffle", o->shuffles, "Searches on failures moved at random (200)")
        ->check(CLI::Range(0, 100'000));
    command->add_option("--seed", o->seed, "Of these moves");
    command->callback([o, common, prove] {
        const auto study = common->open();
        const SearchRequest request = requestFrom(*o, *prove, *study, *common);
        const Searched found = orRefuse(searchRule(*study, request, progressOnStderr("searching")));
        if (!common->asJson) return say(found, request.aim);
        json out = searchedJson(found);
        if (request.aim.kind == AimKind::Cost && found.isAllowed())
            out["cost"] = -found.result.scores[found.result.best];
        printJson(out);
    });
}

}  // namespace jacinth::cli
