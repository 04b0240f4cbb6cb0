// ledger, undo, redo, fact: what was done to a study, and facts on its things.
#include <fmt/format.h>

#include "cli/command.h"
#include "core/base/parse_json.h"
#include "store/history.h"
#include "store/tracks.h"
#include "work/settings/facts.h"

namespace jacinth::cli {
namespace {

void addLedger(CLI::App& app) {
    auto* command = app.add_subcommand("ledger", "Everything that changed data or judgement, oldest first");
    auto common = addCommon(*command, {.window = true});
    command->callback([common] {
        const auto study = common->open();
        const TimeRange range = common->hasWindow() ? common->range(*study) : TimeRange{};
        json all = json::array();
        for (const LedgerEntry& e : study->history().ledger()) {
            if (common->hasWindow() && !range.contains(e.at)) continue;
            all.push_back({{"id", e.id},
                           {"at", toIso(e.at)},
                           {"who", e.who},
                           {"what", e.what},
                           {"why", e.why},
                           {"detail", parseJson(e.detail)}});
            if (!common->asJson)
                fmt::print("{:>5}  {}  {:<16} {}{}\n", e.id, toIso(e.at), e.who, e.what,
                           e.why.empty() ? "" : "  – " + e.why);
        }
        if (common->asJson) printJson(all);
    });
}

[[noreturn]] void refuseImport(const History& history, const UndoableStep& import) {
    const auto before = history.nextUndoPastImports();
    throw Refusal{fmt::format(
        "the last change is “{}”, which undo does not take back (`imports remove` removes an import){}",
        import.name,
        before ? fmt::format("; `undo --past-imports` leaves it and undoes “{}”", before->name) : "")};
}

void addStep(CLI::App& app, bool undoing) {
    auto* command =
        app.add_subcommand(undoing ? "undo" : "redo", undoing ? "Undo the last step that can be undone"
                                                              : "Redo the step that was undone last");
    auto common = addCommon(*command);
    auto past = std::make_shared<bool>(false);
    if (undoing)
        command->add_flag("--past-imports", *past,
                          "The last step before imports and their removal, which stay");
    command->callback([common, undoing, past] {
        const auto study = common->open(false);
        History& history = study->history();
        const auto step = !undoing ? history.nextRedo()
                          : *past  ? history.nextUndoPastImports()
                                   : history.nextUndo();
        if (step && step->isImport) refuseImport(history, *step);
        const std::string name = step ? step->name : "";
        orRefuse(!undoing ? history.redo()
                          : history.undo({}, *past ? History::Imports::PassOver : History::Imports::Stop));
        if (common->asJson) return printJson({{undoing ? "undone" : "redone", name}});
        fmt::print("{}: {}\n", undoing ? "undone" : "redone", name);
    });
}

struct OnWhat {
    std::string tag;
    SpanId run, label, failure;
    std::vector<std::string> facts;
};

void addOnWhat(CLI::App& command, OnWhat& on) {
    command.add_option("--tag", on.tag, "Asset/Tag");
    command.add_option("--run", on.run, "Id of a run");
    command.add_option("--label", on.label, "Id of a label");
    command.add_option("--failure", on.failure, "Id of a recorded failure");
}

FactOwner ownerOf(const Study& study, const Common& common, const OnWhat& on) {
    const int said =
        !common.asset.empty() + !on.tag.empty() + bool(on.run) + bool(on.label) + bool(on.failure);
    if (said != 1) throw CLI::ValidationError("say one of --asset, --tag, --run, --label and --failure");
    if (!common.asset.empty()) return orRefuse(study.catalog().assetCalled(common.asset)).id;
    if (!on.tag.empty()) return orRefuse(study.catalog().tagAt(on.tag)).id;
    const SpanId id = on.run ? on.run : on.label ? on.label : on.failure;
    const char* kind = on.run ? track_kind::kRuns : on.label ? track_kind::kLabels : track_kind::kFailures;
    for (const Span& s : study.tracks().spansOf(kind))
        if (s.id == id) return id;
    throw Refusal{fmt::format("{} is not a {} of this study", id,
                              on.run     ? "run"
                              : on.label ? "label"
                                         : "failure")};
}

void addFactKinds(CLI::App& fact) {
    auto* kinds = fact.add_subcommand("kinds", "What may be said of things, and in which form");
    kinds->require_subcommand(1);
    const auto toJson = [](const FactKind& k) {
        return json{{"name", k.name},
                    {"type", factTypeName(k.type)},
                    {"unit", k.unit},
                    {"choices", k.choices},
                    {"meaning", k.meaning}};
    };
    auto* list = kinds->add_subcommand("list", "Every kind of fact");
    auto listCommon = addCommon(*list);
    list->callback([listCommon, toJson] {
        const auto study = listCommon->open();
        json all = json::array();
        for (const FactKind& k : study->judgement().factKinds()) {
            all.push_back(toJson(k));
            if (!listCommon->asJson)
                fmt::print("{:<20} {} {}{}\n", k.name, factTypeName(k.type), k.unit,
                           k.meaning.empty() ? "" : ": " + k.meaning);
        }
        if (listCommon->asJson) printJson(all);
    });
    auto kind = std::make_shared<FactKind>();
    auto type = std::make_shared<std::string>("text");
    auto* set = kinds->add_subcommand("set", "Add a kind of fact, or change the one of that name");
    auto setCommon = addCommon(*set);
    set->add_option("--name", kind->name, "What it is called")->required();
    set->add_option("--type", *type, "number, choice, text, time or yes/no");
    set->add_option("--unit", kind->unit, "Of a number");
    set->add_option("--choice", kind->choices, "Of a choice, once for each");
    set->add_option("--meaning", kind->meaning, "What it means");
    set->callback([kind, type, setCommon, toJson] {
        const auto known = factTypeNamed(*type);
        if (!known)
            throw Refusal{fmt::format("`{}` is not a type; number, choice, text, time, yes/no are", *type)};
        kind->type = *known;
        const auto study = setCommon->open(false);
        orRefuse(keepFactKind(*study, *kind));
        if (setCommon->asJson) printJson(toJson(*kind));
    });
    auto name = std::make_shared<std::string>();
    auto* remove = kinds->add_subcommand("remove", "Remove a kind of fact; facts of it stay");
    auto removeCommon = addCommon(*remove);
    remove->add_option("--name", *name, "Which")->required();
    remove->callback([name, removeCommon] {
        const auto study = removeCommon->open(false);
        orRefuse(removeFactKind(*study, *name));
    });
}

void addFacts(CLI::App& app) {
    auto* fact = app.add_subcommand("fact", "Facts on assets, tags, runs, labels and failures");
    fact->require_subcommand(1);
    auto* set = fact->add_subcommand("set", "Set facts; NAME= removes one");
    auto on = std::make_shared<OnWhat>();
    auto common = addCommon(*set, {.asset = true});
    addOnWhat(*set, *on);
    set->add_option("facts", on->facts, "NAME=VALUE; a value that is a number is kept as one")->required();
    set->callback([on, common] {
        const auto study = common->open(false);
        const FactOwner owner = ownerOf(*study, *common, *on);
        std::vector<FactChange> changes;
        for (const std::string& text : on->facts) changes.push_back(orRefuse(factChangeFrom(*study, text)));
        orRefuse(changeFacts(*study, {owner}, changes));
        if (common->asJson) printJson(factsJson(orRefuse(factsOf(*study, owner))));
    });
    addFactKinds(*fact);
    auto* list = fact->add_subcommand("list", "The facts of one thing");
    auto listCommon = addCommon(*list, {.asset = true});
    addOnWhat(*list, *on);
    list->callback([on, listCommon] {
        const auto study = listCommon->open();
        const Facts facts = orRefuse(factsOf(*study, ownerOf(*study, *listCommon, *on)));
        if (listCommon->asJson) return printJson(factsJson(facts));
        for (const auto& [name, value] : facts) fmt::print("{} = {}\n", name, factText(facts, name));
    });
}

}  // namespace

void addHistoryCommands(CLI::App& app) {
    addLedger(app);
    addStep(app, true);
    addStep(app, false);
    addFacts(app);
}

}  // namespace jacinth::cli
