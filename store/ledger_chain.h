// The ledger's chain: every line carries the hash of the one before, so that a changed, removed or inserted
// line is noticed.
#pragma once

#include "store/database.h"

namespace jacinth {

/// SHA-256 of the line before and of what this line says, in hexadecimal. docs/study-format.md gives the
/// bytes. `before` is empty for the first line.
std::string ledgerHash(const std::string& before, std::int64_t id, Instant at, const std::string& who,
                       const std::string& what, const std::string& why, const std::string& detail);

/// Adds a line and moves the head. Inside a transaction.
void addLedgerLine(Database& db, Instant at, const std::string& who, const std::string& what,
                   const std::string& why, const std::string& detail);

/// Hashes of all lines and the head, for a file that had none. Inside a transaction.
void chainLedger(Database& db);

/// What does not agree: one line a fault.
std::vector<std::string> checkLedger(Database& db);

}  // namespace jacinth
