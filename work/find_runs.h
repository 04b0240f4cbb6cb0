// Runs of a study: found by an expression, chosen as golden by an expression or by hand.
#pragma once

#include "work/study_inputs.h"

namespace jacinth {

struct RunSearch {
    std::string where;   ///< a condition: true while a run lasts
    Duration least = 0;  ///< shorter ones are no runs
    Duration most = kWithoutEnd;
    Duration join = 0;  ///< a break shorter than this does not end a run
    std::string asset;  ///< only this one; empty for all
};

/// Runs by asset and time, numbered within the asset. Facts of the batch list are taken over where a batch
/// covers most of the run. A run that lasts to the end of the record has the fact unfinished = yes.
Result<std::vector<Span>> findRuns(Study& study, const RunSearch& search, Which which = Which::Mended);

/// Puts found runs on a track, as one undoable change. Runs that are the same as before keep their id, so
/// that golden runs and limits made from them stay.
std::int64_t keepRuns(Study& study, const std::string& track, const RunSearch& search,
                      const std::vector<Span>& runs);

/// The runs of a track for which the expression (about a run) is true.
Result<std::vector<std::int64_t>> runsWhere(Study& study, std::int64_t track, const std::string& where,
                                            Which which = Which::Mended);

}  // namespace jacinth
