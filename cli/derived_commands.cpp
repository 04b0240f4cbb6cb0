// tag derive, tag derived, tag remove: tags given by an expression. And keeping them up to date.
#include <fmt/format.h>

#include <algorithm>
#include <iostream>

#include "cli/command.h"
#include "store/derived_catalog.h"
#include "work/derived/derived_expressions.h"
#include "work/derived/derived_refresh.h"
#include "work/survey/kept_tags.h"

namespace jacinth::cli {
namespace {

void refreshAndSay(Study& study) {
    std::string said;
    const auto done = refreshDerived(study, [&](const std::string& path, double) {
        if (path != said) std::cerr << "jacinth-cli: calculating " << path << "\n";
        said = path;
        return true;
    });
    if (!done) throw Refusal{done.error().message};
    for (const std::string& trouble : done->trouble) std::cerr << "jacinth-cli: " << trouble << "\n";
}

void addDerive(CLI::App& tag) {
    auto* command = tag.add_subcommand("derive", "Make a tag given by an expression, or give it another one");
    auto spec = std::make_shared<DerivedSpec>();
    auto common = addCommon(*command, {.asset = true});
    command->add_option("--name", spec->name, "Name of the tag")->required();
    command->add_option("--unit", spec->unit, "Unit; that of the expression where not given");
    command->add_option("expression", spec->text, "In the expression language")->required();
    command->callback([spec, common] {
        const auto study = common->open(false);
        spec->asset = common->asset;
        const auto ids = orRefuse(defineDerived(*study, *spec));
        refreshAndSay(*study);
        json out = json::array();
        for (const TagId id : ids) {
            const Tag& made = *study->catalog().tag(id);
            const auto count = study->reader(id).whole(id).count;
            out.push_back({{"tag", made.path()}, {"role", made.role}, {"unit", made.unit}, {"count", count}});
            if (!common->asJson)
                fmt::print("{:<30} @{:<22} {:<6} {:>9} samples\n", made.path(), made.role, made.unit, count);
        }
        if (common->asJson) printJson(out);
    });
}

void addDerived(CLI::App& tag) {
    auto* command = tag.add_subcommand(
        "derived", "The tags given by an expression and those kept, and what they are made from");
    auto common = addCommon(*command, {.asset = true});
    command->callback([common] {
        const auto study = common->open();
        json out = json::array();
        for (const DerivedExpression& d : derivedExpressions(*study)) {
            if (!common->asset.empty() && d.tag.assetName != common->asset) continue;
            json from = json::array();
            for (const TagId id : d.madeFrom) from.push_back(study->catalog().tag(id)->path());
            out.push_back({{"tag", d.tag.path()},
                           {"unit", d.tag.unit},
                           {"expression", d.text},
                           {"tags", from},
                           {"at", d.at != Instant{} ? json(toIso(d.at)) : json()},
                           {"upToDate", !d.stale},
                           {"trouble", d.trouble}});
            if (!common->asJson)
                fmt::print("{:<30} {}{}\n", d.tag.path(), d.text,
                           d.trouble.empty() ? "" : "\n    no samples: " + d.trouble);
        }
        for (const KeptTag& k : keptTags(*study)) {
            if (!common->asset.empty() && k.tag.assetName != common->asset) continue;
            out.push_back({{"tag", k.tag.path()},
                           {"unit", k.tag.unit},
                           {"kept", k.how},
                           {"tags", {k.from}},
                           {"at", k.at == kNoInstant ? json() : json(toIso(k.at))},
                           {"upToDate", !k.behind},
                           {"trouble", k.cannotBeMade}});
            if (!common->asJson)
                fmt::print("{:<30} kept: {} of {}{}\n", k.tag.path(), k.how, k.from,
                           k.behind ? ", which has changed since" : "");
        }
        if (common->asJson) printJson(out);
    });
}

void addAgain(CLI::App& tag) {
    auto* command =
        tag.add_subcommand("again", "Calculate a kept tag again, with those kept together with it");
    auto path = std::make_shared<std::string>();
    auto common = addCommon(*command);
    command->add_option("--tag", *path, "Asset/Tag")->required();
    command->callback([path, common] {
        const auto study = common->open(false);
        const Tag kept = orRefuse(study->catalog().tagAt(*path));
        const auto made = orRefuse(makeAgain(*study, kept.id, progressOnStderr(*path)));
        json out = json::array();
        for (const TagId id : orRefuse(keepDerived(*study, made))) {
            const Tag& t = *study->catalog().tag(id);
            out.push_back({{"tag", t.path()}, {"count", study->reader(id).whole(id).count}});
            if (!common->asJson)
                fmt::print("{:<30} {:>9} samples\n", t.path(), study->reader(id).whole(id).count);
        }
        if (common->asJson) printJson(out);
    });
}

void addRemove(CLI::App& tag) {
    auto* command = tag.add_subcommand("remove", "Remove a derived tag");
    auto path = std::make_shared<std::string>();
    auto common = addCommon(*command);
    command->add_option("--tag", *path, "Asset/Tag")->required();
    command->callback([path, common] {
        const auto study = common->open(false);
        orRefuse(removeDerived(*study, orRefuse(study->catalog().tagAt(*path)).id));
        if (common->asJson) printJson({{"removed", *path}});
    });
}

}  // namespace

std::unique_ptr<Study> Common::open(bool readOnly) const {
    auto opened = orRefuse(Study::open(study, readOnly));
    if (!readOnly && opened->readOnly())
        throw Refusal{fmt::format("{} cannot be written{}", study,
                                  opened->isNewer() ? ": it was made by a newer Jacinth" : "")};
    for (const std::string& damaged : opened->damage())
        std::cerr << "jacinth-cli: damaged: " << damaged << "\n";
    if (!asset.empty()) orRefuse(opened->catalog().assetCalled(asset));
    if (opened->derived().tags().empty()) return opened;
    const auto all = derivedExpressions(*opened);
    const auto stale = std::find_if(all.begin(), all.end(), [](const auto& d) { return d.stale; });
    if (stale == all.end()) return opened;
    auto writing = readOnly ? Study::open(study) : Result<std::unique_ptr<Study>>(std::move(opened));
    if (!writing || (*writing)->readOnly()) {
        std::cerr << "jacinth-cli: " << stale->tag.path()
                  << " is not up to date, and cannot be recalculated: "
                  << (writing ? "the study cannot be written" : writing.error().message) << "\n";
        return orRefuse(Study::open(study, true));
    }
    refreshAndSay(**writing);
    return std::move(*writing);
}

void addDerivedCommands(CLI::App& tag) {
    addDerive(tag);
    addDerived(tag);
    addAgain(tag);
    addRemove(tag);
}

}  // namespace jacinth::cli
