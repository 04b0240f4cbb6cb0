// Two ways of making limits held against each other: how wide they are, and what each would have flagged.
#pragma once

#include "core/base/progress.h"
#include "store/judgement.h"
#include "work/limits/screening.h"

namespace jacinth {

struct LimitComparison {
    LimitSet a, b;
    std::string role;
    std::vector<SpanId> onlyA, onlyB, both;  ///< runs flagged in this role
    std::size_t runs = 0;                    ///< that were judged
    double hoursA = 0, hoursB = 0;           ///< outside, over all runs
    double widthA = 0, widthB = 0;           ///< median width of the slices, in the tag's unit
};

/// Screens every run of the track by both, each golden run without itself. Fails when it is stopped, or where
/// a set has no limits for the role.
Result<LimitComparison> compareLimits(Study& study, const LimitSet& a, const LimitSet& b,
                                      const std::string& role, const ScreenSpec& spec,
                                      Which which = Which::Mended, const Progress& progress = {});

}  // namespace jacinth
