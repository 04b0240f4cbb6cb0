// What the other tags of an asset explain of one: found by robust regression, not assumed.
#pragma once

#include <vector>

#include "core/steps/block_levels.h"

namespace jacinth {

/// A companion's level, `lag` blocks ago (before 0: later).
struct CompanionTerm {
    std::size_t tag = 0;
    int lag = 0;
    double coefficient = 0;
};

struct Companions {
    std::vector<CompanionTerm> terms;
    LevelDifference remainder;  ///< the tag less what its companions explain; NaN where one is not known

    /// What the tag's prediction gains where that other tag rises by 1.
    double effectOf(std::size_t tag) const;
};

/// Robust standard deviation about 0 of sizes of 0 or more: 1.4826 · median, or by the 90 % quantile
/// (0.7/1.645 of it) where that says more, as with a tag that mostly stands at one value. NaN of nothing.
double usualSize(std::vector<double> sizes);

/// One for each tag, from the levels of all of them, block by block; NaN where not known.
///
/// Each tag's differences over three hours, so that levels and drifts do not bind it, are regressed on the
/// differences of every other tag, up to eight blocks earlier and one later; with Tukey's biweights, so that
/// steps do not bend it, and a ridge of each regressor's own noise (from its second differences), which is
/// what least squares needs where what explains is noisy itself (Fuller 1987): tags that tell the same share
/// the weight. The ridge is the multiple of it, of three, that explains most of the half of the days left
/// out. Where a companion is not known, what its own companions predict stands for it, joined to its levels
/// before and after.
std::vector<Companions> companionsOf(const std::vector<const std::vector<double>*>& levels,
                                     const BlockGrid& grid);

}  // namespace jacinth
