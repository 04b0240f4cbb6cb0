// Samples that fixes hide: seen again, and brought back one by one.
#pragma once

#include <optional>

#include "store/study.h"

namespace jacinth {

/// A sample that is usable as logged and that a fix hides.
struct HiddenSample {
    FixId fix;  ///< the first of them in the ledger's order
    Instant time{};
    double value = 0;  ///< as logged
};

/// Those of a tag in a range, by time; nothing where there may be more than `most` samples to look at.
std::optional<std::vector<HiddenSample>> hiddenSamples(const Study& study, const Tag& tag, TimeRange range,
                                                       std::int64_t most = 20'000);

/// Takes one moment out of what a fix hides, as one undoable step; a fix that hides nothing else goes. Fails
/// where the fix does not hide it.
Status bringBack(Study& study, FixId fix, Instant time);

}  // namespace jacinth
