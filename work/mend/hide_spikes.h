// Spikes of a tag, found as mended, and the one fix that hides them all.
#pragma once

#include "core/base/progress.h"
#include "core/series/spikes.h"
#include "store/study.h"

namespace jacinth {

/// In the range, piece by piece: memory does not grow with its length. Fails on a tag of states, and where it
/// is stopped.
Result<std::vector<Spike>> spikesOf(const Study& study, const Tag& tag, TimeRange range,
                                    const SpikeSearch& search = {}, const Progress& progress = {});

/// Hides their samples as one class, from the first to the last spike; not entered yet. Fails where there are
/// none.
Result<Fix> hidingFix(TagId tag, const std::vector<Spike>& spikes);

/// For labels, which have a length: each part, from its first sample to the one after its last.
std::vector<Span> spansOver(const Study& study, const Tag& tag, const std::vector<TimeRange>& parts);

}  // namespace jacinth
