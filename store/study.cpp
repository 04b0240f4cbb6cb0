#include "store/study.h"

#include <fmt/format.h>
#include <pwd.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <random>

#include "core/base/text.h"
#include "core/base/utf8.h"
#include "core/series/value_at.h"
#include "store/ledger_chain.h"
#include "store/row_sums.h"
#include "store/schema.h"
#include "store/wall_time.h"
#include "store/write_file.h"

namespace jacinth {
namespace {

/// $JACINTH_USER, else the full name of the account, else its login name.
std::string accountName() {
    if (const char* name = std::getenv("JACINTH_USER"); name && *name) return name;
    if (const passwd* account = ::getpwuid(::geteuid())) {
        const std::string full = account->pw_gecos ? account->pw_gecos : "";
        const std::string name(trimmed(std::string_view(full).substr(0, full.find(','))));
        if (!name.empty() && isUtf8(name)) return name;
        if (account->pw_name && *account->pw_name) return account->pw_name;
    }
    for (const char* variable : {"USER", "LOGNAME"})
        if (const char* name = std::getenv(variable); name && *name) return name;
    return fmt::format("user {}", ::geteuid());
}

/// A number of this run of the program: steps that carry another one were made by another.
std::int64_t originOfSteps() {
    static const std::int64_t origin = [] {
        std::random_device random;
        return static_cast<std::int64_t>((static_cast<std::uint64_t>(random()) << 31) ^ random()) | 1;
    }();
    return origin;
}

Status checkPath(const std::string& path) {
    if (path.empty()) return Error{"the path of the study is empty"};
    if (path.front() == ':' || path.rfind("file:", 0) == 0)
        return Error{fmt::format("`{}` is not the path of a file", path)};
    return Done{};
}

bool isEmptyOrAbsent(const std::string& path) {
    struct stat info {};
    return ::stat(path.c_str(), &info) != 0 || info.st_size == 0;
}

/// Everything that keeps a hostile or damaged file from doing more than be read.
void harden(Database& db) {
    db.run("PRAGMA trusted_schema = OFF; PRAGMA cell_size_check = ON");
    addRowSumFunction(db);
}

/// Does a program have this study open? A connection holds a lock on the file as long as it lives, which one
/// that wants the file for itself alone runs into.
bool isOpenSomewhere(const std::string& path) {
    if (!isStudyFile(path)) return false;
    try {
        Database db(path, Database::Mode::ReadWrite);
        db.run("PRAGMA busy_timeout = 200; PRAGMA locking_mode = EXCLUSIVE; BEGIN IMMEDIATE; COMMIT");
        return false;
    } catch (const StoreError&) {
        return true;
    }
}

/// How a file can be opened: another user's file, or one in a folder that takes no files, is read as it
/// lies, so that no files appear beside it.
Result<Database::Mode> modeFor(const std::string& path, bool readOnly) {
    struct stat info {};
    if (::stat(path.c_str(), &info) != 0) return Error{fmt::format("there is no file {}", path)};
    if (S_ISDIR(info.st_mode)) return Error{fmt::format("{} is a folder, not a study", path)};
    if (!S_ISREG(info.st_mode))
        return Error{fmt::format("{} is a pipe, a socket or a device, not a study", path)};
    if (::access(path.c_str(), R_OK) != 0)
        return Error{fmt::format("{} cannot be read: {}", path, std::strerror(errno))};
    const std::filesystem::path folder = std::filesystem::absolute(path).parent_path();
    const bool folderWritable = ::access(folder.c_str(), W_OK) == 0;
    const bool writable = ::access(path.c_str(), W_OK) == 0;
    if (writable && folderWritable && !readOnly) return Database::Mode::ReadWrite;
    const bool others = info.st_uid != ::geteuid() && ::geteuid() != 0;
    if ((folderWritable && !others) || !isEmptyOrAbsent(path + "-shm")) return Database::Mode::ReadOnly;
    if (!isEmptyOrAbsent(path + "-wal"))
        return Error{
            fmt::format("the newest changes of {0} lie in {0}-wal and cannot be read where no files can be "
                        "written; copy both files to a folder of your own",
                        path)};
    return Database::Mode::AsItLies;
}

}  // namespace

Study::Study(std::string path, std::unique_ptr<Database> db, bool readOnly)
    : path_(std::move(path)),
      readOnly_(readOnly),
      db_(std::move(db)),
      catalog_(*db_),
      samples_(*db_),
      who_(accountName()) {
    seenVersion_ = db_->number("PRAGMA data_version");
    catalog_.reload();
}

Study::~Study() = default;

Result<std::unique_ptr<Study>> Study::create(const std::string& path) {
    if (const Status good = checkPath(path); !good) return good.error();
    if (std::filesystem::exists(path)) return Error{fmt::format("{} exists already", path)};
    try {
        auto db = std::make_unique<Database>(path, Database::Mode::Create);
        harden(*db);
        prepareSchema(*db, false);
        db->run("PRAGMA foreign_keys = ON; PRAGMA synchronous = FULL");
        keepRowSums(*db);
        auto study = std::unique_ptr<Study>(new Study(path, std::move(db), false));
        Transaction transaction(*study->db_);
        study->setLabelBook(firstLabelBook());
        transaction.commit();
        return study;
    } catch (const StoreError& e) {
        return Error{e.what()};
    }
}

Result<std::unique_ptr<Study>> Study::open(const std::string& path, bool readOnly) {
    if (const Status good = checkPath(path); !good) return good.error();
    const auto mode = modeFor(path, readOnly);
    if (!mode) return mode.error();
    const bool reading = *mode != Database::Mode::ReadWrite;
    try {
        auto db = std::make_unique<Database>(path, *mode);
        harden(*db);
        const std::int64_t version = db->number("PRAGMA user_version");
        prepareSchema(*db, reading);
        // Read, not mapped: a fault in a mapped file that is not in memory takes several times as long.
        db->run("PRAGMA foreign_keys = ON; PRAGMA synchronous = FULL; PRAGMA cache_size = -16384");
        if (!reading) keepRowSums(*db);
        auto study = std::unique_ptr<Study>(new Study(path, std::move(db), reading));
        if (version < kSchemaVersion) study->gatherIndex();
        return study;
    } catch (const StoreError& e) {
        return Error{fmt::format("{} cannot be opened as a study: {}", path, e.what())};
    }
}

bool Study::isUntouched() const {
    return db_->number(
               "SELECT (SELECT count(*) FROM tag) + (SELECT count(*) FROM span) + (SELECT count(*) FROM "
               "import) + (SELECT count(*) FROM ledger) + (SELECT count(*) FROM setting)") == 0;
}

void Study::gatherIndex() {
    Transaction transaction(*db_);
    for (const Tag& tag : catalog_.tags()) samples_.gatherIndex(tag.id);
    transaction.commit();
}

std::string Study::setting(const std::string& name, const std::string& otherwise) const {
    Statement s(*db_, "SELECT value FROM setting WHERE name = ?");
    return s.bind(name).more() ? s.text(0) : otherwise;
}

void Study::setSetting(const std::string& name, const std::string& value) {
    if (setting(name) == value && !value.empty()) return;
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
    return !spans.more() || spans.isNull(0) ? TimeRange{} : TimeRange{spans.integer(0), spans.integer(1) + 1};
}

Series Study::read(const Tag& tag, TimeRange range, Which which) {
    return samples_.read(
        tag.id, range, which == Which::Mended ? std::span<const Fix>(fixes(tag.id)) : std::span<const Fix>());
}

Series Study::readForFigures(const Tag& tag, TimeRange range, Which which) {
    Series out = read(tag, range, which);
    if (!out.quality.empty() && setting(kSoundDataOnly) == "yes")
        std::replace(out.quality.begin(), out.quality.end(), Quality::Uncertain, Quality::Bad);
    return out;
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
    addLedgerLine(*db_, timeNow(), who_, what, why,
                  detail.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
}

std::vector<LedgerEntry> Study::ledger() const {
    std::vector<LedgerEntry> out;
    Statement s(*db_, "SELECT id, at, who, what, why, detail FROM ledger ORDER BY id");
    while (s.more()) out.push_back({s.integer(0), s.integer(1), s.text(2), s.text(3), s.text(4), s.text(5)});
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
            Statement(*db_, "INSERT INTO history(name, changes, who, origin) VALUES(?, ?, ?, ?)")
                .bind(name, changes, who_, originOfSteps())
                .run();
            enterInLedger(name, why, detail);
        }
        transaction.commit();
    } catch (...) {
        reload();
        throw;
    }
    fixes_.clear();
}

std::optional<UndoableStep> Study::nextStep(bool undoing) const {
    Statement s(
        *db_, undoing ? "SELECT id, name, who, origin FROM history WHERE undone = 0 ORDER BY id DESC LIMIT 1"
                      : "SELECT id, name, who, origin FROM history WHERE undone = 1 ORDER BY id LIMIT 1");
    if (!s.more()) return {};
    const std::int64_t origin = s.integer(3);
    return UndoableStep{s.integer(0), s.text(1), s.text(2), origin == 0 || origin == originOfSteps()};
}

std::optional<UndoableStep> Study::nextUndo() const {
    return nextStep(true);
}
std::optional<UndoableStep> Study::nextRedo() const {
    return nextStep(false);
}

std::string Study::undoName() const {
    const auto step = nextUndo();
    return step ? step->name : "";
}

std::string Study::redoName() const {
    const auto step = nextRedo();
    return step ? step->name : "";
}

Status Study::undo(std::int64_t only) {
    return step(true, only);
}
Status Study::redo(std::int64_t only) {
    return step(false, only);
}

Status Study::step(bool undoing, std::int64_t only) {
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
            if (only != 0 && id != only)
                return Error{
                    fmt::format("meanwhile “{}” was done by another program; look at it first", name)};
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

Status Study::saveCopy(const std::string& path, bool replace, const std::function<bool(double)>& goOn) {
    namespace fs = std::filesystem;
    if (const Status good = checkPath(path); !good) return good;
    std::error_code trouble;
    if (fs::exists(path, trouble)) {
        if (!replace) return Error{fmt::format("{} exists already", path)};
        if (fs::equivalent(path, path_, trouble))
            return Error{"this is the study itself; a copy needs another name"};
        if (!fs::is_regular_file(path, trouble)) return Error{fmt::format("{} is not a file", path)};
        if (!isEmptyOrAbsent(path + "-wal") || isOpenSomewhere(path))
            return Error{
                fmt::format("{} is open in a program, or was left by one; open and close it first", path)};
    }
    const std::string part = fmt::format("{}.part-{}", path, ::getpid());
    try {
        fs::remove(part, trouble);
        const double whole = static_cast<double>(std::max<std::uintmax_t>(1, fs::file_size(path_)));
        db_->runStoppable(
            [&] {
                std::error_code none;
                const auto size = fs::file_size(part, none);
                return !goOn || goOn(none ? 0 : std::min(0.99, static_cast<double>(size) / whole));
            },
            [&] { Statement(*db_, "VACUUM INTO ?").bind(part).run(); });
        for (const char* end : {"-wal", "-shm"}) fs::remove(path + end, trouble);
        fs::rename(part, path);
    } catch (const std::exception& e) {
        fs::remove(part, trouble);
        return Error{e.what()};
    }
    return Done{};
}

}  // namespace jacinth
