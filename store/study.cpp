#include "store/study.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/series/value_at.h"
#include "store/schema.h"
#include "store/wall_time.h"

namespace jacinth {
namespace {

std::string loginName() {
    for (const char* variable : {"JACINTH_USER", "USER", "LOGNAME"})
        if (const char* name = std::getenv(variable); name && *name) return name;
    return "unknown";
}

}  // namespace

Study::Study(std::string path, std::unique_ptr<Database> db)
    : path_(std::move(path)), db_(std::move(db)), catalog_(*db_), samples_(*db_), who_(loginName()) {
    catalog_.reload();
}

Study::~Study() = default;

Result<std::unique_ptr<Study>> Study::create(const std::string& path) {
    if (std::filesystem::exists(path)) return Error{fmt::format("{} exists already", path)};
    try {
        auto db = std::make_unique<Database>(path, Database::Mode::Create);
        prepareSchema(*db, false);
        db->run("PRAGMA foreign_keys = ON; PRAGMA synchronous = FULL");
        auto study = std::unique_ptr<Study>(new Study(path, std::move(db)));
        Transaction transaction(*study->db_);
        study->setLabelBook(firstLabelBook());
        transaction.commit();
        return study;
    } catch (const StoreError& e) {
        return Error{e.what()};
    }
}

Result<std::unique_ptr<Study>> Study::open(const std::string& path, bool readOnly) {
    if (!std::filesystem::exists(path)) return Error{fmt::format("there is no file {}", path)};
    try {
        auto db =
            std::make_unique<Database>(path, readOnly ? Database::Mode::ReadOnly : Database::Mode::ReadWrite);
        const std::int64_t version = db->number("PRAGMA user_version");
        prepareSchema(*db, readOnly);
        // Read, not mapped: a fault in a mapped file that is not in memory takes several times as long.
        db->run("PRAGMA foreign_keys = ON; PRAGMA synchronous = FULL; PRAGMA cache_size = -16384");
        auto study = std::unique_ptr<Study>(new Study(path, std::move(db)));
        if (version < kSchemaVersion) study->gatherIndex();
        return study;
    } catch (const StoreError& e) {
        return Error{fmt::format("{} cannot be opened as a study: {}", path, e.what())};
    }
}

void Study::gatherIndex() {
    Transaction transaction(*db_);
    for (const Tag& tag : catalog_.tags()) samples_.gatherIndex(tag.id);
    transaction.commit();
}

std::string Study::setting(const std::string& name, const std::string& otherwise) const {
    Statement s(*db_, "SELECT value FROM setting WHERE name = ?");
    return s.bind(name).step() ? s.text(0) : otherwise;
}

void Study::setSetting(const std::string& name, const std::string& value) {
    Statement(*db_,
              "INSERT INTO setting(name, value) VALUES(?, ?) ON CONFLICT(name) DO UPDATE SET value = "
              "excluded.value")
        .bind(name, value)
        .run();
}

Zone Study::zone() const {
    const auto zone = Zone::named(setting("zone", "UTC"));
    return zone ? *zone : Zone();
}

std::string Study::plantName() const {
    return setting("plant", std::filesystem::path(path_).stem().string());
}

TimeRange Study::record() const {
    std::optional<TimeRange> all;
    for (const Tag& tag : catalog_.tags()) {
        const auto extent = samples_.extent(tag.id);
        if (!extent) continue;
        if (!all) all = extent;
        all->from = std::min(all->from, extent->from);
        all->to = std::max(all->to, extent->to);
    }
    if (all) return *all;
    Statement spans(*db_, "SELECT min(start), max(end) FROM span");
    spans.step();
    return spans.isNull(0) ? TimeRange{} : TimeRange{spans.integer(0), spans.integer(1) + 1};
}

Series Study::read(const Tag& tag, TimeRange range, Which which) {
    return samples_.read(
        tag.id, range, which == Which::Mended ? std::span<const Fix>(fixes(tag.id)) : std::span<const Fix>());
}

std::vector<Summary> Study::columns(const Tag& tag, TimeRange range, int pixels, Which which) {
    return samples_.columns(
        tag.id, range, pixels,
        which == Which::Mended ? std::span<const Fix>(fixes(tag.id)) : std::span<const Fix>());
}

double Study::valueAt(const Tag& tag, Instant t, Which which) {
    // The nearest sample may be of bad quality: look as far as a line may reach; for held values until a
    // usable one.
    const Bridging bridging = tag.bridging();
    const Instant start = samples_.whole(tag.id).firstTime;
    Duration reach = bridging.longestGap == kWithoutEnd ? kHour : bridging.longestGap;
    while (true) {
        const Instant to = bridging.kind == TagKind::Continuous && bridging.longestGap != kWithoutEnd
                               ? t + reach + 1
                               : t + 1;
        const double v = jacinth::valueAt(read(tag, {t - reach, to}, which), bridging, t);
        if (std::isfinite(v) || bridging.longestGap != kWithoutEnd || t - reach < start) return v;
        reach *= 8;
    }
}

void Study::enterInLedger(const std::string& what, const std::string& why, const nlohmann::json& detail) {
    Statement(*db_, "INSERT INTO ledger(at, who, what, why, detail) VALUES(?, ?, ?, ?, ?)")
        .bind(timeNow(), who_, what, why,
              detail.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace))
        .run();
}

std::vector<LedgerEntry> Study::ledger() const {
    std::vector<LedgerEntry> out;
    Statement s(*db_, "SELECT id, at, who, what, why, detail FROM ledger ORDER BY id");
    while (s.step()) out.push_back({s.integer(0), s.integer(1), s.text(2), s.text(3), s.text(4), s.text(5)});
    return out;
}

void Study::change(const std::string& name, const std::string& why, const nlohmann::json& detail,
                   const std::function<void()>& work) {
    changeIn(undoableTables(), name, why, detail, {}, work);
}

void Study::changeWithSamples(const std::string& name, const std::string& why, const nlohmann::json& detail,
                              const std::function<void()>& work) {
    changeIn(undoableTablesWithSamples(), name, why, detail, {}, work);
}

void Study::changeDerived(const std::string& name, const std::string& why, const nlohmann::json& detail,
                          const std::vector<std::int64_t>& emptied, const std::function<void()>& work) {
    changeIn(
        undoableTablesWithSamples(), name, why, detail,
        [&] {
            for (const std::int64_t tag : emptied) dropDerivedSamples(tag);
        },
        work);
}

void Study::changeIn(const std::vector<std::string>& tables, const std::string& name, const std::string& why,
                     const nlohmann::json& detail, const std::function<void()>& before,
                     const std::function<void()>& work) {
    try {
        Transaction transaction(*db_);
        if (before) before();
        const Blob changes = recordChanges(*db_, tables, work);
        if (!changes.empty()) {
            db_->run("DELETE FROM history WHERE undone = 1");
            Statement(*db_, "INSERT INTO history(name, changes) VALUES(?, ?)").bind(name, changes).run();
            enterInLedger(name, why, detail);
        }
        transaction.commit();
    } catch (...) {
        reload();
        throw;
    }
    fixes_.clear();
}

std::string Study::undoName() const {
    Statement s(*db_, "SELECT name FROM history WHERE undone = 0 ORDER BY id DESC LIMIT 1");
    return s.step() ? s.text(0) : "";
}

std::string Study::redoName() const {
    Statement s(*db_, "SELECT name FROM history WHERE undone = 1 ORDER BY id LIMIT 1");
    return s.step() ? s.text(0) : "";
}

Status Study::undo() {
    return step(true);
}
Status Study::redo() {
    return step(false);
}

Status Study::step(bool undoing) {
    try {
        Transaction transaction(*db_);
        std::int64_t id = 0;
        std::string name;
        Blob changes;
        {
            Statement s(
                *db_, undoing
                          ? "SELECT id, name, changes FROM history WHERE undone = 0 ORDER BY id DESC LIMIT 1"
                          : "SELECT id, name, changes FROM history WHERE undone = 1 ORDER BY id LIMIT 1");
            if (!s.step()) return Error{undoing ? "there is nothing to undo" : "there is nothing to redo"};
            id = s.integer(0);
            name = s.text(1);
            const auto bytes = s.blob(2);
            changes.assign(bytes.begin(), bytes.end());
        }
        // Samples that work themselves out anew are no part of the step: those of tags that go, go first.
        for (const std::int64_t tag : rowsThatGo(*db_, changes, undoing, "derived_tag"))
            if (derivedDefinition(tag).contains(kExpression)) dropDerivedSamples(tag);
        applyChanges(*db_, changes, undoing);
        // A step may have taken derived tags' samples with it or brought them back.
        if (touches(*db_, changes, "block"))
            db_->run(
                "INSERT INTO record_change(tag, generation) SELECT tag, 1 FROM derived_tag WHERE true ON "
                "CONFLICT(tag) DO UPDATE SET generation = generation + 1");
        Statement(*db_, "UPDATE history SET undone = ? WHERE id = ?").bind(undoing, id).run();
        enterInLedger((undoing ? "undo: " : "redo: ") + name, "", nlohmann::json::object());
        transaction.commit();
    } catch (const StoreError& e) {
        reload();
        return Error{fmt::format("{} failed: {}", undoing ? "undo" : "redo", e.what())};
    }
    reload();
    return Done{};
}

void Study::reload() {
    catalog_.reload();
    samples_.forget();
    fixes_.clear();
}

bool Study::refresh() {
    const std::int64_t version = db_->number("PRAGMA data_version");
    if (version == seenVersion_) return false;
    seenVersion_ = version;
    catalog_.reload();
    fixes_.clear();
    samples_.refresh();
    return true;
}

std::vector<std::string> Study::check() {
    std::vector<std::string> faults;
    Statement integrity(*db_, "PRAGMA integrity_check");
    while (integrity.step())
        if (integrity.text(0) != "ok") faults.push_back("file: " + integrity.text(0));
    for (const Tag& tag : catalog_.tags())
        for (const std::string& fault : samples_.verify(tag.id)) faults.push_back(tag.path() + ": " + fault);
    Statement lost(*db_,
                   "SELECT count(*) FROM span WHERE (asset != 0 AND asset NOT IN (SELECT id FROM asset)) OR "
                   "(tag != 0 AND tag NOT IN (SELECT id FROM tag))");
    if (lost.step() && lost.integer(0) > 0)
        faults.push_back(fmt::format("{} spans belong to no asset or tag of this study", lost.integer(0)));
    return faults;
}

Status Study::saveCopy(const std::string& path) {
    if (std::filesystem::exists(path)) return Error{fmt::format("{} exists already", path)};
    try {
        Statement(*db_, "VACUUM INTO ?").bind(path).run();
    } catch (const StoreError& e) {
        return Error{e.what()};
    }
    return Done{};
}

}  // namespace jacinth
