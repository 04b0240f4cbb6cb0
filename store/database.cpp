#include "store/database.h"

#include <fmt/format.h>
#include <sqlite3.h>
#include <unistd.h>

#include <cctype>
#include <cmath>
#include <cstring>
#include <map>

#include "core/base/missing.h"
#include "core/base/utf8.h"
#include "store/file_locks.h"

namespace jacinth {
namespace {
constexpr int kLongestValue = 1 << 30;
constexpr std::size_t kMostIdle = 64;
}  // namespace

Statement::Statement(Database& db, std::string_view sql) : db_(db), statement_(db.takePrepared(sql)) {}

Statement::~Statement() {
    if (statement_) db_.giveBack(statement_);
}

Statement::Statement(Statement&& other) noexcept : db_(other.db_), statement_(other.statement_) {
    other.statement_ = nullptr;
}

bool Statement::step() {
    const int code = sqlite3_step(statement_);
    if (code == SQLITE_ROW) return true;
    if (code != SQLITE_DONE) {
        sqlite3_reset(statement_);
        db_.fail("reading or writing");
    }
    sqlite3_reset(statement_);
    return false;
}

bool Statement::more() {
    const int code = sqlite3_step(statement_);
    if (code == SQLITE_ROW) return true;
    const bool broken = (code & 0xFF) == SQLITE_CORRUPT || (code & 0xFF) == SQLITE_NOTADB;
    if (code != SQLITE_DONE && !broken) {
        sqlite3_reset(statement_);
        db_.fail("reading");
    }
    sqlite3_reset(statement_);
    if (broken) db_.noteBroken();
    return false;
}

void Statement::reset() {
    sqlite3_reset(statement_);
    sqlite3_clear_bindings(statement_);
}

std::int64_t Statement::integer(int column) const {
    return sqlite3_column_int64(statement_, column);
}

double Statement::real(int column) const {
    return isNull(column) ? kMissing : sqlite3_column_double(statement_, column);
}

std::string Statement::text(int column) const {
    const auto* text = sqlite3_column_text(statement_, column);
    if (!text) return {};
    std::string out(reinterpret_cast<const char*>(text),
                    static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)));
    // Another program may have written anything: what comes out of here is UTF-8.
    return isUtf8(out) ? out : asUtf8(out, std::string::npos);
}

std::span<const std::uint8_t> Statement::blob(int column) const {
    const auto* data = static_cast<const std::uint8_t*>(sqlite3_column_blob(statement_, column));
    return {data, data ? static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)) : 0};
}

bool Statement::isNull(int column) const {
    return sqlite3_column_type(statement_, column) == SQLITE_NULL;
}

void Statement::bindOne(int i, std::int64_t v) {
    sqlite3_bind_int64(statement_, i, v);
}
void Statement::bindOne(int i, double v) {
    std::isnan(v) ? sqlite3_bind_null(statement_, i) : sqlite3_bind_double(statement_, i, v);
}
void Statement::bindOne(int i, std::string_view v) {
    sqlite3_bind_text(statement_, i, v.data(), static_cast<int>(v.size()), SQLITE_TRANSIENT);
}
void Statement::bindOne(int i, const Blob& v) {
    sqlite3_bind_blob(statement_, i, v.data(), static_cast<int>(v.size()), SQLITE_TRANSIENT);
}
void Statement::bindNull(int i) {
    sqlite3_bind_null(statement_, i);
}

namespace {

/// The path as a URI that says that the file does not change.
std::string immutableUri(const std::string& path) {
    std::string out = "file:";
    for (const char c : path) {
        const auto u = static_cast<unsigned char>(c);
        if (std::isalnum(u) || c == '/' || c == '.' || c == '-' || c == '_')
            out += c;
        else
            out += fmt::format("%{:02X}", u);
    }
    return out + "?immutable=1";
}

}  // namespace

Database::Database(const std::string& path, Mode mode) : path_(path) {
    useLocksOfOpenFiles();
    const bool lies = mode == Mode::AsItLies;
    int flags = mode == Mode::ReadOnly || lies ? SQLITE_OPEN_READONLY : SQLITE_OPEN_READWRITE;
    if (mode == Mode::Create) flags |= SQLITE_OPEN_CREATE;
    if (lies) flags |= SQLITE_OPEN_URI;
    if (sqlite3_open_v2(lies ? immutableUri(path).c_str() : path.c_str(), &db_, flags, nullptr) !=
        SQLITE_OK) {
        const std::string why = db_ ? sqlite3_errmsg(db_) : "no memory";
        sqlite3_close(db_);
        throw StoreError(fmt::format("{} cannot be opened: {}", path, why));
    }
    sqlite3_busy_timeout(db_, 10'000);
    sqlite3_limit(db_, SQLITE_LIMIT_LENGTH, kLongestValue);
}

bool Database::isReplaced() const {
    const char* path = sqlite3_db_filename(db_, "main");
    if (!path || !*path) return false;
    int moved = 0;
    if (sqlite3_file_control(db_, "main", SQLITE_FCNTL_HAS_MOVED, &moved) == SQLITE_OK && moved) return true;
    const std::string file(path);
    return isReplacedOnDisk(file + "-wal") || isReplacedOnDisk(file + "-shm");
}

void Database::leavePlace() {
    const char* path = sqlite3_db_filename(db_, "main");
    int moved = 0;
    if (!path || sqlite3_file_control(db_, "main", SQLITE_FCNTL_HAS_MOVED, &moved) != SQLITE_OK || !moved)
        return;
    // Open descriptors keep reaching the removed files.
    for (const char* end : {"-wal", "-shm"})
        if (const std::string beside = std::string(path) + end; isOpenInThisProcess(beside))
            ::unlink(beside.c_str());
    sqlite3_wal_checkpoint_v2(db_, "main", SQLITE_CHECKPOINT_TRUNCATE, nullptr, nullptr);
}

Database::~Database() {
    finalizeIdle();
    sqlite3_close_v2(db_);
}

sqlite3_stmt* Database::takePrepared(std::string_view sql) {
    if (const auto known = idle_.find(std::string(sql)); known != idle_.end()) {
        sqlite3_stmt* statement = known->second;
        idle_.erase(known);
        return statement;
    }
    sqlite3_stmt* statement = nullptr;
    if (sqlite3_prepare_v3(db_, sql.data(), static_cast<int>(sql.size()), SQLITE_PREPARE_PERSISTENT,
                           &statement, nullptr) != SQLITE_OK)
        fail("preparing a statement");
    return statement;
}

void Database::giveBack(sqlite3_stmt* statement) {
    sqlite3_reset(statement);
    sqlite3_clear_bindings(statement);
    if (idle_.size() >= kMostIdle) finalizeIdle();
    idle_.emplace(sqlite3_sql(statement), statement);
}

void Database::finalizeIdle() {
    for (const auto& [sql, statement] : idle_) sqlite3_finalize(statement);
    idle_.clear();
}

void Database::run(std::string_view sql) {
    if (sqlite3_exec(db_, std::string(sql).c_str(), nullptr, nullptr, nullptr) != SQLITE_OK)
        fail("running a statement");
}

void Database::runStoppable(const std::function<bool()>& goOn, const std::function<void()>& work) {
    constexpr int kSteps = 20'000;  // of SQLite's machine, some milliseconds
    const auto ask = [](void* context) {
        return (*static_cast<const std::function<bool()>*>(context))() ? 0 : 1;
    };
    sqlite3_progress_handler(db_, kSteps, ask, const_cast<std::function<bool()>*>(&goOn));
    const struct Guard {
        sqlite3* db;
        ~Guard() { sqlite3_progress_handler(db, 0, nullptr, nullptr); }
    } guard{db_};
    work();
}

std::int64_t Database::lastId() const {
    return sqlite3_last_insert_rowid(db_);
}
int Database::changes() const {
    return sqlite3_changes(db_);
}

std::int64_t Database::number(std::string_view sql) {
    Statement s(*this, sql);
    return s.step() ? s.integer(0) : 0;
}

void Database::fail(const char* doing) const {
    throw StoreError(fmt::format("{}: {} failed: {}", path_, doing, sqlite3_errmsg(db_)));
}

namespace {
void refuseBroken(const Database& db) {
    if (db.broken())
        throw StoreError(
            "the file is damaged, so nothing is written to it; Check the file says what is lost");
}

void refuseReplaced(const Database& db) {
    if (db.isReplaced())
        throw StoreError(
            "another program has replaced, moved or removed the file of this study while it is open, so "
            "nothing is written to it; save a copy of what is here, or open the file that is there now");
}
}  // namespace

Transaction::Transaction(Database& db) : db_(db) {
    refuseBroken(db_);
    refuseReplaced(db_);
    db_.run("BEGIN IMMEDIATE");
}
Transaction::~Transaction() {
    if (open_) sqlite3_exec(db_.handle(), "ROLLBACK", nullptr, nullptr, nullptr);
}
void Transaction::commit() {
    refuseBroken(db_);
    refuseReplaced(db_);
    db_.run("COMMIT");
    open_ = false;
}

Snapshot::Snapshot(Database& db) : db_(db), ours_(sqlite3_get_autocommit(db.handle()) != 0) {
    if (ours_) db_.run("BEGIN");
}
Snapshot::~Snapshot() {
    if (ours_) sqlite3_exec(db_.handle(), "ROLLBACK", nullptr, nullptr, nullptr);
}

Blob recordChanges(Database& db, const std::vector<std::string>& tables, const std::function<void()>& work) {
    sqlite3_session* session = nullptr;
    if (sqlite3session_create(db.handle(), "main", &session) != SQLITE_OK) db.fail("watching changes");
    const struct Guard {
        sqlite3_session* held;
        ~Guard() { sqlite3session_delete(held); }
    } guard{session};
    for (const std::string& table : tables)
        if (sqlite3session_attach(session, table.c_str()) != SQLITE_OK) db.fail("watching changes");
    work();
    int size = 0;
    void* data = nullptr;
    if (sqlite3session_changeset(session, &size, &data) != SQLITE_OK) db.fail("collecting changes");
    const auto* bytes = static_cast<const std::uint8_t*>(data);
    Blob out(bytes, bytes + size);
    sqlite3_free(data);
    return out;
}

namespace {
/// Calls `take` with table, operation and iterator of each change.
template <typename Take>
void forEachChange(Database& db, const Blob& changes, Take take) {
    sqlite3_changeset_iter* at = nullptr;
    void* data = const_cast<std::uint8_t*>(changes.data());
    if (sqlite3changeset_start(&at, static_cast<int>(changes.size()), data) != SQLITE_OK)
        db.fail("reading changes");
    while (sqlite3changeset_next(at) == SQLITE_ROW) {
        const char* table = nullptr;
        int columns = 0, operation = 0, indirect = 0;
        sqlite3changeset_op(at, &table, &columns, &operation, &indirect);
        take(std::string(table), operation, at);
    }
    if (sqlite3changeset_finalize(at) != SQLITE_OK) db.fail("reading changes");
}
}  // namespace

bool touches(Database& db, const Blob& changes, const std::string& wanted) {
    bool found = false;
    forEachChange(db, changes, [&](const std::string& table, int, auto*) { found |= table == wanted; });
    return found;
}

std::vector<std::int64_t> rowsThatGo(Database& db, const Blob& changes, bool inverse,
                                     const std::string& wanted) {
    std::vector<std::int64_t> out;
    forEachChange(db, changes, [&](const std::string& table, int operation, sqlite3_changeset_iter* at) {
        if (table != wanted || operation != (inverse ? SQLITE_INSERT : SQLITE_DELETE)) return;
        sqlite3_value* key = nullptr;
        if (inverse)
            sqlite3changeset_new(at, 0, &key);
        else
            sqlite3changeset_old(at, 0, &key);
        if (key) out.push_back(sqlite3_value_int64(key));
    });
    return out;
}

namespace {

/// A column of the changed row, before or after; none where the changeset does not hold it.
sqlite3_value* valueIn(sqlite3_changeset_iter* at, int operation, int column, bool after) {
    sqlite3_value* value = nullptr;
    if (after && operation != SQLITE_DELETE) sqlite3changeset_new(at, column, &value);
    if (!after && operation != SQLITE_INSERT) sqlite3changeset_old(at, column, &value);
    return value;
}

}  // namespace

std::vector<std::int64_t> valuesOf(Database& db, const Blob& changes, const std::string& wanted, int column) {
    std::vector<std::int64_t> out;
    forEachChange(db, changes, [&](const std::string& table, int operation, sqlite3_changeset_iter* at) {
        if (table != wanted) return;
        for (const bool after : {false, true})
            if (sqlite3_value* value = valueIn(at, operation, column, after))
                out.push_back(sqlite3_value_int64(value));
    });
    return out;
}

std::vector<std::int64_t> keysWhereChanged(Database& db, const Blob& changes, const std::string& wanted,
                                           int column) {
    std::vector<std::int64_t> out;
    forEachChange(db, changes, [&](const std::string& table, int operation, sqlite3_changeset_iter* at) {
        if (table != wanted || operation != SQLITE_UPDATE) return;
        if (!valueIn(at, operation, column, true)) return;
        if (sqlite3_value* key = valueIn(at, operation, 0, false)) out.push_back(sqlite3_value_int64(key));
    });
    return out;
}

namespace {

/// Of each table in a changeset: how many columns it has now, and where its rows' checksums stand.
struct TableNow {
    int columns = 0, rowSum = -1;
};
using TablesNow = std::map<std::string, TableNow>;

TablesNow tablesNow(Database& db, const Blob& changes) {
    TablesNow out;
    forEachChange(db, changes, [&](const std::string& table, int, auto*) { out[table]; });
    for (auto& [name, now] : out) {
        Statement s(db, fmt::format("PRAGMA table_info({})", name));
        while (s.step()) {
            if (s.text(1) == "row_sum") now.rowSum = now.columns;
            ++now.columns;
        }
    }
    return out;
}

bool sameValue(sqlite3_value* a, sqlite3_value* b) {
    if (!a || !b) return a == b;
    if (sqlite3_value_type(a) != sqlite3_value_type(b)) return false;
    if (sqlite3_value_type(a) == SQLITE_INTEGER) return sqlite3_value_int64(a) == sqlite3_value_int64(b);
    if (sqlite3_value_type(a) == SQLITE_FLOAT) return sqlite3_value_double(a) == sqlite3_value_double(b);
    const int size = sqlite3_value_bytes(a);
    return size == sqlite3_value_bytes(b) &&
           (size == 0 ||
            std::memcmp(sqlite3_value_blob(a), sqlite3_value_blob(b), static_cast<std::size_t>(size)) == 0);
}

/// A row that differs from what a step left is not touched, but for one case: the step was recorded by an
/// earlier format, in which the table had fewer columns. Its rows' checksums are of these columns alone.
int onConflict(void* tables, int conflict, sqlite3_changeset_iter* at) {
    const char* table = nullptr;
    int columns = 0, operation = 0, indirect = 0;
    sqlite3changeset_op(at, &table, &columns, &operation, &indirect);
    const TableNow& now = static_cast<const TablesNow*>(tables)->at(table);
    if (conflict != SQLITE_CHANGESET_DATA || columns >= now.columns) return SQLITE_CHANGESET_ABORT;
    for (int i = 0; i < columns; ++i) {
        sqlite3_value *was = nullptr, *is = nullptr;
        sqlite3changeset_old(at, i, &was);
        sqlite3changeset_conflict(at, i, &is);
        if (i != now.rowSum && was && !sameValue(was, is)) return SQLITE_CHANGESET_ABORT;
    }
    return SQLITE_CHANGESET_REPLACE;
}

}  // namespace

void applyChanges(Database& db, const Blob& changes, bool inverse) {
    int size = static_cast<int>(changes.size());
    void* data = const_cast<std::uint8_t*>(changes.data());
    void* inverted = nullptr;
    TablesNow tables = tablesNow(db, changes);
    if (inverse) {
        if (sqlite3changeset_invert(size, data, &size, &inverted) != SQLITE_OK) db.fail("undoing");
        data = inverted;
    }
    // Without a savepoint of its own: every row would walk through all pages that the savepoint holds, so
    // that a hundred thousand rows took a minute. The caller's transaction is rolled back instead.
    const int code = sqlite3changeset_apply_v2(db.handle(), size, data, nullptr, onConflict, &tables, nullptr,
                                               nullptr, SQLITE_CHANGESETAPPLY_NOSAVEPOINT);
    sqlite3_free(inverted);
    if (code != SQLITE_OK) throw StoreError("what this would take back has been changed since");
}

}  // namespace jacinth
