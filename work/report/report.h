// What a study holds, for reading away from it: HTML with its own drawings, and plain text of a proof.
#pragma once

#include "core/base/progress.h"
#include "core/prove/prove.h"
#include "store/study.h"
#include "work/base/asset_groups.h"

namespace jacinth {

/// One page: record, runs, limits with the worst run drawn against them, excursions, fixes, labels, rules as
/// proved now. Where assets are gathered by a fact, what each group has is counted first; where one group is
/// looked at alone, only what is on its assets is listed, while the figures of a rule are of all. Fails only
/// when it is stopped.
Result<std::string> reportHtml(Study& study, const Progress& progress = {}, const Grouping& grouping = {});

/// The one line that says what a proof is worth:
/// `3 of 5 testable failures caught (23 – 88 %); 2 OF 7 RECORDED FAILURES COULD NOT BE TESTED`.
std::string caughtText(const Proof& p);
/// A proof as a few lines of text; `most`: the longest warning that its detection window has room for.
std::string proofText(const Study& study, const Proof& proof, Duration most = {});

}  // namespace jacinth
