// The tables of a study file, and how an older file becomes a current one.
#pragma once

#include "core/base/result.h"
#include "store/database.h"

namespace jacinth {

inline constexpr int kSchemaVersion = 11;
inline constexpr int kApplicationId = 0x4A414349;  // "JACI"

/// Creates the tables in a new file or migrates an older one. Throws StoreError on a file of another program
/// or of a newer Jacinth, and leaves it as it is.
void prepareSchema(Database& db, bool readOnly);

/// Setting of a file: the oldest format whose programs can read it, where that is older than its own. Nothing
/// that they would misread may be in it.
inline constexpr const char* kReadableFrom = "readable from format";
/// A file of a newer format that says it can be read by this one (kReadableFrom), and has all tables of this
/// format as they are here. prepareSchema takes it for reading.
bool isNewerButReadable(Database& db);

/// Makes the tables of an older format in an empty file: for tests of what becomes of such files.
void createTablesOf(Database& db, int version);

/// Fails where the tables, indexes or triggers are not exactly those of this format.
Status checkSchema(Database& db);

/// The tables whose changes can be undone.
const std::vector<std::string>& undoableTables();
/// The same, and the samples: for steps that make or drop derived tags.
const std::vector<std::string>& undoableTablesWithSamples();

}  // namespace jacinth
