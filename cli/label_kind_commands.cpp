// label kinds: the label book
#include <fmt/format.h>

#include <iostream>

#include "cli/label_commands.h"
#include "cli/output_file.h"
#include "core/base/parse_json.h"
#include "store/write_file.h"
#include "work/label/kinds.h"

namespace jacinth::cli {
namespace {

LabelKind kindOrRefuse(const Study& study, const std::string& name) {
    const LabelBook book = study.judgement().labelBook();
    if (const LabelKind* kind = findKind(book, name)) return *kind;
    std::string known;
    for (const LabelKind& k : book) known += (known.empty() ? "" : ", ") + k.name;
    throw Refusal{fmt::format("`{}` is not in the label book; it has {}", name, known)};
}

json bookJson(const LabelBook& book) {
    return parseJson(bookText(book));
}

void addKindList(CLI::App& kinds) {
    auto* list = kinds.add_subcommand("list", "Every kind");
    auto common = addCommon(*list);
    list->callback([common] {
        const auto study = common->open();
        const LabelBook book = study->judgement().labelBook();
        if (common->asJson) return printJson(bookJson(book));
        for (const LabelKind& k : book)
            fmt::print("{:<20} {} {:<8} {:<7} {}{}\n", k.name, k.key ? k.key : ' ', k.normal ? "normal" : "",
                       k.colour, k.meaning, k.parent.empty() ? "" : " (belongs to " + k.parent + ")");
    });
}

/// What of a kind is said on the command line.
struct KindOptions {
    std::string name, rename, meaning, colour, key, parent, into;
    bool normal = false, abnormal = false, marksToo = false;
};

void addKindOptions(CLI::App& command, KindOptions& o) {
    command.add_option("--meaning", o.meaning, "What it means");
    command.add_option("--colour", o.colour, "Its colour, like #8A4FA3; the next free one if not given");
    command.add_option("--key", o.key, "The key that names a mark");
    command.add_option("--parent", o.parent, "The more general kind it belongs to");
    command.add_flag("--normal", o.normal, "An example of nothing being wrong");
}

void apply(const CLI::App& command, const KindOptions& o, LabelKind& kind) {
    if (o.key.size() > 1) throw Refusal{"a key is one character"};
    if (command.count("--meaning")) kind.meaning = o.meaning;
    if (command.count("--colour")) kind.colour = o.colour;
    if (command.count("--key")) kind.key = o.key.empty() ? '\0' : o.key[0];
    if (command.count("--parent")) kind.parent = o.parent;
    if (o.normal) kind.normal = true;
    if (o.abnormal) kind.normal = false;
}

void addNewKind(CLI::App& kinds) {
    auto o = std::make_shared<KindOptions>();
    auto* add = kinds.add_subcommand("add", "Add a kind to the label book");
    auto common = addCommon(*add);
    add->add_option("--name", o->name, "What it is called")->required();
    addKindOptions(*add, *o);
    add->callback([o, common, add] {
        const auto study = common->open(false);
        LabelKind kind{o->name, {}, freeColour(study->judgement().labelBook()), 0, false, {}};
        apply(*add, *o, kind);
        orRefuse(addLabelKind(*study, kind));
        if (common->asJson) printJson(bookJson({kind}).front());
    });
}

void addKindEdit(CLI::App& kinds) {
    auto o = std::make_shared<KindOptions>();
    auto* edit = kinds.add_subcommand("edit", "Change a kind; its marks follow a new name");
    auto common = addCommon(*edit);
    edit->add_option("--name", o->name, "Which kind")->required();
    edit->add_option("--rename", o->rename, "Its new name");
    addKindOptions(*edit, *o);
    edit->add_flag("--abnormal", o->abnormal, "No example of nothing being wrong");
    edit->callback([o, common, edit] {
        const auto study = common->open(false);
        LabelKind kind = kindOrRefuse(*study, o->name);
        apply(*edit, *o, kind);
        if (!o->rename.empty()) kind.name = o->rename;
        orRefuse(changeLabelKind(*study, o->name, kind));
        if (common->asJson) printJson(bookJson({kind}).front());
    });
}

void addKindMerge(CLI::App& kinds) {
    auto o = std::make_shared<KindOptions>();
    auto* merge = kinds.add_subcommand("merge", "Make one kind of two: its marks become the other's");
    auto common = addCommon(*merge);
    merge->add_option("--name", o->name, "The kind that goes")->required();
    merge->add_option("--into", o->into, "The kind that stays")->required();
    merge->callback([o, common] {
        const auto study = common->open(false);
        const std::size_t marks = marksOfKind(*study, o->name);
        orRefuse(mergeLabelKinds(*study, o->name, o->into));
        if (common->asJson) return printJson({{"marks", marks}, {"into", o->into}});
        fmt::print("{} marks are {} now\n", marks, o->into);
    });
}

void addKindRemove(CLI::App& kinds) {
    auto o = std::make_shared<KindOptions>();
    auto* remove = kinds.add_subcommand("remove", "Remove a kind; its marks lose their name, or go with it");
    auto common = addCommon(*remove);
    remove->add_option("--name", o->name, "Which kind")->required();
    remove->add_flag("--with-marks", o->marksToo, "Its marks go as well");
    remove->callback([o, common] {
        const auto study = common->open(false);
        const std::size_t marks = marksOfKind(*study, o->name);
        orRefuse(removeLabelKind(*study, o->name, o->marksToo ? MarksOfKind::Removed : MarksOfKind::Unnamed));
        if (common->asJson) return printJson({{"marks", marks}, {"removed", o->marksToo}});
        fmt::print("{} marks {}\n", marks, o->marksToo ? "removed" : "have lost their name");
    });
}

void addKindFiles(CLI::App& kinds) {
    auto site = std::make_shared<bool>(false);
    auto* out = kinds.add_subcommand("export", "The label book as JSON");
    auto outCommon = addCommon(*out);
    auto file = addOutputFile(*out, false);
    out->add_flag("--site", *site, "As the book that this site's next studies begin with");
    out->callback([file, site, outCommon] {
        checkOutputFile(*file);
        const auto study = outCommon->open();
        const LabelBook book = study->judgement().labelBook();
        if (*site) orRefuse(keepAsSiteBook(book));
        if (!file->path.empty()) orRefuse(writeWhole(file->path, bookText(book)));
        if (file->path.empty() && !*site) std::cout << bookText(book);
    });
    auto from = std::make_shared<std::string>();
    auto* in = kinds.add_subcommand("import", "Take over a label book; kinds with marks stay");
    auto inCommon = addCommon(*in);
    in->add_option("FILE", *from, "As `kinds export` writes it")->required();
    in->callback([from, inCommon] {
        const auto study = inCommon->open(false);
        orRefuse(takeBook(*study, orRefuse(readBook(orRefuse(readWhole(*from))))));
        if (inCommon->asJson) printJson(bookJson(study->judgement().labelBook()));
    });
}

}  // namespace

void addLabelKinds(CLI::App& label) {
    auto* kinds = label.add_subcommand("kinds", "The label book: the site's kinds of label");
    kinds->require_subcommand(1);
    addKindList(*kinds);
    addNewKind(*kinds);
    addKindEdit(*kinds);
    addKindMerge(*kinds);
    addKindRemove(*kinds);
    addKindFiles(*kinds);
}

}  // namespace jacinth::cli
