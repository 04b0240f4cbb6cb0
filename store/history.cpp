#include "store/history.h"

#include <fmt/format.h>
#include <sqlite3.h>

#include <array>
#include <nlohmann/json.hpp>
#include <random>

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

std::optional<UndoableStep> History::next(bool undoing) const {
    Statement s(
        db_, undoing ? "SELECT id, name, who, origin FROM history WHERE undone = 0 ORDER BY id DESC LIMIT 1"
                     : "SELECT id, name, who, origin FROM history WHERE undone = 1 ORDER BY id LIMIT 1");
    if (!s.more()) return {};
    const std::int64_t origin = s.integer(3);
    return UndoableStep{s.id<StepId>(0), s.text(1), s.text(2), origin == 0 || origin == originOfSteps()};
}

std::optional<UndoableStep> History::nextUndo() const {
    return next(true);
}
std::optional<UndoableStep> History::nextRedo() const {
    return next(false);
}

std::string History::undoName() const {
    const auto step = nextUndo();
    return step ? step->name : "";
}

std::string History::redoName() const {
    const auto step = nextRedo();
    return step ? step->name : "";
}

Status History::undo(StepId only) {
    return step(true, only);
}
Status History::redo(StepId only) {
    return step(false, only);
}

Status History::step(bool undoing, StepId only) {
    try {
        Transaction transaction(db_);
        StepId id;
        std::string name;
        Blob changes;
        {
            Statement s(
                db_, undoing
                         ? "SELECT id, name, changes FROM history WHERE undone = 0 ORDER BY id DESC LIMIT 1"
                         : "SELECT id, name, changes FROM history WHERE undone = 1 ORDER BY id LIMIT 1");
            if (!s.step()) return Error{undoing ? "there is nothing to undo" : "there is nothing to redo"};
            id = s.id<StepId>(0);
            name = s.text(1);
            if (only && id != only)
                return Error{
                    fmt::format("meanwhile “{}” was done by another program; look at it first", name)};
            const auto bytes = s.blob(2);
            changes.assign(bytes.begin(), bytes.end());
        }
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
