// The failures that rules are proved on: written down, counted or not, taken from labels and work orders.
#pragma once

#include "work/prove/proving.h"

namespace jacinth {

/// Enters a failure, or with an id changes it, as one step. Fails where it is of no asset, and on an id that
/// is not there.
Status keepFailure(Study& study, const Span& failure);
Status removeFailures(Study& study, const std::vector<SpanId>& ids);
/// In the score or not, with why not; as one step. Fails on what is not a failure.
Status setCounted(Study& study, const std::vector<SpanId>& ids, bool counted, const std::string& why);

/// What became of spans that were to be failures.
struct FailuresAdded {
    std::size_t added = 0;
    std::size_t known = 0;  ///< a failure of that asset was on record at that moment
};
/// A failure of that kind at the start of every label of a kind of the label book, and of the kinds below it.
Result<FailuresAdded> failuresFromLabels(Study& study, const std::string& labelKind, const std::string& kind);
/// The same for every work order whose text holds the words, without regard to case.
Result<FailuresAdded> failuresFromWorkOrders(Study& study, const std::string& words, const std::string& kind);

}  // namespace jacinth
