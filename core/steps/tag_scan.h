// What the search for steps keeps of one tag: small, so that a record of years needs one tag's samples at a
// time.
#pragma once

#include <string>
#include <vector>

#include "core/base/id.h"
#include "core/base/progress.h"
#include "core/steps/block_levels.h"
#include "core/steps/jumps.h"

namespace jacinth {

/// The level of a tag in one stretch of a scale, without the shape that recurs.
struct StretchLevel {
    RecurringStretch stretch;
    double level = 0;
};

struct TagScan {
    TagId tag;
    std::string unit;
    double resolution = 0;                ///< the finest difference written
    std::vector<Jump> jumps;              ///< rising in time
    double usualJump = 0;                 ///< of their figure, where nothing jumps
    LevelDifference levels;               ///< as read
    LevelDifference remainder;            ///< without the shape that recurs; as read where none explains it
    std::vector<StretchLevel> byStretch;  ///< of the scale whose shape was taken away, rising in time
    /// Of every scale, without its own shape.
    std::vector<std::vector<StretchLevel>> byScale;
};

/// `scales`: ways in which the record of the tag's asset recurs (the states of a tag, runs). The one that
/// leaves least is taken, where it leaves less than 80 % of the usual differences over four hours; one with
/// more than two kinds of stretch, which tells more, also where it leaves up to a quarter more than another.
TagScan scanTag(TagId tag, const std::string& unit, const SeriesView& series, const BlockGrid& grid,
                const std::vector<std::vector<RecurringStretch>>& scales, const Progress& progress = {});

}  // namespace jacinth
