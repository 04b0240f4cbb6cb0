// A checksum in every row of the small tables, so that a damaged row is noticed and named instead of being
// believed. The samples themselves are checked by SampleStore::verify.
#pragma once

#include "store/database.h"

namespace jacinth {

/// A table whose rows carry `sum`. docs/study-format.md says how a sum is made.
struct SummedTable {
    const char* name;
    const char* key;      ///< its columns, separated by commas
    const char* columns;  ///< that the sum covers, the key first
    const char* what;     ///< one row of it, for people
};
const std::vector<SummedTable>& summedTables();

/// Gives a connection the SQL function row_sum(table, …), which begins with the table's name so that two tables of
/// one form cannot be taken for each other: a 64-bit FNV-1a over the type, length and bytes of each
/// value, mixed once more at the end.
void addRowSumFunction(Database& db);
/// Makes a writing connection keep the sums: triggers of this connection alone, none in the file.
void keepRowSums(Database& db);
/// Works the sums of all rows out. Inside a transaction; for files that had none.
void fillRowSums(Database& db);

/// A condition for WHERE: the row of this table agrees with its sum. `alias` where the table has one.
std::string isWhole(const std::string& table, const std::string& alias = {});

/// One line for each row whose sum is wrong: `limit set 3: …`.
std::vector<std::string> damagedRows(Database& db);

}  // namespace jacinth
