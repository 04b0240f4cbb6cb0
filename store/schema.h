// The tables of a study file, and how an older file becomes a current one.
#pragma once

#include "core/base/result.h"
#include "store/database.h"

namespace jacinth {

inline constexpr int kSchemaVersion = 8;
inline constexpr int kApplicationId = 0x4A414349;  // "JACI"

/// Creates the tables in a new file or migrates an older one. Throws StoreError on a file of another program
/// or of a newer Jacinth, and leaves it as it is.
void prepareSchema(Database& db, bool readOnly);

/// Makes the tables of an older format in an empty file: for tests of what becomes of such files.
void createTablesOf(Database& db, int version);

/// Fails where the tables, indexes or triggers are not exactly those of this format.
Status checkSchema(Database& db);

/// The tables whose changes can be undone.
const std::vector<std::string>& undoableTables();
/// The same, and the samples: for steps that make or drop derived tags.
const std::vector<std::string>& undoableTablesWithSamples();

}  // namespace jacinth
