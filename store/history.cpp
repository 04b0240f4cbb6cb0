#include "store/history.h"

#include <fmt/format.h>
#include <sqlite3.h>

#include <array>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "store/derived_catalog.h"
#include "store/ledger_chain.h"
#include "store/schema.h"
#include "store/wall_time.h"

namespace jacinth {
namespace {

/// A number of this run of the program: steps that carry another one were made by another.
std::int64_t originOfSteps() {
    static const std::int64_t origin = [] {
        std::random_device random;
        return static_cast<std::int64_t>((static_cast<std::uint64_t>(random()) << 31) ^ random()) | 1;
    }();
    return origin;
}

constexpr int kKindColumnOfTag = 5;

struct Step {
    StepId id;
    Blob changes;
};

Blob joined(Database& db, const std::array<Step, 2>& steps) {
    sqlite3_changegroup* group = nullptr;
    if (sqlite3changegroup_new(&group) != SQLITE_OK) db.fail("joining steps");
    const struct Guard {
        sqlite3_changegroup* held;
        ~Guard() { sqlite3changegroup_delete(held); }
    } guard{group};
    for (const Step& s : steps) {
        void* data = const_cast<std::uint8_t*>(s.changes.data());
        if (sqlite3changegroup_add(group, static_cast<int>(s.changes.size()), data) != SQLITE_OK)
            db.fail("joining steps");
    }
    int size = 0;
    void* data = nullptr;
    if (sqlite3changegroup_output(group, &size, &data) != SQLITE_OK) db.fail("joining steps");
    const auto* bytes = static_cast<const std::uint8_t*>(data);
    Blob out(bytes, bytes + size);
    sqlite3_free(data);
    return out;
}

}  // namespace

void History::enterInLedger(const std::string& what, const std::string& why, const nlohmann::json& detail) {
    addLedgerLine(db_, timeNow(), who_, what, why,
                  detail.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
}

std::vector<LedgerEntry> History::ledger() const {
    std::vector<LedgerEntry> out;
    Statement s(db_, "SELECT id, at, who, what, why, detail FROM ledger ORDER BY id");
    while (s.more()) out.push_back({s.integer(0), s.instant(1), s.text(2), s.text(3), s.text(4), s.text(5)});
    return out;
}

void History::change(const std::string& name, const std::string& why, const nlohmann::json& detail,
                     const std::function<void()>& work) {
    changeIn(undoableTables(), name, why, detail, {}, work);
}

void History::changeWithSamples(const std::string& name, const std::string& why, const nlohmann::json& detail,
                                const std::function<void()>& work) {
    changeIn(undoableTablesWithSamples(), name, why, detail, {}, work);
}

void History::changeDerived(const std::string& name, const std::string& why, const nlohmann::json& detail,
                            const std::vector<TagId>& emptied, const std::function<void()>& work) {
    changeIn(
        undoableTablesWithSamples(), name, why, detail,
        [&] {
            for (const TagId tag : emptied) derived_.dropSamples(tag);
        },
        work);
}

void History::changeIn(const std::vector<std::string>& tables, const std::string& name,
                       const std::string& why, const nlohmann::json& detail,
                       const std::function<void()>& before, const std::function<void()>& work) {
    try {
        Transaction transaction(db_);
        if (before) before();
        const Blob changes = recordChanges(db_, tables, work);
        if (!changes.empty()) {
            db_.run("DELETE FROM history WHERE undone = 1");
            Statement(db_, "INSERT INTO history(name, changes, who, origin) VALUES(?, ?, ?, ?)")
                .bind(name, changes, who_, originOfSteps())
                .run();
            enterInLedger(name, why, detail);
        }
        transaction.commit();
    } catch (...) {
        reload_();
        throw;
    }
}

void History::noteImport(ImportId import, const std::string& name) {
    db_.run("DELETE FROM history WHERE undone = 1");
    Statement(db_, "INSERT INTO history(name, changes, who, origin, import) VALUES(?, X'', ?, ?, ?)")
        .bind(name, who_, originOfSteps(), import)
        .run();
}

namespace {
// Which step is next, as a condition and an order.
constexpr const char* kNextUndo = "undone = 0 ORDER BY id DESC";
constexpr const char* kNextUndoPastImports = "undone = 0 AND import = 0 ORDER BY id DESC";
constexpr const char* kNextRedo = "undone = 1 ORDER BY id";
}  // namespace

std::optional<UndoableStep> History::next(const char* where) const {
    Statement s(
        db_,
        fmt::format("SELECT id, name, who, origin, import, length(changes) FROM history WHERE {} LIMIT 1",
                    where));
    if (!s.more()) return {};
    const std::int64_t origin = s.integer(3);
    return UndoableStep{s.id<StepId>(0),   s.text(1),   s.text(2), origin == 0 || origin == originOfSteps(),
                        s.integer(4) != 0, s.integer(5)};
}

std::optional<UndoableStep> History::nextUndo() const {
    return next(kNextUndo);
}
std::optional<UndoableStep> History::nextUndoPastImports() const {
    return next(kNextUndoPastImports);
}
std::optional<UndoableStep> History::nextRedo() const {
    return next(kNextRedo);
}

std::string History::undoName() const {
    const auto step = nextUndo();
    return step ? step->name : "";
}

std::string History::redoName() const {
    const auto step = nextRedo();
    return step ? step->name : "";
}

Status History::undo(StepId only, Imports imports) {
    return step(true, only, imports);
}
Status History::redo(StepId only) {
    return step(false, only, Imports::Stop);
}

namespace {

/// The tags whose samples, kind or names of states a changeset changes.
std::set<std::int64_t> tagsWithOtherSamples(Database& db, const Blob& changes) {
    std::set<std::int64_t> out;
    for (const auto& [table, column] :
         {std::pair("state", 0), std::pair("block", 1), std::pair("replaced_samples", 2)})
        for (const std::int64_t tag : valuesOf(db, changes, table, column)) out.insert(tag);
    for (const std::int64_t tag : keysWhereChanged(db, changes, "tag", kKindColumnOfTag)) out.insert(tag);
    return out;
}

}  // namespace

/// The name of an import, or of a removal, after this step that makes the step's changes of samples mean
/// something else; empty for none.
std::string History::importSince(StepId step, const Blob& changes) const {
    std::set<std::int64_t> tags = tagsWithOtherSamples(db_, changes);
    for (const std::int64_t derived : valuesOf(db_, changes, "derived_tag", 0)) tags.erase(derived);
    Statement imports(db_, "SELECT name, import FROM history WHERE id > ? AND import != 0 ORDER BY id");
    imports.bind(step);
    while (imports.step())
        for (const std::int64_t tag : tags) {
            // The record of a removed import says nothing about its tags: any could be one.
            Statement touches(
                db_,
                "SELECT (EXISTS(SELECT 1 FROM import_part WHERE import = ?1 AND tag = ?2) OR NOT "
                "EXISTS(SELECT 1 FROM import_part WHERE import = ?1)) AND NOT EXISTS(SELECT 1 "
                "FROM derived_tag WHERE tag = ?2)");
            touches.bind(imports.integer(1), tag);
            if (touches.step() && touches.integer(0)) return imports.text(0);
        }
    return {};
}

Status History::step(bool undoing, StepId only, Imports imports) {
    try {
        Transaction transaction(db_);
        const auto first = undoing ? next(kNextUndo) : next(kNextRedo);
        const auto step = undoing && imports == Imports::PassOver ? next(kNextUndoPastImports) : first;
        if (!step) return Error{undoing ? "there is nothing to undo" : "there is nothing to redo"};
        const auto& [id, name, who, ours, isImport, bytes] = *step;
        if (only && id != only)
            return Error{fmt::format("meanwhile “{}” was done by another program; look at it first", name)};
        if (isImport)
            return Error{fmt::format("the last change is “{}”, which undo does not take back", name)};
        Blob changes;
        {
            Statement s(db_, "SELECT changes FROM history WHERE id = ?");
            if (!s.bind(id).step()) db_.fail("reading the step");
            const auto blob = s.blob(0);
            changes.assign(blob.begin(), blob.end());
        }
        if (const std::string import = importSince(id, changes); !import.empty())
            return Error{
                fmt::format("“{}” changed the samples, the kind or the states of a tag, and “{}” came "
                            "after it: what was imported would mean something else",
                            name, import)};
        // Samples that are recalculated by themselves do not belong to the step: those of removed tags go
        // first.
        for (const std::int64_t key : rowsThatGo(db_, changes, undoing, "derived_tag"))
            if (derived_.definition(TagId(key)).contains(kExpression)) derived_.dropSamples(TagId(key));
        applyChanges(db_, changes, undoing);
        // A step may have taken derived tags' samples with it or brought them back.
        if (touches(db_, changes, "block"))
            db_.run(
                "INSERT INTO record_change(tag, generation) SELECT tag, 1 FROM derived_tag WHERE true ON "
                "CONFLICT(tag) DO UPDATE SET generation = generation + 1");
        Statement(db_, "UPDATE history SET undone = ? WHERE id = ?").bind(undoing, id).run();
        enterInLedger((undoing ? "undo: " : "redo: ") + name, "", nlohmann::json::object());
        transaction.commit();
    } catch (const StoreError& e) {
        reload_();
        return Error{fmt::format("{} failed: {}", undoing ? "undo" : "redo", e.what())};
    }
    reload_();
    return Done{};
}

StepId History::newest() const {
    const auto step = nextUndo();
    return step ? step->id : StepId();
}

void History::join(StepId first) {
    Transaction transaction(db_);
    std::array<Step, 2> steps;
    {
        Statement s(db_, "SELECT id, changes FROM history WHERE undone = 0 ORDER BY id DESC LIMIT 2");
        for (std::size_t i = 2; i-- > 0;) {
            if (!s.step()) return;
            const auto bytes = s.blob(1);
            steps[i] = {s.id<StepId>(0), Blob(bytes.begin(), bytes.end())};
        }
    }
    if (steps[0].id != first) return;
    const Blob both = joined(db_, steps);
    Statement(db_, "UPDATE history SET changes = ? WHERE id = ?").bind(both, steps[1].id).run();
    Statement(db_, "DELETE FROM history WHERE id = ?").bind(first).run();
    transaction.commit();
}

void History::forget() {
    db_.run("DELETE FROM history");
}

}  // namespace jacinth
