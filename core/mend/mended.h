// The mended tag: logged samples with the fixes that are on, in the order of the ledger.
#pragma once

#include <functional>

#include "core/mend/fix.h"

namespace jacinth {

/// Where the samples come from that fixes act on. Ranges are half open; what is read is exactly what lies in
/// them.
struct MendSources {
    std::function<Series(TimeRange)> logged;       ///< of the tag itself
    std::function<Series(TagId, TimeRange)> twin;  ///< of another tag, as logged
    TimeRange extent;                              ///< of the tag's logged samples
    Duration spacing{};                            ///< its usual one: where fills put their samples
};

/// The mended samples in a range. Reads what the fixes need around it: for fills up to the samples on both
/// sides of a gap, for a clock the time where its samples were logged. Time and memory grow with the range
/// and that need, not with the record.
Series mendedSamples(std::span<const Fix> fixes, TimeRange range, const MendSources& sources);

/// Applies plain fixes that are on, in order, to samples in place. Others are passed over.
void applyPlainFixes(std::span<const Fix> fixes, Series& series);

}  // namespace jacinth
