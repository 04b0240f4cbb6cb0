// fix, prove, report
#include <fmt/format.h>

#include <iostream>

#include "cli/command.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/write_file.h"
#include "work/mend/mending.h"
#include "work/prove/proving.h"
#include "work/report/report.h"

namespace jacinth::cli {
namespace {

json fixJson(const Study& study, const Fix& f) {
    const Tag* tag = study.catalog().tag(f.tag);
    json j{{"id", f.id},
           {"tag", tag ? tag->path() : ""},
           {"kind", fixKindName(f.kind)},
           {"from", toIso(f.from)},
           {"to", toIso(f.to)},
           {"on", f.on},
           {"why", f.why},
           {"who", f.who},
           {"entered", toIso(f.entered)}};
    if (f.kind == FixKind::Shift)
        j["by"] = f.startBy;
    else
        j.update({{"startBy", f.startBy}, {"endBy", f.endBy}});
    return j;
}

void addFixAdd(CLI::App& fix) {
    struct Options {
        std::string tag, kind, why;
        double by = 0, startBy = 0, endBy = 0;
        bool fit = false, fixedStart = false;
    };
    auto o = std::make_shared<Options>();
    auto* add = fix.add_subcommand("add", "Enter a fix in the ledger");
    auto common = addCommon(*add, {true});
    add->add_option("--tag", o->tag, "Asset/Tag")->required();
    add->add_option("--kind", o->kind, "shift or ramp")->required()->check(CLI::IsMember({"shift", "ramp"}));
    auto* by = add->add_option("--by", o->by, "Shift by this much");
    auto* start = add->add_option("--start-by", o->startBy, "Ramp: change at the start");
    auto* end = add->add_option("--end-by", o->endBy, "Ramp: change at the end");
    add->add_flag("--fit-readings", o->fit, "Ramp: fit to the check readings in the stretch");
    add->add_flag("--fixed-start", o->fixedStart, "With --fit-readings: the start keeps --start-by");
    add->add_option("--why", o->why, "Why")->required();
    add->get_option("--from")->required();
    add->get_option("--to")->required();
    add->callback([o, common, by, start, end] {
        if (o->kind == "shift" && !by->count()) throw CLI::RequiredError("--by");
        if (o->kind == "ramp" && !o->fit && !(start->count() && end->count()))
            throw CLI::RequiredError("--start-by and --end-by, or --fit-readings");
        const auto study = common->open(false);
        const Tag tag = orRefuse(study->catalog().tagAt(o->tag));
        const TimeRange range = common->range(*study);
        Fix f{{}, tag.id, orRefuse(fixKindNamed(o->kind)), range.from, range.to, o->by, o->by};
        if (f.kind == FixKind::Ramp) f.startBy = o->startBy, f.endBy = o->endBy;
        json fitted;
        if (o->fit) {
            const RampFit r = orRefuse(
                fitToReadings(*study, tag, range, o->fixedStart ? std::optional(o->startBy) : std::nullopt));
            f.startBy = r.startBy, f.endBy = r.endBy;
            fitted = {
                {"readings", r.readings}, {"misfitBefore", r.misfitBefore}, {"misfitAfter", r.misfitAfter}};
        }
        f.why = o->why;
        f.id = orRefuse(enterFix(*study, f));
        json out = fixJson(*study, study->judgement().fixes(tag.id).back());
        if (!fitted.is_null()) out["fit"] = fitted;
        if (common->asJson)
            printJson(out);
        else
            fmt::print("fix {} entered\n", f.id);
    });
}

void addFix(CLI::App& app) {
    auto* fix = app.add_subcommand("fix", "Mending: recorded steps over untouched samples");
    fix->require_subcommand(1);
    addFixAdd(*fix);
    auto* list = fix->add_subcommand("list", "The fixes, in ledger order");
    auto listCommon = addCommon(*list, {true, true});
    list->callback([listCommon] {
        const auto study = listCommon->open();
        const TimeRange range = listCommon->range(*study);
        json out = json::array();
        for (const Fix& f : study->judgement().allFixes()) {
            const Tag* tag = study->catalog().tag(f.tag);
            if (!listCommon->asset.empty() && (!tag || tag->assetName != listCommon->asset)) continue;
            if (listCommon->hasWindow() && !f.touches(range)) continue;
            out.push_back(fixJson(*study, f));
            if (!listCommon->asJson)
                fmt::print("{:>4} {} {:<24} {:<6} {} {}  {:+.4g} → {:+.4g}  {}\n", f.id, f.on ? "on " : "off",
                           out.back()["tag"].get<std::string>(), fixKindName(f.kind), toIso(f.from),
                           toIso(f.to), f.startBy, f.endBy, f.why);
        }
        if (listCommon->asJson) printJson(out);
    });
    for (const char* what : {"on", "off", "remove"}) {
        auto* command = fix->add_subcommand(
            what, fmt::format("{} a fix",
                              std::string(what) == "remove" ? "Remove" : std::string("Switch ") + what));
        auto common = addCommon(*command);
        auto id = std::make_shared<FixId>();
        command->add_option("id", *id, "Id of the fix")->required();
        command->callback([common, id, action = std::string(what)] {
            const auto study = common->open(false);
            orRefuse(action == "remove" ? removeFix(*study, *id) : switchFix(*study, *id, action == "on"));
            if (common->asJson)
                printJson({{"id", *id}, {action == "remove" ? "removed" : "on", action != "off"}});
        });
    }
}

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
            {"catchRate", proportionJson(p.catchRate)},
            {"cameTrueShare", proportionJson(p.cameTrueShare)},
            {"falsePerAssetMonth", p.falsePerAssetMonth},
            {"countingSeconds", toSeconds(p.countingTime)},
            {"medianWarningHours", p.medianWarningHours},
            {"medianWarningSeconds", p.medianWarningHours * 3600}};
}

void addProve(CLI::App& app) {
    auto* command = app.add_subcommand("prove", "Would a rule have warned of the failures there were?");
    struct Options {
        ProveRequest request;
        std::string keep;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {false, true, true});
    command->add_option("--rule", o->request.rule, "A condition in the expression language")->required();
    command->add_option("--failures", o->request.failuresTrack,
                        "Track of failures; all of them where not given");
    addDuration(*command, "--most", o->request.spec.most, "Longest useful warning (48h)");
    addDuration(*command, "--least", o->request.spec.least, "Shortest useful warning (12h)");
    addDuration(*command, "--join", o->request.spec.join, "Alarms closer than this are one (6h)");
    command->add_option("--mask", o->request.masks,
                        "Tracks whose time does not count; stops where not given");
    command->add_option("--keep", o->keep, "Keep the rule in the study under this name");
    command->callback([o, common] {
        const auto study = common->open(o->keep.empty());
        o->request.asset = common->asset;
        o->request.which = common->which();
        for (const std::string& warning :
             orRefuse(compileForFleet(*study, o->request.rule, common->asset)).warnings())
            std::cerr << "jacinth-cli: " << warning << "\n";
        const Proof proof = orRefuse(proveRule(*study, o->request));
        if (!o->keep.empty()) keepRule(*study, {o->keep, o->request.rule, o->request.spec});
        if (common->asJson) return printJson(proofJson(*study, proof));
        std::cout << proofText(*study, proof);
    });
}

void addReport(CLI::App& app) {
    auto* command = app.add_subcommand("report", "The report of a study, as HTML");
    auto common = addCommon(*command);
    auto out = std::make_shared<std::string>();
    command->add_option("--out", *out, "File to write")->required();
    command->callback([common, out] {
        const auto study = common->open();
        const std::string html = orRefuse(reportHtml(*study));
        orRefuse(writeWhole(*out, html));
        if (common->asJson) printJson({{"out", *out}, {"bytes", html.size()}});
    });
}

}  // namespace

void addJudgementCommands(CLI::App& app) {
    addFix(app);
    addProve(app);
    addReport(app);
}

}  // namespace jacinth::cli
