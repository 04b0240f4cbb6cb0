#include "store/history.h"

#include <sqlite3.h>

#include <array>

namespace jacinth {
namespace {

struct Step {
    std::int64_t id = 0;
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

std::int64_t newestStep(Database& db) {
    Statement s(db, "SELECT id FROM history WHERE undone = 0 ORDER BY id DESC LIMIT 1");
    return s.step() ? s.integer(0) : 0;
}

void joinSteps(Database& db, std::int64_t first) {
    Transaction transaction(db);
    std::array<Step, 2> steps;
    {
        Statement s(db, "SELECT id, changes FROM history WHERE undone = 0 ORDER BY id DESC LIMIT 2");
        for (std::size_t i = 2; i-- > 0;) {
            if (!s.step()) return;
            const auto bytes = s.blob(1);
            steps[i] = {s.integer(0), Blob(bytes.begin(), bytes.end())};
        }
    }
    if (steps[0].id != first) return;
    const Blob both = joined(db, steps);
    Statement(db, "UPDATE history SET changes = ? WHERE id = ?").bind(both, steps[1].id).run();
    Statement(db, "DELETE FROM history WHERE id = ?").bind(first).run();
    transaction.commit();
}

}  // namespace jacinth
