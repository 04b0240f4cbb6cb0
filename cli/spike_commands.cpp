// spikes
#include "cli/spike_commands.h"

#include <fmt/format.h>

#include "work/mend/hide_spikes.h"

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

void addSpikeCommands(CLI::App& app) {
    auto* command =
        app.add_subcommand("spikes", "Spikes of a tag: samples that stand out from both neighbours");
    const auto common = addCommon(*command, {.window = true});
    const auto tag = std::make_shared<std::string>();
    const auto options = std::make_shared<SpikeOptions>();
    command->add_option("--tag", *tag, "Asset/Tag")->required();
    addSpikeOptions(*command, *options);
    command->callback([common, tag, options] { list(*common, *tag, *options); });
}

}  // namespace jacinth::cli
