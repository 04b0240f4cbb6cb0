// A checksum in every row and a count of the rows of every table, so that a damaged or lost row is noticed
// and named instead of being believed. The samples themselves are checked by SampleStore::verify.
#pragma once

#include "store/database.h"

namespace jacinth {

/// A table whose rows carry `row_sum`. docs/study-format.md says how it is made.
struct SummedTable {
    const char* name;
    const char* key;      ///< its columns, separated by commas
    const char* columns;  ///< that the checksum covers, the key first
    const char* what;     ///< one row of it, for people
    bool large = false;   ///< grows with the samples: read as a whole by a full check alone
};
const std::vector<SummedTable>& summedTables();

/// Gives a connection the SQL function row_sum(table, …), which begins with the table's name so that two
/// tables of one form cannot be taken for each other: a 64-bit FNV-1a over the type, length and bytes of each
/// value, mixed once more at the end.
void addRowSumFunction(Database& db);
/// Makes a writing connection keep the checksums and the counts in `row_count`: triggers of this connection
/// alone, none in the file.
void keepRowSums(Database& db);
/// Checksums of all rows, for a file that had none. Inside a transaction.
void fillRowSums(Database& db);
void fillRowSumsOf(Database& db, const std::string& table);  ///< of one table, whose columns changed
/// Counts the rows of every table. Inside a transaction.
void fillRowCounts(Database& db);
void startRowCount(Database& db, const std::string& table);  ///< of one that was not counted before

/// A condition for WHERE: the row of this table agrees with its checksum.
std::string isWhole(const std::string& table);

enum class Tables { Small, All };
/// One line for each row whose checksum is wrong (`limit set 3: …`) and each table with more or fewer rows
/// than were counted.
std::vector<std::string> damagedRows(Database& db, Tables which);

}  // namespace jacinth
