// Steps that nobody saw happen: in a stop, while what is measured was off, in a gap, or in a tag too noisy to
// show them at one moment. They show as a level that differs from then on.
#pragma once

#include <vector>

#include "core/steps/estimate.h"
#include "core/steps/tag_scan.h"

namespace jacinth {

struct LevelShift {
    TimeRange between{};  ///< within which it happened
    TimeRange reach{};    ///< whose levels tell of it: a step in here may be the same
    Instant seen{};       ///< the first moment known to be of the new level
    double size = 0, error = 0;
    double score = 0;   ///< |size| over what such differences usually are, of the kind that shows it most
    double change = 0;  ///< from one stretch to the next
};

/// With a scale: for each kind of stretch, the median level of four in a row against that of the four before,
/// against what this usually is. A shift is seven times as much or more, with all before on one side of all
/// after (one on either side excepted), and the level even before and after: up to four still earlier and
/// still later ones, at least two, differ by at most 40 % of it, so that neither a drift nor wear counts.
/// Kinds that say the same are joined; where more than two kinds come often enough, two must say so. The time
/// is where two levels fit best, with all times that fit nearly as well (95 % by the likelihood ratio).
///
/// Without any scale: the changes of the mean of the record's blocks (meanChanges), with the spread and the
/// number of values that do not depend on each other, where |t| is at least 5 (10 where neighbouring blocks
/// depend on each other) and the quarters nearest to the change differ by 60 % of the whole or more, so that
/// a trend does not count. Where there are scales and none explains the tag, nothing can judge it: no shift.
std::vector<LevelShift> levelShifts(const TagScan& scan, const BlockGrid& grid);

/// Whether the levels of the four stretches before and after a moment lie apart.
struct Moved {
    std::size_t kinds = 0;  ///< that say so; 0: it did not move
    Estimate by;
};

/// Where two kinds of stretch with the same sign, each by two and a half times what is usual, or one by seven
/// times, say so. The size is that of those kinds together.
Moved movedAt(const TagScan& scan, Instant at);
/// The same by the scale in which most kinds say so: a companion need not have the shape of the tag it goes
/// with.
Moved movedInAnyScale(const TagScan& scan, Instant at);

}  // namespace jacinth
