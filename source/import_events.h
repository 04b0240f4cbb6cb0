// What was written down: failures, work orders, stops, check readings, shift log, alarms and batches, as
// tables of text.
#pragma once

#include "source/event_forms.h"
#include "source/import_samples.h"

namespace jacinth {

/// Kinds: failures, work-orders, readings, log, alarms, stops, batches. Header names as documented for each,
/// in any order; further columns become facts. A row with an unknown asset or tag is kept aside with the
/// nearest name. A row that is on record already changes nothing.
Result<ImportResult> importEvents(Study& study, const TextSource& source, const std::string& kind,
                                  const LayoutHints& hints);

}  // namespace jacinth
