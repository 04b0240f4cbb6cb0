// Working out derived tags that are stale.
#pragma once

#include <functional>

#include "store/study.h"

namespace jacinth {

/// What was done.
struct DerivedRefresh {
    std::vector<std::string> made;     ///< paths of the recalculated tags
    std::vector<std::string> trouble;  ///< `path: why it has no samples`
};
/// Recalculates what is stale, each after what it is made from: in pieces, on two threads, committed as it
/// goes. Does nothing where nothing is stale. `goOn` gets what is being calculated and the share done; where
/// it returns false, what is not done stays stale. The study must be open for writing, outside of a
/// transaction.
Result<DerivedRefresh> refreshDerived(Study& study,
                                      const std::function<bool(const std::string&, double)>& goOn = {});

}  // namespace jacinth
