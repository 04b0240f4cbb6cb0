#include "store/schema.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>

#include "store/ledger_chain.h"
#include "store/row_sums.h"

namespace jacinth {
namespace {

// One entry a version: from nothing to 1, from 1 to 2, from 2 to 3, and so on.
constexpr std::array<const char*, kSchemaVersion> kMigrations{R"sql(
CREATE TABLE setting(name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE asset(id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, kind TEXT NOT NULL, facts TEXT NOT NULL DEFAULT '{}');
CREATE TABLE tag(
  id INTEGER PRIMARY KEY, asset INTEGER NOT NULL REFERENCES asset(id), name TEXT NOT NULL, role TEXT NOT NULL,
  unit TEXT NOT NULL DEFAULT '', kind INTEGER NOT NULL, longest_gap INTEGER, spacing INTEGER NOT NULL DEFAULT 0,
  UNIQUE(asset, name));
CREATE TABLE state(tag INTEGER NOT NULL REFERENCES tag(id), code INTEGER NOT NULL, name TEXT NOT NULL,
  PRIMARY KEY(tag, code)) WITHOUT ROWID;
CREATE TABLE block(
  id INTEGER PRIMARY KEY, tag INTEGER NOT NULL REFERENCES tag(id), first_time INTEGER NOT NULL, last_time INTEGER NOT NULL,
  count INTEGER NOT NULL, usable INTEGER NOT NULL, first REAL, last REAL, least REAL, greatest REAL, sum REAL NOT NULL,
  spacing INTEGER NOT NULL);
CREATE UNIQUE INDEX block_by_time ON block(tag, first_time);
CREATE TABLE block_samples(block INTEGER PRIMARY KEY REFERENCES block(id), data BLOB NOT NULL);
CREATE TABLE block_cells(block INTEGER PRIMARY KEY REFERENCES block(id), data BLOB NOT NULL);
CREATE TABLE import(
  id INTEGER PRIMARY KEY, at INTEGER NOT NULL, file TEXT NOT NULL, kind TEXT NOT NULL, bytes INTEGER NOT NULL,
  rows INTEGER NOT NULL, samples INTEGER NOT NULL, bad_rows INTEGER NOT NULL, complete INTEGER NOT NULL);
CREATE TABLE bad_row(import INTEGER NOT NULL REFERENCES import(id), line INTEGER NOT NULL, reason TEXT NOT NULL,
  text TEXT NOT NULL);
CREATE TABLE track(id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, kind TEXT NOT NULL, definition TEXT NOT NULL DEFAULT '{}');
CREATE TABLE span(
  id INTEGER PRIMARY KEY, track INTEGER NOT NULL REFERENCES track(id), asset INTEGER NOT NULL DEFAULT 0,
  tag INTEGER NOT NULL DEFAULT 0, start INTEGER NOT NULL, end INTEGER NOT NULL, facts TEXT NOT NULL DEFAULT '{}');
CREATE INDEX span_by_time ON span(track, start);
CREATE TABLE fix(
  id INTEGER PRIMARY KEY, tag INTEGER NOT NULL REFERENCES tag(id), kind TEXT NOT NULL, start INTEGER NOT NULL,
  end INTEGER NOT NULL, start_by REAL NOT NULL, end_by REAL NOT NULL, is_on INTEGER NOT NULL, why TEXT NOT NULL,
  who TEXT NOT NULL, entered INTEGER NOT NULL);
CREATE TABLE golden_run(track INTEGER NOT NULL REFERENCES track(id), span INTEGER NOT NULL, why TEXT NOT NULL,
  PRIMARY KEY(track, span)) WITHOUT ROWID;
CREATE TABLE limit_set(id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, track INTEGER NOT NULL, body TEXT NOT NULL);
CREATE TABLE label_kind(name TEXT PRIMARY KEY, place INTEGER NOT NULL, meaning TEXT NOT NULL, colour TEXT NOT NULL,
  key TEXT NOT NULL, normal INTEGER NOT NULL) WITHOUT ROWID;
CREATE TABLE rule(name TEXT PRIMARY KEY, text TEXT NOT NULL, body TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE ledger(id INTEGER PRIMARY KEY, at INTEGER NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL,
  why TEXT NOT NULL, detail TEXT NOT NULL);
CREATE TRIGGER ledger_is_append_only BEFORE UPDATE ON ledger BEGIN SELECT RAISE(ABORT, 'the ledger is never changed'); END;
CREATE TRIGGER ledger_keeps_all BEFORE DELETE ON ledger BEGIN SELECT RAISE(ABORT, 'the ledger is never changed'); END;
CREATE TABLE history(id INTEGER PRIMARY KEY, name TEXT NOT NULL, changes BLOB NOT NULL, undone INTEGER NOT NULL DEFAULT 0);
)sql",
                                                              R"sql(
CREATE TABLE record_change(tag INTEGER PRIMARY KEY, generation INTEGER NOT NULL);
CREATE TABLE import_part(
  id INTEGER PRIMARY KEY, import INTEGER NOT NULL REFERENCES import(id), tag INTEGER NOT NULL REFERENCES tag(id),
  first_time INTEGER NOT NULL, last_time INTEGER NOT NULL, count INTEGER NOT NULL, instants BLOB);
CREATE INDEX import_part_by_tag ON import_part(tag, first_time);
CREATE TABLE replaced_samples(
  id INTEGER PRIMARY KEY, import INTEGER NOT NULL REFERENCES import(id), tag INTEGER NOT NULL REFERENCES tag(id),
  first_time INTEGER NOT NULL, last_time INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL);
CREATE INDEX replaced_by_tag ON replaced_samples(tag, first_time);
CREATE TABLE block_coarse(block INTEGER PRIMARY KEY REFERENCES block(id), data BLOB NOT NULL);
CREATE TABLE recipe(name TEXT PRIMARY KEY, body TEXT NOT NULL) WITHOUT ROWID;
ALTER TABLE tag ADD COLUMN facts TEXT NOT NULL DEFAULT '{}';
ALTER TABLE import ADD COLUMN replaced INTEGER NOT NULL DEFAULT 0;
ALTER TABLE import ADD COLUMN removed_at INTEGER;
CREATE TABLE derived_tag(tag INTEGER PRIMARY KEY REFERENCES tag(id), definition TEXT NOT NULL);
)sql",
                                                              R"sql(
CREATE TABLE index_page(
  id INTEGER PRIMARY KEY, tag INTEGER NOT NULL REFERENCES tag(id), first_time INTEGER NOT NULL, last_time INTEGER NOT NULL,
  blocks BLOB NOT NULL, quarters BLOB NOT NULL);
CREATE INDEX index_page_by_time ON index_page(tag, first_time);
CREATE TABLE coarse_page(id INTEGER PRIMARY KEY, data BLOB NOT NULL);
)sql",
                                                              R"sql(
ALTER TABLE limit_set RENAME TO limit_set_before;
CREATE TABLE limit_set(id INTEGER PRIMARY KEY, name TEXT NOT NULL, track INTEGER NOT NULL, body TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1, UNIQUE(name, version));
INSERT INTO limit_set(id, name, track, body) SELECT id, name, track, body FROM limit_set_before;
DROP TABLE limit_set_before;
)sql",
                                                              R"sql(
CREATE TABLE derived_state(tag INTEGER PRIMARY KEY, made_from TEXT NOT NULL, at INTEGER NOT NULL,
  trouble TEXT NOT NULL);
)sql",
                                                              R"sql(
CREATE TABLE asset_next(id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL UNIQUE, kind TEXT NOT NULL,
  facts TEXT NOT NULL DEFAULT '{}', row_sum INTEGER);
INSERT INTO asset_next(id, name, kind, facts) SELECT id, name, kind, facts FROM asset;
DROP TABLE asset;
ALTER TABLE asset_next RENAME TO asset;
CREATE TABLE tag_next(
  id INTEGER PRIMARY KEY AUTOINCREMENT, asset INTEGER NOT NULL REFERENCES asset(id), name TEXT NOT NULL,
  role TEXT NOT NULL, unit TEXT NOT NULL DEFAULT '', kind INTEGER NOT NULL, longest_gap INTEGER,
  spacing INTEGER NOT NULL DEFAULT 0, facts TEXT NOT NULL DEFAULT '{}', row_sum INTEGER, UNIQUE(asset, name));
INSERT INTO tag_next(id, asset, name, role, unit, kind, longest_gap, spacing, facts)
  SELECT id, asset, name, role, unit, kind, longest_gap, spacing, facts FROM tag;
DROP TABLE tag;
ALTER TABLE tag_next RENAME TO tag;
CREATE TABLE track_next(id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL UNIQUE, kind TEXT NOT NULL,
  definition TEXT NOT NULL DEFAULT '{}', row_sum INTEGER);
INSERT INTO track_next(id, name, kind, definition) SELECT id, name, kind, definition FROM track;
DROP TABLE track;
ALTER TABLE track_next RENAME TO track;
CREATE TABLE span_next(
  id INTEGER PRIMARY KEY AUTOINCREMENT, track INTEGER NOT NULL REFERENCES track(id), asset INTEGER NOT NULL DEFAULT 0,
  tag INTEGER NOT NULL DEFAULT 0, start INTEGER NOT NULL, end INTEGER NOT NULL, facts TEXT NOT NULL DEFAULT '{}',
  import INTEGER NOT NULL DEFAULT 0, row_sum INTEGER);
INSERT INTO span_next(id, track, asset, tag, start, end, facts) SELECT id, track, asset, tag, start, end, facts FROM span;
DROP TABLE span;
ALTER TABLE span_next RENAME TO span;
CREATE INDEX span_by_time ON span(track, start);
DELETE FROM golden_run WHERE span NOT IN (SELECT id FROM span);
CREATE TABLE fix_next(
  id INTEGER PRIMARY KEY AUTOINCREMENT, tag INTEGER NOT NULL REFERENCES tag(id), kind TEXT NOT NULL,
  start INTEGER NOT NULL, end INTEGER NOT NULL, start_by REAL NOT NULL, end_by REAL NOT NULL, is_on INTEGER NOT NULL,
  why TEXT NOT NULL, who TEXT NOT NULL, entered INTEGER NOT NULL, row_sum INTEGER);
INSERT INTO fix_next(id, tag, kind, start, end, start_by, end_by, is_on, why, who, entered)
  SELECT id, tag, kind, start, end, start_by, end_by, is_on, why, who, entered FROM fix;
DROP TABLE fix;
ALTER TABLE fix_next RENAME TO fix;
CREATE TABLE limit_set_next(id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, track INTEGER NOT NULL,
  body TEXT NOT NULL, version INTEGER NOT NULL DEFAULT 1, row_sum INTEGER, UNIQUE(name, version));
INSERT INTO limit_set_next(id, name, track, body, version) SELECT id, name, track, body, version FROM limit_set;
DROP TABLE limit_set;
ALTER TABLE limit_set_next RENAME TO limit_set;
CREATE TABLE import_next(
  id INTEGER PRIMARY KEY AUTOINCREMENT, at INTEGER NOT NULL, file TEXT NOT NULL, kind TEXT NOT NULL,
  bytes INTEGER NOT NULL, rows INTEGER NOT NULL, samples INTEGER NOT NULL, bad_rows INTEGER NOT NULL,
  complete INTEGER NOT NULL, replaced INTEGER NOT NULL DEFAULT 0, removed_at INTEGER,
  bad_cells INTEGER NOT NULL DEFAULT 0, row_sum INTEGER);
INSERT INTO import_next(id, at, file, kind, bytes, rows, samples, bad_rows, complete, replaced, removed_at)
  SELECT id, at, file, kind, bytes, rows, samples, bad_rows, complete, replaced, removed_at FROM import;
DROP TABLE import;
ALTER TABLE import_next RENAME TO import;
CREATE TABLE bad_row_next(
  id INTEGER PRIMARY KEY AUTOINCREMENT, import INTEGER NOT NULL REFERENCES import(id), line INTEGER NOT NULL,
  reason TEXT NOT NULL, text TEXT NOT NULL, cell TEXT NOT NULL DEFAULT '', row_sum INTEGER);
INSERT INTO bad_row_next(import, line, reason, text) SELECT import, line, reason, text FROM bad_row;
DROP TABLE bad_row;
ALTER TABLE bad_row_next RENAME TO bad_row;
CREATE INDEX bad_row_by_import ON bad_row(import, line);
CREATE TABLE history_next(id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, changes BLOB NOT NULL,
  undone INTEGER NOT NULL DEFAULT 0, who TEXT NOT NULL DEFAULT '', origin INTEGER NOT NULL DEFAULT 0, row_sum INTEGER);
INSERT INTO history_next(id, name, changes, undone) SELECT id, name, changes, undone FROM history;
DROP TABLE history;
ALTER TABLE history_next RENAME TO history;
DROP TRIGGER ledger_is_append_only;
DROP TRIGGER ledger_keeps_all;
ALTER TABLE ledger RENAME TO ledger_before;
CREATE TABLE ledger(id INTEGER PRIMARY KEY AUTOINCREMENT, at INTEGER NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL,
  why TEXT NOT NULL, detail TEXT NOT NULL, hash TEXT NOT NULL);
CREATE TABLE ledger_head(one INTEGER PRIMARY KEY CHECK(one = 1), lines INTEGER NOT NULL, hash TEXT NOT NULL);
CREATE TRIGGER ledger_is_append_only BEFORE UPDATE ON ledger BEGIN SELECT RAISE(ABORT, 'the ledger is never changed'); END;
CREATE TRIGGER ledger_keeps_all BEFORE DELETE ON ledger BEGIN SELECT RAISE(ABORT, 'the ledger is never changed'); END;
ALTER TABLE setting ADD COLUMN row_sum INTEGER;
ALTER TABLE state ADD COLUMN row_sum INTEGER;
ALTER TABLE block ADD COLUMN row_sum INTEGER;
ALTER TABLE import_part ADD COLUMN row_sum INTEGER;
ALTER TABLE replaced_samples ADD COLUMN row_sum INTEGER;
ALTER TABLE record_change ADD COLUMN row_sum INTEGER;
ALTER TABLE golden_run ADD COLUMN row_sum INTEGER;
ALTER TABLE label_kind ADD COLUMN row_sum INTEGER;
ALTER TABLE rule ADD COLUMN row_sum INTEGER;
ALTER TABLE recipe ADD COLUMN row_sum INTEGER;
ALTER TABLE derived_tag ADD COLUMN row_sum INTEGER;
ALTER TABLE derived_state ADD COLUMN row_sum INTEGER;
)sql",
                                                              R"sql(
CREATE TABLE row_count(name TEXT PRIMARY KEY, rows INTEGER NOT NULL) WITHOUT ROWID;
)sql",
                                                              R"sql(
ALTER TABLE fix ADD COLUMN body TEXT NOT NULL DEFAULT '';
ALTER TABLE fix ADD COLUMN place INTEGER;
)sql",
                                                              R"sql(
ALTER TABLE label_kind ADD COLUMN parent TEXT NOT NULL DEFAULT '';
CREATE TABLE span_tag(span INTEGER NOT NULL, tag INTEGER NOT NULL, row_sum INTEGER, PRIMARY KEY(span, tag)) WITHOUT ROWID;
CREATE TABLE fact_kind(name TEXT PRIMARY KEY, body TEXT NOT NULL, row_sum INTEGER) WITHOUT ROWID;
CREATE TABLE evidence(id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL UNIQUE, body TEXT NOT NULL,
  row_sum INTEGER);
)sql",
                                                              R"sql(
CREATE TABLE rule_next(id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, version INTEGER NOT NULL,
  text TEXT NOT NULL, body TEXT NOT NULL, row_sum INTEGER, UNIQUE(name, version));
INSERT INTO rule_next(name, version, text, body) SELECT name, 1, text, body FROM rule ORDER BY name;
DROP TABLE rule;
ALTER TABLE rule_next RENAME TO rule;
CREATE TABLE proof(id INTEGER PRIMARY KEY AUTOINCREMENT, rule INTEGER NOT NULL, body TEXT NOT NULL,
  row_sum INTEGER);
CREATE INDEX proof_by_rule ON proof(rule);
)sql",
                                                              R"sql(
ALTER TABLE history ADD COLUMN import INTEGER NOT NULL DEFAULT 0;
CREATE TABLE removed_part(id INTEGER PRIMARY KEY AUTOINCREMENT, import INTEGER NOT NULL, tag INTEGER NOT NULL,
  first_time INTEGER NOT NULL, last_time INTEGER NOT NULL, row_sum INTEGER);
CREATE INDEX removed_part_by_tag ON removed_part(tag);
)sql"};

/// The SQL of every table, index and trigger, in order of name, as the file has it.
std::vector<std::string> definitions(Database& db) {
    std::vector<std::string> out;
    Statement s(db,
                "SELECT type, name, tbl_name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite_stat%' "
                "ORDER BY type, name");
    while (s.step()) out.push_back(s.text(0) + " " + s.text(1) + " on " + s.text(2) + ": " + s.text(3));
    return out;
}

const std::vector<std::string>& expectedDefinitions() {
    static const std::vector<std::string> expected = [] {
        Database fresh(":memory:", Database::Mode::Create);
        addRowSumFunction(fresh);
        for (const char* migration : kMigrations) fresh.run(migration);
        fresh.run("DROP TABLE ledger_before");
        return definitions(fresh);
    }();
    return expected;
}

/// Steps whose changes hold these bytes, and what lies before them, cannot be undone any more.
void forgetStepsWith(Database& db, const char* bytes) {
    db.run(fmt::format(
        "DELETE FROM history WHERE id <= (SELECT max(id) FROM history WHERE instr(changes, {}) > 0)", bytes));
    if (db.number("SELECT count(*) FROM row_count WHERE name = 'history'") > 0)
        db.run("UPDATE row_count SET rows = (SELECT count(*) FROM history) WHERE name = 'history'");
}

/// Steps that changed rules name them in the form of that time.
void forgetStepsWithRules(Database& db) {
    forgetStepsWith(db, "CAST('rule' AS BLOB)");
}

/// It is not on record which imports came after a step that changed the states of a tag, so that undo could
/// take names from samples. A table's name stands in a changeset between two zero bytes.
void forgetStepsWithStates(Database& db) {
    forgetStepsWith(db, "X'00737461746500'");
}

void migrate(Database& db, std::size_t from) {
    for (std::size_t v = from; v < kMigrations.size(); ++v) db.run(kMigrations[v]);
    // What SQL alone cannot do.
    if (from < 6) {
        chainLedger(db);
        db.run("DROP TABLE ledger_before");
        fillRowSums(db);
    }
    if (from < 7) fillRowCounts(db);
    if (from == 6 || from == 7) fillRowSumsOf(db, "fix");
    if (from >= 6 && from < 9) fillRowSumsOf(db, "label_kind");
    if (from >= 7 && from < 9)
        for (const char* added : {"span_tag", "fact_kind", "evidence"}) startRowCount(db, added);
    if (from >= 6 && from < 10) fillRowSumsOf(db, "rule");
    if (from >= 7 && from < 10) startRowCount(db, "proof");
    if (from > 0 && from < 10) forgetStepsWithRules(db);
    if (from > 0 && from < 11) forgetStepsWithStates(db);
    if (from >= 6 && from < 11) fillRowSumsOf(db, "history");
    if (from >= 7 && from < 11) startRowCount(db, "removed_part");
}

/// Another program may do the same at this moment: what is there is asked again when the file is ours.
void bringUpToDate(Database& db) {
    Transaction transaction(db);
    const std::int64_t version = db.number("PRAGMA user_version");
    if (version >= kSchemaVersion) return;
    migrate(db, static_cast<std::size_t>(version));
    db.run(
        fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {};", kApplicationId, kSchemaVersion));
    transaction.commit();
}

}  // namespace

void createTablesOf(Database& db, int version) {
    for (int v = 0; v < version; ++v) db.run(kMigrations[static_cast<std::size_t>(v)]);
    db.run(fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {};", kApplicationId, version));
}

Status checkSchema(Database& db) {
    if (definitions(db) == expectedDefinitions()) return Done{};
    return Error{
        "the definitions of its tables are not those of a study: the file is damaged, or another program "
        "changed it"};
}

bool isNewerButReadable(Database& db) {
    if (db.number("PRAGMA application_id") != kApplicationId ||
        db.number("PRAGMA user_version") <= kSchemaVersion)
        return false;
    const std::vector<std::string> there = definitions(db);
    const bool whole = std::ranges::all_of(expectedDefinitions(), [&](const std::string& wanted) {
        return std::find(there.begin(), there.end(), wanted) != there.end();
    });
    if (!whole) return false;
    Statement from(db, "SELECT value FROM setting WHERE name = ?");
    from.bind(kReadableFrom);
    if (!from.step()) return false;
    const std::string text = from.text(0);
    int format = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), format);
    return error == std::errc() && end == text.data() + text.size() && format > 0 && format <= kSchemaVersion;
}

void prepareSchema(Database& db, bool readOnly) {
    const std::int64_t id = db.number("PRAGMA application_id"), version = db.number("PRAGMA user_version");
    const bool empty = db.number("SELECT count(*) FROM sqlite_master") == 0;
    if (id != kApplicationId && !empty) throw StoreError("this file is not a Jacinth study");
    if (version < 0 || (version == 0 && !empty)) throw StoreError("the number of its format is damaged");
    if (readOnly && isNewerButReadable(db)) return;
    if (version > kSchemaVersion)
        throw StoreError(
            fmt::format("this study was made by a newer Jacinth (format {}; this one reads up to {})",
                        version, kSchemaVersion));
    if (readOnly) {
        if (empty || version < kSchemaVersion)
            throw StoreError(empty ? "this file is not a study yet"
                                   : "it was made by an older Jacinth and has to be opened for writing once");
        if (const Status good = checkSchema(db); !good) throw StoreError(good.error().message);
        return;
    }
    // A new study is made with an ordinary journal: its file says from the first commit on what it is, not
    // only once the write-ahead log is folded into it.
    if (empty)
        db.run("PRAGMA page_size = 4096; PRAGMA journal_mode = DELETE");
    else
        db.run("PRAGMA journal_mode = WAL");
    if (version < kSchemaVersion) bringUpToDate(db);
    if (empty) db.run("PRAGMA journal_mode = WAL");
    if (const Status good = checkSchema(db); !good) throw StoreError(good.error().message);
}

const std::vector<std::string>& undoableTables() {
    static const std::vector<std::string> tables{
        "asset", "tag",    "track",  "span",    "fix",      "golden_run", "limit_set", "label_kind",
        "rule",  "recipe", "import", "bad_row", "span_tag", "fact_kind",  "evidence",  "proof"};
    return tables;
}

const std::vector<std::string>& undoableTablesWithSamples() {
    static const std::vector<std::string> tables = [] {
        std::vector<std::string> all = undoableTables();
        for (const char* more : {"block", "block_samples", "block_cells", "block_coarse", "index_page",
                                 "coarse_page", "state", "derived_tag", "replaced_samples"})
            all.emplace_back(more);
        return all;
    }();
    return tables;
}

}  // namespace jacinth
