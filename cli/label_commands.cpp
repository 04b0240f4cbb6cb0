// label add, edit, split, merge, from, remove
#include "cli/label_commands.h"

#include <fmt/format.h>

#include "work/label/label_files.h"
#include "work/label/labels.h"

namespace jacinth::cli {
namespace {

/// What of a mark is said on the command line.
struct MarkOptions {
    std::vector<std::string> tags;
    std::string kind, note, certainty;
    std::vector<std::string> facts;
    SpanId id;
};

void addMarkOptions(CLI::App& command, MarkOptions& o) {
    command.add_option("--tag", o.tags, "Asset/Tag, or a tag of the asset; the whole asset if not given");
    command.add_option("--note", o.note, "A note");
    command.add_option("--certainty", o.certainty, "sure, likely or unsure");
}

std::vector<TagId> tagsNamed(const Study& study, AssetId asset, const std::vector<std::string>& names) {
    std::vector<TagId> out;
    const Asset* of = study.catalog().asset(asset);
    for (const std::string& name : names) {
        const Tag tag = orRefuse(
            study.catalog().tagAt(name.find('/') == std::string::npos && of ? of->name + "/" + name : name));
        if (tag.asset != asset)
            throw Refusal{fmt::format("{} is on another asset than the label", tag.path())};
        out.push_back(tag.id);
    }
    return out;
}

void printLabel(const Common& common, const Study& study, SpanId id, const char* done) {
    if (common.asJson) return printJson(labelToJson(study, *study.tracks().span(id)));
    fmt::print("label {} {}\n", id, done);
}

void put(Span& span, const char* name, const std::string& text) {
    if (text.empty())
        span.facts.erase(name);
    else
        span.facts[name] = text;
}

void addNewLabel(CLI::App& label) {
    auto o = std::make_shared<MarkOptions>();
    auto* add = label.add_subcommand("add", "Mark a stretch");
    auto common = addCommon(*add, {.window = true, .asset = true});
    add->add_option("--kind", o->kind, "From the label book")->required();
    addMarkOptions(*add, *o);
    for (const char* needed : {"--from", "--to", "--asset"}) add->get_option(needed)->required();
    add->callback([o, common] {
        const auto study = common->open(false);
        const Asset asset = orRefuse(study->catalog().assetCalled(common->asset));
        const TimeRange range = common->range(*study);
        Span s{{}, asset.id, {}, range.from, range.to, {}};
        setTags(s, tagsNamed(*study, asset.id, o->tags));
        put(s, label_fact::kCertainty, o->certainty);
        const SpanId id = orRefuse(addLabelled(*study, s, o->kind, o->note));
        printLabel(*common, *study, id, "added");
    });
}

void addLabelEdit(CLI::App& label) {
    auto o = std::make_shared<MarkOptions>();
    auto* edit = label.add_subcommand("edit", "Change a label: only what is said");
    auto common = addCommon(*edit, {.window = true});
    edit->add_option("ID", o->id, "As `label list` says")->required();
    edit->add_option("--kind", o->kind, "From the label book");
    addMarkOptions(*edit, *o);
    edit->callback([o, common, edit] {
        const auto study = common->open(false);
        auto span = study->tracks().span(o->id);
        if (!span) throw Refusal{fmt::format("{} is not a label", o->id)};
        const TimeRange said = common->range(*study);
        if (!common->from.empty()) span->start = said.from;
        if (!common->to.empty()) span->end = said.to;
        if (edit->count("--kind")) put(*span, label_fact::kKind, o->kind);
        if (edit->count("--note")) put(*span, label_fact::kNote, o->note);
        if (edit->count("--certainty")) put(*span, label_fact::kCertainty, o->certainty);
        if (edit->count("--tag")) setTags(*span, tagsNamed(*study, span->asset, o->tags));
        orRefuse(changeLabels(*study, {*span}, "edit label"));
        printLabel(*common, *study, o->id, "changed");
    });
}

void addSplitAndMerge(CLI::App& label) {
    auto id = std::make_shared<SpanId>();
    auto at = std::make_shared<std::string>();
    auto* split = label.add_subcommand("split", "Cut a label in two");
    auto common = addCommon(*split);
    split->add_option("ID", *id, "As `label list` says")->required();
    split->add_option("--at", *at, "Where, ISO 8601 with zone or Z")->required();
    split->callback([id, at, common] {
        const auto study = common->open(false);
        const SpanId later = orRefuse(splitLabel(*study, *id, orRefuse(fromIso(*at))));
        printLabel(*common, *study, later, "is the later part");
    });
    auto ids = std::make_shared<std::vector<SpanId>>();
    auto* merge = label.add_subcommand("merge", "Make one label of several");
    auto mergeCommon = addCommon(*merge);
    merge->add_option("ID", *ids, "As `label list` says")->required();
    merge->callback([ids, mergeCommon] {
        const auto study = mergeCommon->open(false);
        const SpanId whole = orRefuse(mergeLabels(*study, *ids));
        printLabel(*mergeCommon, *study, whole, "is all of them");
    });
}

void addLabelsFrom(CLI::App& label) {
    struct Options {
        std::string track, kind;
    };
    auto o = std::make_shared<Options>();
    auto* command =
        label.add_subcommand("from", "Label every span of a track: kept peaks, stretches, alarms …");
    auto common = addCommon(*command, {.window = true, .asset = true});
    command->add_option("--track", o->track, "Whose spans")->required();
    command->add_option("--kind", o->kind, "From the label book")->required();
    command->callback([o, common] {
        const auto study = common->open(false);
        const Track track = trackOrRefuse(*study, o->track);
        std::vector<Span> spans = study->tracks().spans(track.id);
        common->keepInWindow(*study, spans);
        const LabelledSpans done = orRefuse(labelSpans(*study, spans, o->kind, track.name));
        if (common->asJson)
            return printJson(
                {{"added", done.added.size()}, {"known", done.known}, {"moments", done.moments}});
        fmt::print("{} labels added{}{}\n", done.added.size(),
                   done.known ? fmt::format(", {} stood there already", done.known) : "",
                   done.moments ? fmt::format(", {} are moments without length", done.moments) : "");
    });
}

void addLabelRemove(CLI::App& label) {
    auto ids = std::make_shared<std::vector<SpanId>>();
    auto* command = label.add_subcommand("remove", "Remove labels");
    auto common = addCommon(*command);
    command->add_option("ID", *ids, "As `label list` says")->required();
    command->callback([ids, common] {
        const auto study = common->open(false);
        orRefuse(removeLabels(*study, *ids));
        if (common->asJson) return printJson({{"removed", *ids}});
        for (const SpanId id : *ids) fmt::print("label {} removed\n", id);
    });
}

}  // namespace

void addLabelCommands(CLI::App& app) {
    auto* label = app.add_subcommand("label", "Marks on the record");
    label->require_subcommand(1);
    addNewLabel(*label);
    addLabelEdit(*label);
    addSplitAndMerge(*label);
    addLabelsFrom(*label);
    addLabelRemove(*label);
    addLabelKinds(*label);
    addLabelFiles(*label);
    addLabelSearches(*label);
}

}  // namespace jacinth::cli
