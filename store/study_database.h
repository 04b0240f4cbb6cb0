// The database under a study, for store/ and for tests that damage it.
#pragma once

#include "store/database.h"
#include "store/study.h"

namespace jacinth {

Database& databaseOf(Study& study);

}  // namespace jacinth
