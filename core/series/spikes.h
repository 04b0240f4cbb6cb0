// Spikes: single samples, or very few, that stand out from both neighbours as the process does not.
#pragma once

#include <optional>
#include <vector>

#include "core/series/series.h"

namespace jacinth {

struct SpikeSearch {
    /// Least prominence in the tag's unit; else fifteen times the noise nearby (1.4826 · median of what is
    /// left without the running median, over some hundred samples), and never less than ten times the finest
    /// difference that is written.
    std::optional<double> prominence;
    /// Greatest width at half the prominence; else three median spacings.
    std::optional<Duration> width;
};

struct Spike {
    Instant from{}, to{};  ///< its first and last sample
    Instant peak{};
    double value = 0;       ///< at the peak
    double prominence = 0;  ///< how far it stands out; above 0 also for a spike downwards
    bool down = false;
};

/// Upwards and downwards, rising in time. Bad samples do not count. They are peaks, as findPeaks defines
/// them, of what is left without the running median, which reaches further than the greatest width on either
/// side: on a slope or a plateau a spike is as prominent as it stands out.
std::vector<Spike> findSpikes(const SeriesView& series, const SpikeSearch& search = {});

}  // namespace jacinth
