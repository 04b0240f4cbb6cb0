// spikes, stuck
#include "cli/spike_commands.h"

#include <fmt/format.h>

#include "work/mend/hide_spikes.h"
#include "work/mend/stuck_search.h"

namespace jacinth::cli {
namespace {

void list(const Common& common, const std::string& path, const SpikeOptions& options) {
    const auto study = common.open();
    const std::vector<Spike> spikes = spikesIn(*study, path, common.range(*study), options);
    if (common.asJson) {
        json out = json::array();
        for (const Spike& s : spikes)
            out.push_back({{"start", toIso(s.from)},
                           {"end", toIso(s.to)},
                           {"peak", s.value},
                           {"time", toIso(s.peak)},
                           {"prominence", s.prominence},
                           {"down", s.down}});
        return printJson(out);
    }
    const Tag tag = orRefuse(study->catalog().tagAt(path));
    for (const Spike& s : spikes)
        fmt::print("{}  {} {:.5g} {}, {:.4g} from its neighbours\n", study->zone().preciseText(s.peak),
                   s.down ? "down to" : "up to", s.value, tag.unit, s.prominence);
    if (spikes.empty()) fmt::print("no spikes\n");
}

void listStuck(const Common& common, const std::string& tag, StuckQuestion question) {
    const auto study = common.open();
    question.range = common.range(*study);
    if (!tag.empty()) question.tag = orRefuse(study->catalog().tagAt(tag)).id;
    if (!common.asset.empty()) question.assets = {orRefuse(study->catalog().assetCalled(common.asset)).id};
    const auto found = orRefuse(findStuck(*study, question, progressOnStderr("stuck")));
    if (!common.asJson) {
        for (const FoundStuck& f : found)
            fmt::print("{}  {}\n", study->zone().text(f.stretch.range.from), stuckSentence(*study, f));
        if (found.empty()) fmt::print("no stuck stretches\n");
        return;
    }
    json out = json::array();
    for (const FoundStuck& f : found) {
        const Tag* beside = study->catalog().tag(f.beside);
        out.push_back(
            {{"tag", study->catalog().tag(f.tag)->path()},
             {"start", toIso(f.stretch.range.from)},
             {"end", toIso(f.stretch.range.to)},
             {"value", f.stretch.value},
             {"samples", f.stretch.samples},
             {"usual", f.stretch.usual},
             {"beside", beside ? json(beside->path()) : json()},
             {"besideMoved", beside && std::isfinite(f.besideMoved) ? json(f.besideMoved) : json()}});
    }
    printJson(out);
}

}  // namespace

void addSpikeOptions(CLI::App& command, SpikeOptions& options) {
    command
        .add_option("--prominence", options.prominence,
                    "spikes: how far they stand out at least, in the tag's unit; by the noise if not given")
        ->check(CLI::PositiveNumber);
    command.add_option("--width", options.width,
                       "spikes: how wide they are at most, like 30s; three spacings if not given");
}

std::vector<Spike> spikesIn(const Study& study, const std::string& path, TimeRange range,
                            const SpikeOptions& options) {
    SpikeSearch search;
    search.prominence = options.prominence;
    if (options.width) {
        const auto width = parseDuration(*options.width);
        if (!width) throw CLI::ValidationError(width.error().message);
        search.width = *width;
    }
    return orRefuse(spikesOf(study, orRefuse(study.catalog().tagAt(path)), range, search));
}

namespace {

void addSpikes(CLI::App& app) {
    auto* command =
        app.add_subcommand("spikes", "Spikes of a tag: samples that stand out from both neighbours");
    const auto common = addCommon(*command, {.window = true});
    const auto tag = std::make_shared<std::string>();
    const auto options = std::make_shared<SpikeOptions>();
    command->add_option("--tag", *tag, "Asset/Tag")->required();
    addSpikeOptions(*command, *options);
    command->callback([common, tag, options] { list(*common, *tag, *options); });
}

void addStuck(CLI::App& app) {
    auto* command = app.add_subcommand(
        "stuck", "Stretches in which a sensor reads one value for longer than it ever does by itself");
    const auto common = addCommon(*command, {.window = true, .asset = true});
    const auto tag = std::make_shared<std::string>();
    const auto question = std::make_shared<StuckQuestion>();
    command->add_option("--tag", *tag, "Asset/Tag; all if not given");
    addDuration(*command, "--least", question->search.least, "Least length of a stretch (30m)");
    command->callback([common, tag, question] { listStuck(*common, *tag, *question); });
}

}  // namespace

void addSpikeCommands(CLI::App& app) {
    addSpikes(app);
    addStuck(app);
}

}  // namespace jacinth::cli
