// What people write down about the record (shift log, check readings, failures, stops, work orders): entered,
// changed and removed, each as one undoable step.
#pragma once

#include "store/study.h"

namespace jacinth {

/// Where one kind of entry is kept, and what it is called in the ledger.
struct WrittenOn {
    std::string trackKind;  ///< see track_kind
    std::string trackName;  ///< of the track that is made where there is none of that kind
    std::string words;      ///< `check reading`
};

/// Enters the span, or with an id changes the one of that id; it may change its kind with that. The ledger
/// says the facts before and after. Fails on a span that ends before it starts, and on an id that is not
/// there.
Status keepWritten(Study& study, const Span& span, const WrittenOn& on);
/// Fails on an id of which the study has no span.
Status removeWritten(Study& study, SpanId id);

}  // namespace jacinth
