// A thin, safe hold on SQLite: a connection, prepared statements, transactions. Errors are thrown as
// StoreError.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "core/base/id.h"
#include "core/time/instant.h"
#include "store/store_error.h"

struct sqlite3;
struct sqlite3_stmt;

namespace jacinth {

using Blob = std::vector<std::uint8_t>;

class Database;

/// A prepared statement. Bind in order with bind(…), then step(); read columns by number from 0. Preparing
/// the same text again costs nothing: the database keeps what was prepared. Must not outlive the database.
class Statement {
  public:
    Statement(Database& db, std::string_view sql);
    ~Statement();
    Statement(Statement&& other) noexcept;
    Statement(const Statement&) = delete;
    Statement& operator=(const Statement&) = delete;

    template <typename... Values>
    Statement& bind(const Values&... values) {
        reset();
        int i = 0;
        (bindOne(++i, values), ...);
        return *this;
    }
    bool step();  ///< true while there is a row
    /// The same for reading what is whole: reading ends where the pages of the file are damaged, and the
    /// database is broken from then on (see Database::broken).
    bool more();
    void run() {
        while (step()) {
        }
    }
    std::int64_t integer(int column) const;
    Instant instant(int column) const { return fromEpochNanoseconds(integer(column)); }
    Duration duration(int column) const { return Duration(integer(column)); }
    template <typename AnyId>
    AnyId id(int column) const {
        return AnyId(integer(column));
    }
    double real(int column) const;  ///< NaN for NULL
    std::string text(int column) const;
    std::span<const std::uint8_t> blob(int column) const;  ///< until the next step
    bool isNull(int column) const;
    /// Releases the row, and the read transaction that it keeps open; a kept statement must do so.
    void reset();

  private:
    void bindOne(int i, std::int64_t v);
    template <typename Kind>
    void bindOne(int i, Id<Kind> v) {
        bindOne(i, v.number);
    }
    void bindOne(int i, Instant v) { bindOne(i, epochNanoseconds(v)); }
    void bindOne(int i, Duration v) { bindOne(i, static_cast<std::int64_t>(v.count())); }
    void bindOne(int i, int v) { bindOne(i, static_cast<std::int64_t>(v)); }
    void bindOne(int i, std::uint32_t v) { bindOne(i, static_cast<std::int64_t>(v)); }
    void bindOne(int i, bool v) { bindOne(i, static_cast<std::int64_t>(v)); }
    void bindOne(int i, double v);  ///< NaN becomes NULL
    void bindOne(int i, std::string_view v);
    void bindOne(int i, const std::string& v) { bindOne(i, std::string_view(v)); }
    void bindOne(int i, const char* v) { bindOne(i, std::string_view(v)); }
    void bindOne(int i, const Blob& v);
    template <typename Some>
    void bindOne(int i, const std::optional<Some>& v) {
        if (v)
            bindOne(i, *v);
        else
            bindNull(i);
    }
    void bindNull(int i);

    Database& db_;
    sqlite3_stmt* statement_ = nullptr;
};

class Database {
  public:
    /// AsItLies reads the file alone and makes no files beside it; nobody may write to it meanwhile.
    enum class Mode { ReadWrite, ReadOnly, AsItLies, Create };
    Database(const std::string& path, Mode mode);
    ~Database();
    Database(const Database&) = delete;
    Database& operator=(const Database&) = delete;

    void run(std::string_view sql);
    /// Does `work` and asks `goOn` again and again meanwhile; where it returns false, the statement that runs
    /// fails.
    void runStoppable(const std::function<bool()>& goOn, const std::function<void()>& work);
    std::int64_t lastId() const;
    int changes() const;
    std::int64_t number(std::string_view sql);  ///< the first column of the first row
    /// Damaged pages were run into: something that was read may lack rows, so nothing is written any more.
    bool broken() const { return broken_; }
    void noteBroken() { broken_ = true; }
    /// The file, or a journal beside it, is another one on the disk now, or gone: another program replaced,
    /// moved or removed it. Nothing is written any more; what was read, and the file as this holds it open,
    /// remains.
    bool isReplaced() const;
    /// Where it is: folds the journal into the file that this has open, and takes the journal's files, as far
    /// as they are this one's, away from beside the file that is at its place now, which would take them for
    /// its own. Does what it can; may be called again.
    void leavePlace();
    sqlite3* handle() const { return db_; }
    /// A statement of this text that nobody uses; prepared now where there is none.
    sqlite3_stmt* takePrepared(std::string_view sql);
    void giveBack(sqlite3_stmt* statement);
    [[noreturn]] void fail(const char* doing) const;

  private:
    void finalizeIdle();
    sqlite3* db_ = nullptr;
    std::unordered_multimap<std::string, sqlite3_stmt*> idle_;  ///< prepared, reset, by their text
    std::string path_;
    bool broken_ = false;
};

/// Begins at once; rolls back unless committed. Fails, also at the end, on a database that is broken.
class Transaction {
  public:
    explicit Transaction(Database& db);
    ~Transaction();
    void commit();

  private:
    Database& db_;
    bool open_ = true;
};

/// Keeps what is read the same, whatever other connections write meanwhile. Inside a transaction it does
/// nothing.
class Snapshot {
  public:
    explicit Snapshot(Database& db);
    ~Snapshot();
    Snapshot(const Snapshot&) = delete;
    Snapshot& operator=(const Snapshot&) = delete;

  private:
    Database& db_;
    bool ours_;
};

/// Records what `work` changes in `tables` as a changeset (see SQLite's session extension).
Blob recordChanges(Database& db, const std::vector<std::string>& tables, const std::function<void()>& work);

/// Does the changeset hold changes of this table?
bool touches(Database& db, const Blob& changes, const std::string& table);
/// Keys of the rows of a table with an integer key that applying the changeset, or its inverse, would delete.
std::vector<std::int64_t> rowsThatGo(Database& db, const Blob& changes, bool inverse,
                                     const std::string& table);

/// What a column of integers holds, before or after, in all changed rows of a table.
std::vector<std::int64_t> valuesOf(Database& db, const Blob& changes, const std::string& table, int column);
/// Keys of the rows of a table with an integer key in which the changeset changes this column.
std::vector<std::int64_t> keysWhereChanged(Database& db, const Blob& changes, const std::string& table,
                                           int column);

/// Applies a changeset, or its inverse, inside a transaction of the caller's, who rolls it back on an error.
/// Throws StoreError where rows have changed since; the checksum of a
/// row may have, where the changeset is of an earlier format with fewer columns.
void applyChanges(Database& db, const Blob& changes, bool inverse);

}  // namespace jacinth
