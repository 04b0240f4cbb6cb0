// label
#include <fmt/format.h>

#include <iostream>

#include "cli/command.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/write_file.h"
#include "work/label/labels.h"

namespace jacinth::cli {
namespace {

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
        for (const LabelKind& k : study->judgement().labelBook()) {
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
        if (o->key.size() > 1) throw Refusal{"a key is one character"};
        const LabelKind kind{o->name, o->meaning, o->colour, o->key.empty() ? '\0' : o->key[0], o->normal};
        orRefuse(addLabelKind(*study, kind));
        if (common->asJson) printJson(kindJson(kind));
    });
}

void addFrom(CLI::App& label) {
    struct Options {
        std::string track, kind;
    };
    auto o = std::make_shared<Options>();
    auto* command =
        label.add_subcommand("from", "Label every span of a track: kept peaks, stretches, alarms …");
    auto common = addCommon(*command, {true, true});
    command->add_option("--track", o->track, "Whose spans")->required();
    command->add_option("--kind", o->kind, "From the label book")->required();
    command->callback([o, common] {
        const auto study = common->open(false);
        const Track track = trackOrRefuse(*study, o->track);
        std::vector<Span> spans = study->tracks().spans(track.id);
        common->keepInWindow(*study, spans);
        const LabelledSpans done = orRefuse(labelSpans(*study, spans, o->kind, track.name));
        if (common->asJson) return printJson({{"added", done.added}, {"known", done.known}});
        fmt::print("{} labels added{}\n", done.added,
                   done.known ? fmt::format(", {} stood there already", done.known) : "");
    });
}

void addRemove(CLI::App& label) {
    auto id = std::make_shared<SpanId>();
    auto* command = label.add_subcommand("remove", "Remove a label");
    auto common = addCommon(*command);
    command->add_option("ID", *id, "As `label list` says")->required();
    command->callback([id, common] {
        const auto study = common->open(false);
        orRefuse(removeLabel(*study, *id));
        if (common->asJson)
            printJson({{"removed", *id}});
        else
            fmt::print("label {} removed\n", *id);
    });
}

}  // namespace

void addLabelCommands(CLI::App& app) {
    auto* label = app.add_subcommand("label", "Marks on the record");
    label->require_subcommand(1);
    addLabelKinds(*label);
    addFrom(*label);
    addRemove(*label);
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
        if (!asset) throw Refusal{study->catalog().assetCalled(common->asset).error().message};
        const TimeRange range = common->range(*study);
        Span s{{}, asset->id, {}, range.from, range.to, {}};
        if (!o->tag.empty())
            s.tag =
                orRefuse(study->catalog().tagAt(
                             o->tag.find('/') == std::string::npos ? common->asset + "/" + o->tag : o->tag))
                    .id;
        const SpanId id = orRefuse(addLabelled(*study, s, o->kind, o->note));
        if (common->asJson)
            printJson(labelJson(*study, *study->tracks().span(id)));
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
            const LabelBook book = study->judgement().labelBook();
            json all = json::array();
            std::string csv = "asset,tag,start,end,kind,meaning,normal,note,by\n";
            std::vector<Span> labels = study->tracks().spansOf(track_kind::kLabels);
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
                orRefuse(writeWhole(o->out, csv));
                return;
            }
            std::cout << csv;
        });
    }
}

}  // namespace jacinth::cli
