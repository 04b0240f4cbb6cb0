// Differences between two people's labels, settled one by one.
#pragma once

#include "core/label/agreement.h"
#include "store/study.h"

namespace jacinth {

/// How a difference was settled: what both say from now on.
struct Settled {
    std::string kind;    ///< of the label book; empty: that nothing is there
    std::string reason;  ///< kept in the ledger and as the note of the label
};

/// Makes both of them say the same of the stretch, as one undoable step: labels of either that say something
/// else there lose that part (one that covers it is cut in two), and whoever did not say it gets a label of
/// the kind over the stretch, joined with labels of the same kind that touch it. Labels about some tags only
/// are cut like others. Fails on a kind that is not in the label book, on an empty reason, and where neither
/// says anything there any more.
Status settleDifference(Study& study, const Difference& difference, const std::string& one,
                        const std::string& two, const Settled& how);

}  // namespace jacinth
