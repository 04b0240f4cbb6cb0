#include "store/study.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <pwd.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/base/text.h"
#include "core/base/utf8.h"
#include "core/series/value_at.h"
#include "store/derived_catalog.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/judgement.h"
#include "store/row_sums.h"
#include "store/sample_store.h"
#include "store/schema.h"
#include "store/tracks.h"
#include "store/trust_marks.h"
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

/// An empty file that was not there before, whoever else makes one of this name at the same time.
Status makeFile(const std::string& path) {
    for (const char* end : {"-wal", "-journal"})
        if (!isEmptyOrAbsent(path + end))
            return Error{
                fmt::format("{}{} is there, left by a study that was moved or removed; move it away "
                            "first",
                            path, end)};
    const int file = ::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    if (file < 0 && errno == EEXIST) return Error{fmt::format("{} exists already", path)};
    if (file < 0) return Error{fmt::format("{} cannot be made: {}", path, std::strerror(errno))};
    ::close(file);
    return Done{};
}

std::span<const Fix> fixesFor(const Judgement& judgement, TagId tag, Which which) {
    if (which == Which::AsLogged) return {};
    return judgement.fixes(tag);
}

}  // namespace

Study::Study(std::string path, std::unique_ptr<Database> db, bool readOnly)
    : path_(std::move(path)),
      readOnly_(readOnly),
      who_(accountName()),
      db_(std::move(db)),
      catalog_(std::make_unique<Catalog>(*db_)),
      samples_(std::make_unique<SampleStore>(*db_)),
      tracks_(std::make_unique<Tracks>(*db_)),
      judgement_(std::make_unique<Judgement>(*db_, *tracks_, who_)),
      derived_(std::make_unique<DerivedCatalog>(*db_, *catalog_, *samples_)),
      history_(std::make_unique<History>(*db_, *derived_, who_, [this] { reload(); })),
      imports_(std::make_unique<Imports>(*db_, *samples_, *tracks_, *history_)) {
    seenVersion_ = db_->number("PRAGMA data_version");
    catalog_->reload();
    struct stat info {};
    if (!db_->isReplaced() && ::stat(path_.c_str(), &info) == 0)
        identity_ = fmt::format("{}:{}", info.st_dev, info.st_ino);
}

Study::~Study() = default;

Result<std::unique_ptr<Study>> Study::create(const std::string& path) {
    if (const Status good = checkPath(path); !good) return good.error();
    if (const Status made = makeFile(path); !made) return made.error();
    try {
        auto db = std::make_unique<Database>(path, Database::Mode::ReadWrite);
        harden(*db);
        prepareSchema(*db, false);
        db->run("PRAGMA foreign_keys = ON; PRAGMA synchronous = FULL");
        keepRowSums(*db);
        auto study = std::unique_ptr<Study>(new Study(path, std::move(db), false));
        Transaction transaction(*study->db_);
        study->judgement().setLabelBook(firstLabelBook());
        transaction.commit();
        return study;
    } catch (const StoreError& e) {
        // This file was made here, a moment ago: nothing of anybody's is in it.
        std::error_code none;
        for (const char* end : {"", "-wal", "-shm", "-journal"}) std::filesystem::remove(path + end, none);
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
        if (!reading && isNewerButReadable(*db)) {
            db.reset();
            return open(path, true);
        }
        prepareSchema(*db, reading);
        // Read, not mapped: a fault in a mapped file that is not in memory takes several times as long.
        db->run("PRAGMA foreign_keys = ON; PRAGMA synchronous = FULL; PRAGMA cache_size = -16384");
        if (!reading) keepRowSums(*db);
        auto study = std::unique_ptr<Study>(new Study(path, std::move(db), reading));
        study->newer_ = version > kSchemaVersion;
        if (version < kSchemaVersion) study->gatherIndex();
        return study;
    } catch (const StoreError& e) {
        return Error{fmt::format("{} cannot be opened as a study: {}", path, e.what())};
    }
}

bool Study::isReplaced() const {
    return db_->isReplaced();
}

void Study::leavePlace() {
    db_->leavePlace();
}

bool Study::isUntouched() const {
    return db_->number(
               "SELECT (SELECT count(*) FROM tag) + (SELECT count(*) FROM span) + (SELECT count(*) FROM "
               "import) + (SELECT count(*) FROM ledger) + (SELECT count(*) FROM setting)") == 0;
}

void Study::gatherIndex() {
    Transaction transaction(*db_);
    for (const Tag& tag : catalog_->tags()) samples_->gatherIndex(tag.id);
    transaction.commit();
}

void Study::foldJournal() {
    db_->run("PRAGMA wal_checkpoint(TRUNCATE)");
}

void Study::releaseMemory() {
    db_->run("PRAGMA shrink_memory");
}

WriteBatch::WriteBatch(Study& study) : transaction_(std::make_unique<Transaction>(*study.db_)) {}
WriteBatch::~WriteBatch() = default;

void WriteBatch::commit() {
    transaction_->commit();
}

Database& databaseOf(Study& study) {
    return *study.db_;
}

std::string Study::setting(const std::string& name, const std::string& otherwise) const {
    Statement s(*db_, "SELECT value FROM setting WHERE name = ?");
    return s.bind(name).more() ? s.text(0) : otherwise;
}

void Study::setSetting(const std::string& name, const std::string& value) {
    if (setting(name) == value && !value.empty()) return;
    if (isReplaced()) throw StoreError("the file of the study is another one now: the setting is not kept");
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

std::optional<TimeRange> Study::sampled() const {
    std::optional<TimeRange> all;
    for (const Tag& tag : catalog_->tags()) {
        const auto extent = reader(tag.id).extent(tag.id);
        if (!extent) continue;
        if (!all) all = extent;
        all->from = std::min(all->from, extent->from);
        all->to = std::max(all->to, extent->to);
    }
    return all;
}

TimeRange Study::record() const {
    if (const auto all = sampled()) return *all;
    Statement spans(*db_, "SELECT min(start), max(end) FROM span");
    return !spans.more() || spans.isNull(0) ? TimeRange{}
                                            : TimeRange{spans.instant(0), spans.instant(1) + kNanosecond};
}

const SampleReader& Study::reader(TagId) const {
    return *samples_;
}

namespace {

/// Uncertain samples, and those of stretches that are judged worse than the site asks for, turn bad.
void leaveUnsoundOut(const Study& study, TagId tag, std::span<const Fix> fixes, Series& series) {
    std::replace(series.quality.begin(), series.quality.end(), Quality::Uncertain, Quality::Bad);
    const TrustSettings settings = trustSettingsOf(study);
    const TimeRange range{series.times.front(), series.times.back() + kNanosecond};
    for (const GradedStretch& s : trustOver(settings, study.judgement().trustMarks(tag), fixes, range)) {
        if (!settings.isUnsound(s.grade)) continue;
        if (series.quality.empty()) series.quality.assign(series.times.size(), Quality::Good);
        for (std::size_t i = firstNotBefore(series.times, s.range.from);
             i < series.size() && series.times[i] < s.range.to; ++i)
            series.quality[i] = Quality::Bad;
    }
}

}  // namespace

Series Study::read(const Tag& tag, TimeRange range, Which which) const {
    return reader(tag.id).read(tag.id, range, fixesFor(*judgement_, tag.id, which));
}

Series Study::readForFigures(const Tag& tag, TimeRange range, Which which) const {
    return readForFigures(tag, range, fixesFor(*judgement_, tag.id, which));
}

Series Study::readForFigures(const Tag& tag, TimeRange range, std::span<const Fix> fixes) const {
    Series out = reader(tag.id).read(tag.id, range, fixes);
    if (!out.times.empty() && setting(kSoundDataOnly) == "yes") leaveUnsoundOut(*this, tag.id, fixes, out);
    return out;
}

std::vector<Summary> Study::columns(const Tag& tag, TimeRange range, int pixels, Which which) const {
    return reader(tag.id).columns(tag.id, range, pixels, fixesFor(*judgement_, tag.id, which));
}

double Study::valueAt(const Tag& tag, Instant t, Which which) const {
    return valueAt(tag, t, fixesFor(*judgement_, tag.id, which));
}

double Study::valueAt(const Tag& tag, Instant t, std::span<const Fix> fixes) const {
    // The nearest sample may be of bad quality: look as far as a line may reach; for held values until a
    // usable one.
    const Bridging bridging = tag.bridging();
    const Instant start = reader(tag.id).whole(tag.id).firstTime;
    Duration reach = bridging.longestGap == kWithoutEnd ? kHour : bridging.longestGap;
    while (true) {
        const Instant to = bridging.kind == TagKind::Continuous && bridging.longestGap != kWithoutEnd
                               ? t + reach + kNanosecond
                               : t + kNanosecond;
        const double v = jacinth::valueAt(reader(tag.id).read(tag.id, {t - reach, to}, fixes), bridging, t);
        if (std::isfinite(v) || bridging.longestGap != kWithoutEnd || t - reach < start) return v;
        reach *= 8;
    }
}

void Study::change(const std::string& name, const std::string& why, const nlohmann::json& detail,
                   const std::function<void()>& work) {
    history_->change(name, why, detail, work);
    judgement_->forgetFixes();
}

void Study::changeWithSamples(const std::string& name, const std::string& why, const nlohmann::json& detail,
                              const std::function<void()>& work) {
    history_->changeWithSamples(name, why, detail, work);
    judgement_->forgetFixes();
}

void Study::changeDerived(const std::string& name, const std::string& why, const nlohmann::json& detail,
                          const std::vector<TagId>& emptied, const std::function<void()>& work) {
    history_->changeDerived(name, why, detail, emptied, work);
    judgement_->forgetFixes();
}

void Study::reload() {
    catalog_->reload();
    samples_->forget();
    judgement_->forgetFixes();
}

bool Study::refresh() {
    const std::int64_t version = db_->number("PRAGMA data_version");
    if (version == seenVersion_) return false;
    seenVersion_ = version;
    catalog_->reload();
    judgement_->forgetFixes();
    samples_->refresh();
    return true;
}

Status Study::saveCopy(const std::string& path, bool replace, const Progress& progress) {
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
        // Not the size of the file at its path, which may be gone or another one by now.
        const double whole =
            static_cast<double>(db_->number("PRAGMA page_count") * db_->number("PRAGMA page_size") + 1);
        db_->runStoppable(
            [&] {
                std::error_code none;
                const auto size = fs::file_size(part, none);
                return !progress.stopped(none ? 0 : std::min(0.99, static_cast<double>(size) / whole));
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
