// evidence: folders of pictures beside the traces
#include <fmt/format.h>

#include "cli/command.h"
#include "work/label/evidence_files.h"

namespace jacinth::cli {
namespace {

EvidenceSource sourceOrRefuse(const Study& study, const std::string& name) {
    std::string known;
    for (const EvidenceSource& s : study.judgement().evidence()) {
        if (s.name == name) return s;
        known += (known.empty() ? "" : ", ") + s.name;
    }
    throw Refusal{known.empty() ? "the study has no evidence yet"
                                : fmt::format("`{}` is not among the evidence: {}", name, known)};
}

json sourceJson(const Study& study, const EvidenceSource& s) {
    const Asset* asset = study.catalog().asset(s.asset);
    const auto frames = framesOf(study, s);
    const Status good = checkEvidence(study, s);
    json out{{"name", s.name},
             {"kind", nameOf(s.kind)},
             {"path", s.path},
             {"asset", asset ? asset->name : ""},
             {"offset", toSeconds(s.offset)},
             {"how", s.how},
             {"frames", frames ? frames->size() : 0},
             {"trouble", good ? json() : json(good.error().message)}};
    if (s.kind == EvidenceKind::Video) out["begins"] = toIso(s.begins + s.offset);
    if (frames) out.update(rangeJson({frames->front().time + s.offset, frames->back().time + s.offset}));
    return out;
}

void placeEvidence(const Study& study, EvidenceSource& source, EvidenceKind kind, const std::string& path,
                   const std::string& begins) {
    source.kind = kind;
    source.path = evidencePathFor(study, path);
    if (kind == EvidenceKind::Frames) return;
    if (!begins.empty()) {
        source.begins = orRefuse(fromIso(begins));
        return;
    }
    const auto taken = timeInName(std::filesystem::path(path).filename().string(), study.zone());
    if (!taken)
        throw Refusal{fmt::format("the name {} tells no time: say when it was taken, --begins", path)};
    source.begins = *taken;
}

void addEvidenceAdd(CLI::App& evidence) {
    auto source = std::make_shared<EvidenceSource>();
    auto path = std::make_shared<std::array<std::string, kEvidenceKinds.size()>>();
    auto begins = std::make_shared<std::string>();
    auto* add = evidence.add_subcommand("add", "Add a folder of pictures, a video or one picture");
    auto common = addCommon(*add, {.asset = true});
    add->add_option("--name", source->name, "What it is called")->required();
    auto* which = add->add_option_group("which")->require_option(1);
    which->add_option("--folder", (*path)[0], "Pictures with times in their names");
    which->add_option("--video", (*path)[1], "A video");
    which->add_option("--picture", (*path)[2], "One picture");
    add->add_option("--begins", *begins,
                    "When the video begins, or the picture was taken; else its name tells it");
    add->callback([source, path, begins, common] {
        const auto study = common->open(false);
        for (std::size_t kind = 0; kind < path->size(); ++kind)
            if (!(*path)[kind].empty())
                placeEvidence(*study, *source, static_cast<EvidenceKind>(kind), (*path)[kind], *begins);
        if (!common->asset.empty()) source->asset = orRefuse(study->catalog().assetCalled(common->asset)).id;
        orRefuse(checkEvidence(*study, *source));
        orRefuse(keepEvidence(*study, *source));
        if (common->asJson) printJson(sourceJson(*study, *source));
    });
}

void addEvidenceClock(CLI::App& evidence) {
    auto name = std::make_shared<std::string>();
    auto offset = std::make_shared<std::string>();
    auto* clock = evidence.add_subcommand("clock", "Say by how much its clock is off");
    auto common = addCommon(*clock);
    clock->add_option("--name", *name, "Which")->required();
    clock->add_option("--offset", *offset, "What has to be added to its times: 40s, or -40s")->required();
    clock->callback([name, offset, common] {
        const auto study = common->open(false);
        const bool back = offset->starts_with('-');
        const Duration by = orRefuse(parseDuration(back ? offset->substr(1) : *offset));
        const EvidenceSource source = sourceOrRefuse(*study, *name);
        orRefuse(setEvidenceOffset(*study, source.id, back ? -by : by, "as told"));
        if (common->asJson) printJson(sourceJson(*study, sourceOrRefuse(*study, *name)));
    });
}

}  // namespace

void addEvidenceCommands(CLI::App& app) {
    auto* evidence = app.add_subcommand("evidence", "What shows what really happened: pictures by time");
    evidence->require_subcommand(1);
    addEvidenceAdd(*evidence);
    addEvidenceClock(*evidence);
    auto* list = evidence->add_subcommand("list", "Every source");
    auto common = addCommon(*list);
    list->callback([common] {
        const auto study = common->open();
        json all = json::array();
        for (const EvidenceSource& s : study->judgement().evidence()) all.push_back(sourceJson(*study, s));
        if (common->asJson) return printJson(all);
        for (const json& s : all)
            fmt::print("{:<20} {:<10} {} frames, clock {:+} s  {}\n", s["name"].get<std::string>(),
                       s["asset"].get<std::string>(), s["frames"].get<int>(), s["offset"].get<double>(),
                       s["path"].get<std::string>());
    });
    auto name = std::make_shared<std::string>();
    auto* remove = evidence->add_subcommand("remove", "Remove a source; the pictures stay where they are");
    auto removeCommon = addCommon(*remove);
    remove->add_option("--name", *name, "Which")->required();
    remove->callback([name, removeCommon] {
        const auto study = removeCommon->open(false);
        orRefuse(removeEvidence(*study, sourceOrRefuse(*study, *name).id));
    });
}

}  // namespace jacinth::cli
