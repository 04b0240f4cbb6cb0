// A source read into a study as one import.
#pragma once

#include "core/base/progress.h"
#include "source/record_writer.h"

namespace jacinth {

/// Reads what is asked for of a source into the study, in batches, each one transaction: what is committed
/// stays when the work is stopped or fails, and reading again changes nothing that is there. Where a stored
/// sample has the same instant, the newest import stands. Fails, without effect, where none of the rows can
/// be read.
Result<ImportResult> importRecord(Study& study, RecordSource& source, const ReadRequest& request = {},
                                  const Progress& progress = {});

}  // namespace jacinth
