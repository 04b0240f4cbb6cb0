// fix, label, prove, report
#include <fmt/format.h>

#include <iostream>

#include "cli/command.h"
#include "store/write_file.h"
#include "work/mending.h"
#include "work/proving.h"
#include "work/report.h"

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
        const Tag tag = orSayNo(study->catalog().tagAt(o->tag));
        const TimeRange range = common->range(*study);
        Fix f{0, tag.id, orSayNo(fixKindNamed(o->kind)), range.from, range.to, o->by, o->by};
        if (f.kind == FixKind::Ramp) f.startBy = o->startBy, f.endBy = o->endBy;
        json fitted;
        if (o->fit) {
            const RampFit r = orSayNo(
                fitToReadings(*study, tag, range, o->fixedStart ? std::optional(o->startBy) : std::nullopt));
            f.startBy = r.startBy, f.endBy = r.endBy;
            fitted = {
                {"readings", r.readings}, {"misfitBefore", r.misfitBefore}, {"misfitAfter", r.misfitAfter}};
        }
        f.why = o->why;
        f.id = orSayNo(enterFix(*study, f));
        json out = fixJson(*study, study->fixes(tag.id).back());
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
        for (const Fix& f : study->allFixes()) {
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
                              std::string(what) == "remove" ? "Take away" : std::string("Switch ") + what));
        auto common = addCommon(*command);
        auto id = std::make_shared<std::int64_t>(0);
        command->add_option("id", *id, "Id of the fix")->required();
        command->callback([common, id, action = std::string(what)] {
            const auto study = common->open(false);
            orSayNo(action == "remove" ? takeFixAway(*study, *id) : switchFix(*study, *id, action == "on"));
            if (common->asJson)
                printJson({{"id", *id}, {action == "remove" ? "removed" : "on", action != "off"}});
        });
    }
}

json labelJson(const Study& study, const Span& s) {
    json j = rangeJson(s.range());
    const Asset* asset = study.catalog().asset(s.asset);
    const Tag* tag = study.catalog().tag(s.tag);
    j.update({{"id", s.id},
              {"asset", asset ? asset->name : ""},
              {"tag", tag ? json(tag->path()) : json()},
              {"kind", factText(s.facts, "kind")},
              {"note", factText(s.facts, "note")},
              {"by", factText(s.facts, "by")}});
    return j;
}

json kindJson(const LabelKind& k) {
    return {{"name", k.name},
            {"meaning", k.meaning},
            {"colour", k.colour},
            {"key", k.key ? json(std::string(1, k.key)) : json()},
            {"normal", k.normal}};
}

void addLabelKinds(CLI::App& label) {
    auto* kinds = label.add_subcommand("kinds", "The label book: the site's kinds of label");
    kinds->require_subcommand(1);
    auto* list = kinds->add_subcommand("list", "Every kind");
    auto listCommon = addCommon(*list);
    list->callback([listCommon] {
        const auto study = listCommon->open();
        json all = json::array();
        for (const LabelKind& k : study->labelBook()) {
            all.push_back(kindJson(k));
            if (!listCommon->asJson)
                fmt::print("{:<20} {} {:<8} {}\n", k.name, k.key ? k.key : ' ', k.normal ? "normal" : "",
                           k.meaning);
        }
        if (listCommon->asJson) printJson(all);
    });
    struct Options {
        std::string name, meaning, colour = "#4A5A6A", key;
        bool normal = false;
    };
    auto o = std::make_shared<Options>();
    auto* add = kinds->add_subcommand("add", "Add a kind to the label book");
    auto common = addCommon(*add);
    add->add_option("--name", o->name, "What it is called")->required();
    add->add_option("--meaning", o->meaning, "What it means");
    add->add_option("--colour", o->colour, "Its colour, like #8A4FA3");
    add->add_option("--key", o->key, "The key that names a mark");
    add->add_flag("--normal", o->normal, "An example of nothing being wrong");
    add->callback([o, common] {
        const auto study = common->open(false);
        if (o->key.size() > 1) throw SaysNo{"a key is one character"};
        const LabelKind kind{o->name, o->meaning, o->colour, o->key.empty() ? '\0' : o->key[0], o->normal};
        orSayNo(addLabelKind(*study, kind));
        if (common->asJson) printJson(kindJson(kind));
    });
}

void addLabel(CLI::App& app) {
    auto* label = app.add_subcommand("label", "Marks on the record");
    label->require_subcommand(1);
    addLabelKinds(*label);
    struct Options {
        std::string tag, kind, note, out;
        bool guarded = false;
    };
    auto o = std::make_shared<Options>();
    auto* add = label->add_subcommand("add", "Mark a stretch");
    auto common = addCommon(*add, {true, true});
    add->add_option("--tag", o->tag, "Asset/Tag");
    add->add_option("--kind", o->kind, "From the label book")->required();
    add->add_option("--note", o->note, "A note");
    add->get_option("--from")->required();
    add->get_option("--to")->required();
    add->get_option("--asset")->required();
    add->callback([o, common] {
        const auto study = common->open(false);
        const Asset* asset = study->catalog().assetNamed(common->asset);
        if (!asset) throw SaysNo{study->catalog().assetCalled(common->asset).error().message};
        const TimeRange range = common->range(*study);
        Span s{0, asset->id, 0, range.from, range.to, {}};
        if (!o->tag.empty())
            s.tag =
                orSayNo(study->catalog().tagAt(
                            o->tag.find('/') == std::string::npos ? common->asset + "/" + o->tag : o->tag))
                    .id;
        const std::int64_t id = orSayNo(addLabelled(*study, s, o->kind, o->note));
        if (common->asJson)
            printJson(labelJson(*study, *study->span(id)));
        else
            fmt::print("label {} added\n", id);
    });
    for (const char* what : {"list", "export"}) {
        auto* command = label->add_subcommand(what, std::string(what) == "list"
                                                        ? "The labels"
                                                        : "The labels as CSV, with the label book's meaning");
        auto c = addCommon(*command, {true, true});
        if (std::string(what) == "export")
            command->add_flag("--guard", o->guarded,
                              "Texts that a spreadsheet would run get an apostrophe before them");
        if (std::string(what) == "export")
            command->add_option("--out", o->out, "File to write; standard output where not given");
        command->callback([o, c, exporting = std::string(what) == "export"] {
            const auto study = c->open();
            const LabelBook book = study->labelBook();
            json all = json::array();
            std::string csv = "asset,tag,start,end,kind,meaning,normal,note,by\n";
            std::vector<Span> labels = study->spansOf(track_kind::kLabels);
            c->keepInWindow(*study, labels);
            for (const Span& s : labels) {
                const json j = labelJson(*study, s);
                if (!c->asset.empty() && j["asset"] != c->asset) continue;
                all.push_back(j);
                const std::string kind = factText(s.facts, "kind");
                const LabelKind* known = findKind(book, kind);
                const auto field = [&](const std::string& text) {
                    return o->guarded ? guardedField(text) : csvField(text);
                };
                csv += fmt::format("{},{},{},{},{},{},{},{},{}\n", field(j["asset"]),
                                   j["tag"].is_null() ? "" : field(j["tag"]), toIso(s.start), toIso(s.end),
                                   field(kind), field(known ? known->meaning : ""),
                                   known && known->normal ? "yes" : "no", field(factText(s.facts, "note")),
                                   field(factText(s.facts, "by")));
            }
            if (c->asJson) return printJson(all);
            if (exporting && !o->out.empty()) {
                orSayNo(writeWhole(o->out, csv));
                return;
            }
            std::cout << csv;
        });
    }
}

json proportionJson(const Proportion& p) {
    return {{"value", p.value}, {"low", p.low}, {"high", p.high}};
}

json proofJson(const Study& study, const Proof& p) {
    const auto name = [&](std::int64_t id) {
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
             orSayNo(compileForFleet(*study, o->request.rule, common->asset)).warnings())
            std::cerr << "jacinth-cli: " << warning << "\n";
        const Proof proof = orSayNo(proveRule(*study, o->request));
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
        const std::string html = orSayNo(reportHtml(*study));
        orSayNo(writeWhole(*out, html));
        if (common->asJson) printJson({{"out", *out}, {"bytes", html.size()}});
    });
}

}  // namespace

void addJudgementCommands(CLI::App& app) {
    addFix(app);
    addLabel(app);
    addProve(app);
    addReport(app);
}

}  // namespace jacinth::cli
