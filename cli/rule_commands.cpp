// rule add, list, show, versions, rename, remove, export, import
#include <fmt/format.h>

#include <iostream>

#include "cli/output_file.h"
#include "cli/prove_options.h"
#include "core/base/parse_json.h"
#include "store/write_file.h"
#include "work/prove/proofs.h"

namespace jacinth::cli {
namespace {

json proofSummary(const Study& study, const Rule& rule) {
    const auto kept = lastProof(study, rule.id);
    if (!kept) return {};
    return {{"made", toIso(kept->made)},
            {"who", kept->who},
            {"caught", kept->proof.caught},
            {"missed", kept->proof.missed},
            {"untestable", kept->proof.untestable},
            {"falseAlarms", kept->proof.falseAlarms},
            {"falsePerAssetMonth", kept->proof.falsePerAssetMonth},
            {"outOfDate", outOfDate(study, rule, *kept)}};
}

json ruleJson(const Study& study, const Rule& rule) {
    json out = parseJson(rulesText({rule})).front();
    out["version"] = rule.version;
    out["made"] = toIso(rule.made);
    out["who"] = rule.who;
    out["proof"] = proofSummary(study, rule);
    return out;
}

void say(const Study& study, const Rule& rule) {
    std::cout << titleOf(rule) << "\n    " << rule.text << "\n";
    for (const auto& [name, value] : rule.settings)
        std::cout << fmt::format("    {} = {:.6g}\n", name, value);
    for (const auto& [what, text] :
         {std::pair{"meaning", rule.meaning}, std::pair{"advice", rule.advice}, std::pair{"note", rule.note}})
        if (!text.empty()) std::cout << fmt::format("    {}: {}\n", what, text);
    const auto kept = lastProof(study, rule.id);
    if (!kept) {
        std::cout << "    not proved yet\n";
        return;
    }
    std::cout << fmt::format("    {} of {} caught, {:.2f} false alarms an asset-month when proved on {}\n",
                             kept->proof.caught, kept->proof.caught + kept->proof.missed,
                             kept->proof.falsePerAssetMonth, study.zone().shortText(kept->made));
    for (const std::string& why : outOfDate(study, rule, *kept))
        std::cout << "    out of date: " << why << "\n";
}

void sayAll(const Study& study, const Common& common, const std::vector<Rule>& rules) {
    if (common.asJson) {
        json out = json::array();
        for (const Rule& r : rules) out.push_back(ruleJson(study, r));
        return printJson(out);
    }
    if (rules.empty()) std::cout << "The study has no rules yet: rule add.\n";
    for (const Rule& r : rules) say(study, r);
}

void addAdd(CLI::App& rule) {
    auto* command = rule.add_subcommand("add", "Keep a rule, as the next version where its name is known");
    auto common = addCommon(*command);
    auto o = std::make_shared<Rule>();
    auto set = std::make_shared<std::vector<std::string>>();
    command->add_option("NAME", o->name)->required();
    command->add_option("--rule", o->text, "A condition, with {settings} or without")->required();
    command->add_option("--set", *set, "The number of a setting, like limit=3.2");
    addSpecOptions(*command, o->spec);
    command->add_option("--failures", o->failures, "A kind of failure, or a track; all where not given");
    command->add_option("--mask", o->masks, "Tracks and conditions whose time does not count");
    command->add_option("--severity", o->severity, "1 to 4 (2)");
    command->add_option("--meaning", o->meaning, "What stands behind its alarm");
    command->add_option("--advice", o->advice, "What to do about it");
    command->add_option("--note", o->note, "Why this version");
    command->callback([common, o, set] {
        const auto study = common->open(false);
        for (const std::string& one : *set) o->settings.insert(namedNumber(one, "--set"));
        orRefuse(keepRule(*study, *o));
        sayAll(*study, *common, {orRefuse(ruleNamed(*study, o->name))});
    });
}

void addLists(CLI::App& rule) {
    auto* list = rule.add_subcommand("list", "The newest version of each");
    auto common = addCommon(*list);
    list->callback([common] {
        const auto study = common->open();
        sayAll(*study, *common, study->judgement().rules());
    });
    auto* show = rule.add_subcommand("show", "One rule");
    auto shown = addCommon(*show);
    auto name = std::make_shared<std::string>();
    auto version = std::make_shared<int>(0);
    show->add_option("NAME", *name)->required();
    show->add_option("--version", *version, "The newest where not given")->check(CLI::PositiveNumber);
    show->callback([shown, name, version] {
        const auto study = shown->open();
        const Rule found = orRefuse(ruleNamed(*study, *name, *version));
        if (shown->asJson) return printJson(ruleJson(*study, found));
        say(*study, found);
    });
    auto* versions = rule.add_subcommand("versions", "Every version of a rule, oldest first");
    auto all = addCommon(*versions);
    auto of = std::make_shared<std::string>();
    versions->add_option("NAME", *of)->required();
    versions->callback([all, of] {
        const auto study = all->open();
        orRefuse(ruleNamed(*study, *of));
        sayAll(*study, *all, study->judgement().ruleVersions(*of));
    });
}

void addChanges(CLI::App& rule) {
    auto* remove =
        rule.add_subcommand("remove", "Remove a rule with its versions and proofs, or one version");
    auto common = addCommon(*remove);
    auto name = std::make_shared<std::string>();
    auto version = std::make_shared<int>(0);
    remove->add_option("NAME", *name)->required();
    remove->add_option("--version", *version, "Only this one")->check(CLI::PositiveNumber);
    remove->callback([common, name, version] {
        const auto study = common->open(false);
        orRefuse(removeRule(*study, *name, *version));
        if (common->asJson) printJson({{"removed", *name}});
    });
    auto* rename = rule.add_subcommand("rename", "Give a rule another name");
    auto renamed = addCommon(*rename);
    auto from = std::make_shared<std::string>(), to = std::make_shared<std::string>();
    rename->add_option("NAME", *from)->required();
    rename->add_option("--to", *to)->required();
    rename->callback([renamed, from, to] {
        const auto study = renamed->open(false);
        orRefuse(renameRule(*study, *from, *to));
        if (renamed->asJson) printJson({{"name", *to}});
    });
}

void addFiles(CLI::App& rule) {
    auto* save = rule.add_subcommand("export", "The newest version of every rule as JSON");
    auto saved = addCommon(*save);
    auto out = addOutputFile(*save, true);
    save->callback([saved, out] {
        checkOutputFile(*out);
        const auto study = saved->open();
        const std::vector<Rule> rules = study->judgement().rules();
        orRefuse(writeWhole(out->path, rulesText(rules)));
        if (saved->asJson) printJson({{"out", out->path}, {"rules", rules.size()}});
    });
    auto* take = rule.add_subcommand("import", "Keep the rules of a file; none where one cannot be kept");
    auto taken = addCommon(*take);
    auto file = std::make_shared<std::string>();
    take->add_option("FILE", *file)->required()->check(CLI::ExistingFile);
    take->callback([taken, file] {
        const auto study = taken->open(false);
        const auto rules = orRefuse(readRules(orRefuse(readWhole(*file))));
        orRefuse(takeRules(*study, rules));
        if (taken->asJson) printJson({{"rules", rules.size()}});
    });
}

}  // namespace

void addRuleCommands(CLI::App& app) {
    auto* rule = app.add_subcommand("rule", "Detection rules, in versions");
    rule->require_subcommand(1);
    addAdd(*rule);
    addLists(*rule);
    addChanges(*rule);
    addFiles(*rule);
}

}  // namespace jacinth::cli
