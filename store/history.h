// The steps that can be undone, as they are kept.
#pragma once

#include "store/database.h"

namespace jacinth {

/// The number of the newest step that is not undone; 0 for none.
std::int64_t newestStep(Database& db);

/// Makes one step of the newest two, under the name of the newer, where `first` is the older of them: for
/// work that has to commit half-way. Does nothing where another step has come between, or was undone since.
void joinSteps(Database& db, std::int64_t first);

}  // namespace jacinth
