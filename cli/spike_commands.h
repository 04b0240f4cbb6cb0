// The options by which spikes are looked for, for the commands that list them and that hide them.
#pragma once

#include "cli/command.h"
#include "core/series/spikes.h"

namespace jacinth::cli {

struct SpikeOptions {
    std::optional<double> prominence;
    std::optional<std::string> width;
    bool given() const { return prominence || width; }
};

/// Adds --prominence and --width.
void addSpikeOptions(CLI::App& command, SpikeOptions& options);
/// Refuses a tag that is not there or holds states.
std::vector<Spike> spikesIn(const Study& study, const std::string& tag, TimeRange range,
                            const SpikeOptions& options);

}  // namespace jacinth::cli
