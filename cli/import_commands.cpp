// imports: what came in, what it replaced, and taking it out again.
#include <fmt/format.h>

#include <algorithm>
#include <iostream>

#include "cli/command.h"
#include "core/series/quality.h"

namespace jacinth::cli {
namespace {

json importJson(const ImportRecord& r) {
    return {{"id", r.id},
            {"at", toIso(r.at)},
            {"file", r.file},
            {"kind", r.kind},
            {"bytes", r.bytes},
            {"rows", r.rows},
            {"samples", r.samples},
            {"replaced", r.replaced},
            {"badRows", r.badRows},
            {"complete", r.complete},
            {"removable", r.removable},
            {"removedAt", r.removedAt ? json(toIso(*r.removedAt)) : json()}};
}

void addList(CLI::App& imports) {
    auto* command = imports.add_subcommand("list", "What was imported");
    auto common = addCommon(*command);
    command->callback([common] {
        const auto study = common->open();
        json out = json::array();
        for (const ImportRecord& r : study->imports()) out.push_back(importJson(r));
        if (common->asJson) return printJson(out);
        for (const ImportRecord& r : study->imports())
            fmt::print("{:>4}  {}  {:<32} {:>11} samples {:>9} replaced {:>6} bad rows{}\n", r.id,
                       toIso(r.at), r.file, r.samples, r.replaced, r.badRows,
                       r.removedAt   ? "  removed"
                       : !r.complete ? "  not complete"
                                     : "");
    });
}

void addRemove(CLI::App& imports) {
    auto* command = imports.add_subcommand(
        "remove", "Take an import's samples out again; older samples that it replaced come back");
    struct Options {
        std::int64_t id = 0;
        std::string why;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command);
    command->add_option("id", o->id, "Number of the import (see imports list)")->required();
    command->add_option("--why", o->why, "For the ledger");
    command->callback([o, common] {
        const auto study = common->open(false);
        const ImportRemoval done = orSayNo(study->removeImport(o->id, o->why));
        if (common->asJson)
            return printJson({{"samples", done.samples}, {"restored", done.restored}, {"tags", done.tags}});
        fmt::print("{} samples of {} tags taken out, {} older ones back in their place\n", done.samples,
                   done.tags, done.restored);
    });
}

void addReplaced(CLI::App& imports) {
    auto* command = imports.add_subcommand("replaced", "The older samples that an import replaced, as CSV");
    auto o = std::make_shared<std::int64_t>(0);
    auto common = addCommon(*command);
    command->add_option("id", *o, "Number of the import (see imports list)")->required();
    command->callback([o, common] {
        const auto study = common->open();
        const auto all = study->imports();
        if (std::none_of(all.begin(), all.end(), [&](const ImportRecord& r) { return r.id == *o; }))
            throw SaysNo{fmt::format("there is no import {}", *o)};
        std::cout << "time,tag,value,quality\n";
        for (const auto& [id, s] : study->replacedSamples(*o)) {
            const Tag* tag = study->catalog().tag(id);
            for (std::size_t i = 0; i < s.size(); ++i)
                std::cout << toIso(s.times[i]) << ',' << csvField(tag->path()) << ','
                          << fmt::format("{}", s.values[i]) << ','
                          << qualityName(s.view().qualityAt(i)) << '\n';
        }
    });
}

}  // namespace

void addImportCommands(CLI::App& app) {
    auto* imports = app.add_subcommand("imports", "What came into a study");
    imports->require_subcommand(1);
    addList(*imports);
    addRemove(*imports);
    addReplaced(*imports);
}

}  // namespace jacinth::cli
