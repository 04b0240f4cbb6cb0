// prove, compare, report
#include <fmt/format.h>

#include <filesystem>
#include <iostream>

#include "cli/group_options.h"
#include "cli/output_file.h"
#include "cli/prove_options.h"
#include "core/base/text.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/write_file.h"
#include "work/mend/mending.h"
#include "work/prove/proofs.h"
#include "work/prove/trade_curve.h"
#include "work/report/report.h"

namespace jacinth::cli {
namespace {

json proportionJson(const Proportion& p) {
    return {{"value", p.value}, {"low", p.low}, {"high", p.high}};
}

json proofJson(const Study& study, const Proof& p) {
    const auto name = [&](AssetId id) {
        const Asset* asset = study.catalog().asset(id);
        return asset ? json(asset->name) : json();
    };
    json failures = json::array(), alarms = json::array();
    for (const FailureVerdict& f : p.failures)
        failures.push_back({{"asset", name(f.asset)},
                            {"time", toIso(f.time)},
                            {"caught", f.caught},
                            {"late", f.late},
                            {"warningSeconds", f.caught ? json(toSeconds(f.warning)) : json()},
                            {"testable", f.testable},
                            {"reason", f.testable ? json() : json(f.reason)}});
    for (const AlarmVerdict& a : p.alarms) {
        json j = rangeJson(a.range);
        j.update({{"asset", name(a.asset)}, {"verdict", verdictName(a.verdict)}});
        alarms.push_back(j);
    }
    return {{"failures", failures},
            {"caught", p.caught},
            {"missed", p.missed},
            {"untestable", p.untestable},
            {"alarms", alarms},
            {"cameTrue", p.cameTrue},
            {"falseAlarms", p.falseAlarms},
            {"late", p.late},
            {"open", p.open},
            {"masked", p.masked},
            {"nearMisses", p.nearMisses},
            {"catchRate", proportionJson(p.catchRate)},
            {"cameTrueShare", proportionJson(p.cameTrueShare)},
            {"falsePerAssetMonth", p.falsePerAssetMonth},
            {"countingSeconds", toSeconds(p.countingTime)},
            {"medianWarningHours", p.medianWarningHours},
            {"medianWarningSeconds", p.medianWarningHours * 3600}};
}

/// The rule under this name, and the proof of it. What a rule means, advises and how severe it is comes from
/// the one that was proved, or else from the newest of that name.
void keepNamed(Study& study, const std::string& name, const std::optional<Rule>& proved,
               const ProveRequest& request, const Proof& proof) {
    Rule rule = proved ? *proved : study.judgement().ruleNamed(name).value_or(Rule{name, {}});
    rule.name = name;
    rule.text = request.rule;
    rule.settings = request.settings;
    rule.spec = request.spec;
    rule.failures = request.failures;
    rule.masks = request.masks;
    rule.note.clear();
    orRefuse(keepProved(study, rule, request, proof));
}

void addProve(CLI::App& app) {
    auto* command = app.add_subcommand("prove", "Would a rule have warned of the failures there were?");
    auto keep = std::make_shared<std::string>();
    auto common = addCommon(*command, {false, true, true});
    auto options = addProveOptions(*command);
    command->add_option("--keep", *keep, "Keep the rule and the proof in the study under this name");
    command->callback([options, keep, common] {
        const auto study = common->open(keep->empty());
        const ProveRequest request = options->request(*study, *common);
        const std::string text = orRefuse(withSettings(request.rule, request.settings));
        const auto fleet = orRefuse(compileRule(*study, text, request.failures, request.asset));
        for (const std::string& warning : fleet.warnings()) std::cerr << "jacinth-cli: " << warning << "\n";
        const Proof proof = orRefuse(proveRule(*study, request));
        if (!keep->empty()) keepNamed(*study, *keep, options->namedRule(*study), request, proof);
        if (!common->asJson) {
            std::cout << proofText(*study, proof, request.spec.most);
            return;
        }
        json out = proofJson(*study, proof);
        if (options->hasCosts()) out["cost"] = costOf(proof, options->costs());
        printJson(out);
    });
}

json comparedJson(const Study& study, const std::vector<NamedRule>& rules, const ComparedRules& found) {
    json out = json::array(), failures = json::array();
    for (std::size_t i = 0; i < rules.size(); ++i) {
        json row = proofJson(study, found.proofs[i]);
        row.erase("failures");
        row.erase("alarms");
        row["rule"] = rules[i].name;
        row["alone"] = found.alone[i];
        row["both"] = found.both[i];
        out.push_back(row);
    }
    for (const ComparedFailure& f : found.failures) {
        const Asset* asset = study.catalog().asset(f.asset);
        json by = json::array(), testable = json::array();
        for (const std::size_t i : f.caughtBy) by.push_back(rules[i].name);
        for (const std::size_t i : f.testableBy) testable.push_back(rules[i].name);
        failures.push_back({{"asset", asset ? json(asset->name) : json()},
                            {"time", toIso(f.time)},
                            {"caughtBy", by},
                            {"testableBy", testable}});
    }
    return {{"rules", out}, {"failures", failures}, {"caughtByAny", found.caughtByAny}};
}

json curveJson(const std::optional<TradeCurve>& curve) {
    if (!curve) return {};
    json points = json::array();
    for (const TradePoint& p : curve->points)
        points.push_back({{"limit", p.limit},
                          {"caught", p.tally.caught},
                          {"missed", p.tally.missed},
                          {"falseAlarms", p.tally.falseAlarms},
                          {"falsePerAssetMonth", p.tally.falsePerAssetMonth}});
    return {
        {"rule", curve->rule}, {"setting", curve->limit}, {"settings", curve->settings}, {"points", points}};
}

void printCurve(const std::optional<TradeCurve>& curve) {
    if (!curve) {
        std::cout << "    compares with no number that could be another\n";
        return;
    }
    if (curve->points.empty())
        std::cout << "    no " << curve->limit << " catches any without being true for long\n";
    for (const TradePoint& p : curve->points)
        std::cout << fmt::format("    with {} {:.5g}: {} of {} caught, {:.2f} false alarms an asset-month\n",
                                 curve->limit, p.limit, p.tally.caught, p.tally.caught + p.tally.missed,
                                 p.tally.falsePerAssetMonth);
}

/// One for each rule where they are asked for.
std::vector<std::optional<TradeCurve>> curvesOf(Study& study, const std::vector<NamedRule>& rules) {
    std::vector<std::optional<TradeCurve>> out;
    for (const NamedRule& rule : rules)
        out.push_back(orRefuse(tradeCurveOf(study, rule.request, progressOnStderr("searching"))));
    return out;
}

void addCompare(CLI::App& app) {
    auto* command = app.add_subcommand("compare", "Rules side by side on the same failures");
    auto common = addCommon(*command, {false, true, true});
    auto options = addProveOptions(*command, HowManyRules::Several);
    auto curves = std::make_shared<bool>(false);
    command->add_flag("--curves", *curves,
                      "Also what each would catch if the number it compares with were another");
    command->callback([options, common, curves] {
        const auto study = common->open();
        const std::vector<NamedRule> rules = options->requests(*study, *common);
        const ComparedRules found = orRefuse(compareRules(*study, rules, progressOnStderr("proving")));
        const auto drawn = *curves ? curvesOf(*study, rules) : std::vector<std::optional<TradeCurve>>();
        if (common->asJson) {
            json all = comparedJson(*study, rules, found);
            for (std::size_t i = 0; i < drawn.size(); ++i) all["rules"][i]["curve"] = curveJson(drawn[i]);
            return printJson(all);
        }
        for (std::size_t i = 0; i < rules.size(); ++i) {
            const Proof& p = found.proofs[i];
            const std::string warning =
                p.caught > 0 ? fmt::format("{:.0f} h median warning", p.medianWarningHours) : "no warning";
            std::cout << fmt::format(
                "{}\n    {} of {} caught, {} by it alone; {}, {:.2f} false alarms an asset-month\n",
                rules[i].name, p.caught, p.caught + p.missed, found.alone[i], warning, p.falsePerAssetMonth);
            if (*curves) printCurve(drawn[i]);
        }
        std::cout << fmt::format("Together they caught {} of {} failures on record.\n", found.caughtByAny,
                                 found.failures.size());
    });
}

/// A file whose name says that it is of another form would not open.
void checkReportPath(const std::string& path) {
    const std::string ending = lowerCase(std::filesystem::path(path).extension().string());
    for (const char* other :
         {".pdf", ".xlsx", ".xls", ".docx", ".doc", ".odt", ".csv", ".json", ".png", ".svg"})
        if (ending == other)
            throw Refusal{fmt::format("the report is written as HTML; {} would not be a {} file", path,
                                      ending.substr(1))};
}

void addReport(CLI::App& app) {
    auto* command = app.add_subcommand("report", "The report of a study, as HTML");
    auto common = addCommon(*command);
    auto out = addOutputFile(*command, true);
    auto group = addGroupOptions(*command);
    command->callback([common, out, group] {
        checkReportPath(out->path);
        checkOutputFile(*out);
        const auto study = common->open();
        const std::string html =
            orRefuse(reportHtml(*study, progressOnStderr("report"), groupingFrom(*group, *study)));
        // Asked for by now.
        orRefuse(writeWhole(out->path, html));
        if (common->asJson) printJson({{"out", out->path}, {"bytes", html.size()}});
    });
}

}  // namespace

void addJudgementCommands(CLI::App& app) {
    addProve(app);
    addCompare(app);
    addReport(app);
}

}  // namespace jacinth::cli
