// Where the samples of a tag are read from: the study's own file, or a record that stays where it is.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "core/base/id.h"
#include "core/mend/fix.h"
#include "core/series/summary.h"

namespace jacinth {

/// Reads by tag id; a tag without samples reads as empty. Fixes are applied on reading: those on record, in
/// ledger order; none to read as logged. From one thread at a time. Throws StoreError where the record cannot
/// be read.
class SampleReader {
  public:
    virtual ~SampleReader() = default;

    /// Samples in [range.from, range.to), and the nearest on either side, so that lines can be drawn to the
    /// edges. Memory and time grow with the samples in the range.
    virtual Series read(TagId tag, TimeRange range, std::span<const Fix> fixes) const = 0;
    /// At most a few summaries per pixel column, in time order, with one sample beyond either edge where
    /// there is one. Time grows with `pixels`, not with the samples in the range.
    virtual std::vector<Summary> columns(TagId tag, TimeRange range, int pixels,
                                         std::span<const Fix> fixes) const = 0;
    /// From the first to just after the last sample; none without samples. Cheap: asked for every tag at
    /// every opening.
    virtual std::optional<TimeRange> extent(TagId tag) const = 0;
    /// Of the logged samples; count 0 where there are none.
    virtual Summary whole(TagId tag) const = 0;
    /// About how many samples lie in the range, for sizing work before it is begun: never fewer.
    virtual std::int64_t countAbout(TagId tag, TimeRange range) const = 0;
    /// The state of the tag's samples: the same number as long as none has changed. What is calculated from
    /// them is out of date where it differs.
    virtual std::int64_t generationOf(TagId tag) const = 0;
};

}  // namespace jacinth
