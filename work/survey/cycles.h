// The same measure over every stretch between two stops, lined up: a slow loss that repeats after each shows.
#pragma once

#include <functional>

#include "core/base/progress.h"
#include "core/series/resample.h"
#include "core/stats/common_slope.h"
#include "store/study.h"
#include "store/tracks.h"

namespace jacinth {

struct CycleSpec {
    AssetId asset;
    TagId tag;
    std::string kind =
        track_kind::kStops;  ///< of the spans that part the cycles: stops, work orders, failures
    std::string words;       ///< only those whose text holds this; any case; empty for all
    Period every;            ///< one figure for each such length, counted from the cycle's start
    std::string
        only;  ///< a condition (see docs/expressions.md): only samples while it is true; empty for all
    Which which = Which::Mended;
};

struct Cycle {
    TimeRange range;          ///< from the end of one parting span to the start of the next
    bool open = false;        ///< begins or ends with the record
    Stretch days;             ///< x: days since the cycle began, y: the tag's mean then
    std::vector<Instant> at;  ///< when each figure was
};

struct CyclePicture {
    std::vector<Cycle> cycles;          ///< in time order
    std::vector<Span> parting;          ///< the spans between them
    std::optional<CommonSlope> slopes;  ///< one line a cycle
    std::string unit;
    std::string says;  ///< one sentence: shared, not shared, or too little to say
};

/// Fails with words for the user: an error in the condition, no such spans on the asset.
Result<CyclePicture> cyclesOf(Study& study, const CycleSpec& spec, const Progress& progress = {});

}  // namespace jacinth
