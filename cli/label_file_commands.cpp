// label list, export, import, cut
#include <fmt/format.h>

#include <iostream>

#include "cli/label_commands.h"
#include "cli/output_file.h"
#include "store/write_file.h"
#include "work/label/cut_outs.h"
#include "work/label/label_files.h"
#include "work/label/labels.h"

namespace jacinth::cli {
namespace {

std::vector<Span> labelsAsked(const Common& common, const Study& study) {
    std::vector<Span> labels = labelsOf(study);
    common.keepInWindow(study, labels);
    return labels;
}

json labelsJson(const Study& study, const std::vector<Span>& labels) {
    json out = json::array();
    for (const Span& s : labels) out.push_back(labelToJson(study, s));
    return out;
}

void addLabelList(CLI::App& label) {
    auto* list = label.add_subcommand("list", "The labels");
    auto common = addCommon(*list, {.window = true, .asset = true});
    list->callback([common] {
        const auto study = common->open();
        const auto labels = labelsAsked(*common, *study);
        if (common->asJson) return printJson(labelsJson(*study, labels));
        std::cout << labelsAsCsv(*study, labels);
    });
}

void addLabelExport(CLI::App& label) {
    struct Options {
        std::string format = "csv";
        bool guarded = false;
    };
    auto o = std::make_shared<Options>();
    auto* command = label.add_subcommand("export", "The labels as CSV, or as JSON with the label book");
    auto common = addCommon(*command, {.window = true, .asset = true});
    auto out = addOutputFile(*command, false);
    command->add_option("--format", o->format, "csv or json")->check(CLI::IsMember({"csv", "json"}));
    command->add_flag("--guard", o->guarded,
                      "Texts that a spreadsheet would run get an apostrophe before them");
    command->callback([o, common, out] {
        checkOutputFile(*out);
        const auto study = common->open();
        const auto labels = labelsAsked(*common, *study);
        if (common->asJson && out->path.empty()) return printJson(labelsJson(*study, labels));
        const std::string text =
            o->format == "json" ? labelsAsJson(*study, labels) : labelsAsCsv(*study, labels, o->guarded);
        if (out->path.empty())
            std::cout << text;
        else
            orRefuse(writeWhole(out->path, text));
    });
}

/// `theirs=ours`
std::map<std::string, std::string> pairsFrom(const std::vector<std::string>& texts) {
    std::map<std::string, std::string> out;
    for (const std::string& text : texts) {
        const std::size_t equals = text.find('=');
        if (equals == std::string::npos)
            throw CLI::ValidationError(fmt::format("`{}`: say THEIRS=OURS", text));
        out[text.substr(0, equals)] = text.substr(equals + 1);
    }
    return out;
}

void addLabelImport(CLI::App& label) {
    struct Options {
        std::string file;
        std::vector<std::string> kinds, columns;
        LabelImportSpec spec;
    };
    auto o = std::make_shared<Options>();
    auto* command = label.add_subcommand("import", "Labels from a file, CSV or JSON");
    auto common = addCommon(*command);
    command->add_option("FILE", o->file, "What to read")->required();
    command->add_option("--kind", o->kinds, "THEIRS=OURS: what a kind of theirs is in the label book");
    command->add_option("--column", o->columns, "THEIRS=OURS: what a column of theirs is: asset, start …");
    command->add_flag("--add-kinds", o->spec.addKinds, "Kinds that are unknown come into the label book");
    command->add_option("--by", o->spec.by, "Who made labels that do not say so");
    command->add_option("--time-format", o->spec.timeFormat, "How times are written, as for `import`");
    command->callback([o, common] {
        const auto study = common->open(false);
        const std::string text = orRefuse(readWhole(o->file));
        LabelImportSpec spec = o->spec;
        spec.kinds = pairsFrom(o->kinds);
        spec.columns = pairsFrom(o->columns);
        const LabelImport done = orRefuse(importLabels(*study, text, spec));
        json aside = json::array();
        for (const AsideLabel& a : done.aside)
            aside.push_back({{"line", a.line}, {"why", a.why}, {"text", a.text}});
        if (common->asJson)
            return printJson({{"added", done.added},
                              {"known", done.known},
                              {"newKinds", done.newKinds},
                              {"aside", aside}});
        fmt::print("{} labels added, {} stood there already, {} kept aside\n", done.added, done.known,
                   done.aside.size());
        for (const AsideLabel& a : done.aside) fmt::print("  {}: {}\n    {}\n", a.line, a.why, a.text);
    });
}

void addLabelCut(CLI::App& label) {
    struct Options {
        std::string out, format = "csv", split, parts = "70,15,15";
        CutOutSpec spec;
    };
    auto o = std::make_shared<Options>();
    auto* command = label.add_subcommand("cut", "The data of each label, cut out, with a manifest");
    auto common = addCommon(*command, {.window = true, .asset = true, .asLogged = true});
    command->add_option("--out", o->out, "A new or empty folder")->required();
    command->add_option("--format", o->format, "csv or hdf5")->check(CLI::IsMember({"csv", "hdf5"}));
    command->add_option("--tag", o->spec.roles, "Roles; the label's tags, or all of its asset, if not given");
    addDuration(*command, "--every", o->spec.every, "Step; the median spacing of the tags if not given");
    addDuration(*command, "--margin", o->spec.margin, "As much more before and after");
    command->add_option("--split", o->split, "run or asset: what must not be in two parts")
        ->check(CLI::IsMember({"run", "asset"}));
    command->add_option("--parts", o->parts, "Per cent for train, validation, test (70,15,15)");
    command->add_option("--seed", o->spec.seed, "Of the order in which equals are handed out");
    command->add_option("--runs", o->spec.runs, "Track of runs that the split goes by");
    command->add_flag("--balance", o->spec.balance, "As many of each kind that is in a part, in that part");
    command->callback([o, common] {
        const auto study = common->open();
        CutOutSpec spec = o->spec;
        spec.format = o->format == "hdf5" ? CutFormat::Hdf5 : CutFormat::Csv;
        if (!o->split.empty()) spec.split = o->split == "run" ? SplitBy::Run : SplitBy::Asset;
        spec.shares = orRefuse(readShares(o->parts));
        spec.which = common->which();
        if (common->hasWindow() || !common->asset.empty()) {
            for (const Span& s : labelsAsked(*common, *study)) spec.labels.push_back(s.id);
            if (spec.labels.empty()) throw Refusal{"nothing is labelled there"};
        }
        const CutOut done = orRefuse(cutOut(*study, o->out, spec, progressOnStderr("label cut")));
        json left = json::array();
        for (const auto& [id, why] : done.leftOut) left.push_back({{"id", id}, {"why", why}});
        if (common->asJson)
            return printJson({{"labels", done.labels},
                              {"parts", done.byPart},
                              {"leftOut", left},
                              {"missing", done.missing}});
        for (const auto& [part, kinds] : done.byPart)
            for (const auto& [kind, count] : kinds) fmt::print("{:<10} {:<24} {}\n", part, kind, count);
        for (const auto& [id, why] : done.leftOut) fmt::print("label {} left out: {}\n", id, why);
        for (const std::string& what : done.missing) fmt::print("{}\n", what);
    });
}

}  // namespace

void addLabelFiles(CLI::App& label) {
    addLabelList(label);
    addLabelExport(label);
    addLabelImport(label);
    addLabelCut(label);
}

}  // namespace jacinth::cli
