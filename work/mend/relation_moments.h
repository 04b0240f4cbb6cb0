// What is done about a moment at which a relation does not hold: a fix of the tag, or an event that is
// remembered.
#pragma once

#include <optional>
#include <string>

#include "work/mend/relation_check.h"
#include "work/mend/take_out_step.h"

namespace jacinth {

/// The moment's own time: of its row to the end of the row (the next row's start, or as long as the row
/// before).
TimeRange rowOfMoment(const TagRelation& made, const FoundIndicator& moment);

/// The fix that takes the moment out of the tag, not entered yet. Of levels: a point is hidden for its row, a
/// level is shifted from its row to the end of the record, a trend is a ramp from there. Of differences: a
/// point is a shift, a level a ramp. Fails where no fix does that: of logarithms (it would be a factor), a
/// trend of differences.
Result<Fix> fixOfMoment(const Study& study, const RelationQuestion& question, const TagRelation& made,
                        const FoundIndicator& moment);

/// “against Kiln 1/RH twin the level changes by −3.2 ± 0.41 (t −7.8)”, for the ledger.
std::string momentReason(const Study& study, const RelationQuestion& question, const FoundIndicator& moment);

/// Remembers that it is the process, as one undoable step: with the verdicts on suspected steps
/// (work/mend/take_out_step.h), which are not proposed again either. Fails without a reason.
Status rememberMoment(Study& study, const RelationQuestion& question, const TagRelation& made,
                      const FoundIndicator& moment, const std::string& why);
Status forgetMoment(Study& study, const RelationQuestion& question, const TagRelation& made,
                    const FoundIndicator& moment);
/// What was judged about each found moment, in their order.
std::vector<std::optional<JudgedStep>> judgedMoments(const Study& study, const RelationQuestion& question,
                                                     const TagRelation& made);

}  // namespace jacinth
