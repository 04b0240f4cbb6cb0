// The samples of a tag one by one, as logged beside as mended, with the fixes that act on each.
#pragma once

#include <vector>

#include "store/study.h"

namespace jacinth {

struct SampleRow {
    Instant time{};
    double logged = 0, mended = 0;  ///< NaN where there is no sample of that time, or it carries no number
    bool isLogged = false, isMended = false;  ///< is there a sample of that time?
    Quality loggedQuality = Quality::Good, mendedQuality = Quality::Good;
    std::vector<FixId> fixes;  ///< those that are on and act at that time, in the ledger's order
};

struct SampleRows {
    std::vector<SampleRow> rows;  ///< by time
    TimeRange range{};  ///< what they are all samples of: shorter than asked for where there are many
};

/// The samples in a range. Where there are about more than `most` the range is cut to both sides of `middle`.
/// A sample that a clock fix moves stands in two rows, where it was logged and where it went.
SampleRows samplesIn(const Study& study, const Tag& tag, TimeRange range, Instant middle,
                     std::int64_t most = 20'000);

}  // namespace jacinth
