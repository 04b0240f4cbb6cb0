// The days before several failures, laid over each other at the moment of failure.
#pragma once

#include <vector>

#include "core/series/summary.h"

namespace jacinth {

/// One stretch in even columns of time: means, and what was truly the least and the greatest. NaN where
/// nothing was measured.
struct LeadUpLine {
    std::vector<double> mean, least, greatest;
};
/// `columns` as Study::columns gives them for the range: each goes to where its first sample lies, and to
/// every column up to its last.
LeadUpLine leadUpLine(const std::vector<Summary>& columns, TimeRange range, int bins);

/// Several of them in one: quantiles of the means (10, 25, 50, 75, 90 %) where three or more lines have one,
/// and the least and greatest of all.
struct LeadUpBand {
    std::vector<double> low, lowMiddle, median, highMiddle, high, least, greatest;
};
LeadUpBand leadUpBand(const std::vector<LeadUpLine>& lines);

/// Moments that no failure follows within `after` and none came before within `before`, in `record`, chosen
/// at random: the stretch of `before` up to each is one without failure. As many as asked for, or none where
/// the record has no such moment. The same seed gives the same moments.
std::vector<Instant> quietMoments(const std::vector<Instant>& failures, TimeRange record, Duration before,
                                  Duration after, std::size_t count, unsigned seed);

}  // namespace jacinth
