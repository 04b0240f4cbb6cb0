// A study: one file with everything about one investigation. This is the one door to it.
#pragma once

#include <functional>
#include <nlohmann/json_fwd.hpp>
#include <set>

#include "core/base/progress.h"
#include "core/golden/excursions.h"
#include "core/label/label_book.h"
#include "core/mend/fix.h"
#include "core/prove/prove.h"
#include "core/time/zone.h"
#include "store/catalog.h"
#include "store/sample_store.h"

namespace jacinth {

/// What kind of spans a track holds, by name in the file.
namespace track_kind {
inline constexpr const char* kRuns = "runs";
inline constexpr const char* kExcursions = "excursions";
inline constexpr const char* kLabels = "labels";
inline constexpr const char* kFailures = "failures";
inline constexpr const char* kStops = "stops";
inline constexpr const char* kWorkOrders = "work-orders";
inline constexpr const char* kReadings = "readings";
inline constexpr const char* kLog = "log";
inline constexpr const char* kAlarms = "alarms";
inline constexpr const char* kBatches = "batches";
inline constexpr const char* kPhases = "phases";
}  // namespace track_kind

struct Track {
    std::int64_t id = 0;
    std::string name;
    std::string kind;
    std::string definition;  ///< JSON: how its spans were found
};

/// Member of the definition of a derived tag that is calculated again by itself: its text in the expression
/// language.
inline constexpr const char* kExpression = "expression";

/// Setting: `yes` where samples of uncertain quality are missing to every expression.
inline constexpr const char* kSoundDataOnly = "sound data only";

/// One version of a named set of golden limits: one GoldenLimits for each role. Versions are kept; see
/// work/limit_choice.h for which one a run is judged by.
struct LimitSet {
    std::int64_t id = 0;
    std::string name;
    std::int64_t track = 0;
    std::vector<std::int64_t> goldenRuns;
    std::map<std::string, GoldenLimits> byRole;
    int version = 0;                 ///< from 1; 0 where it is not kept yet
    Instant validFrom = kNoInstant;  ///< runs that start earlier are not judged by it
    std::string forRuns;             ///< a condition about a run; empty for all runs
    Instant made = 0;
    std::string who;
};

struct Rule {
    std::string name;
    std::string text;
    ProveSpec spec;
};

struct LedgerEntry {
    std::int64_t id = 0;
    Instant at = 0;
    std::string who, what, why, detail;
};

struct ImportRecord {
    std::int64_t id = 0;
    Instant at = 0;
    std::string file, kind;
    std::int64_t bytes = 0, rows = 0, samples = 0, badRows = 0;
    bool complete = false;
    std::int64_t replaced = 0;         ///< samples of earlier imports that gave way; kept, see removeImport
    std::optional<Instant> removedAt;  ///< set where it was removed again
    bool removable = false;            ///< what it brought is on record
    std::int64_t badCells = 0;         ///< kept aside of rows that were read
};

/// An undoable step, and whose it is.
struct UndoableStep {
    std::int64_t id = 0;
    std::string name;
    std::string who;
    bool ours = true;  ///< made by this program since it was started, or before steps said by whom
};

/// What the removal of an import did, or would do.
struct ImportRemoval {
    std::int64_t samples = 0;   ///< that go
    std::int64_t restored = 0;  ///< older ones that come back in their place
    std::int64_t tags = 0;      ///< that are touched
    std::int64_t spans = 0;     ///< failures, readings, log lines … that go
};

/// Origin of the samples of a derived tag by expression.
struct DerivedState {
    std::string madeFrom;  ///< JSON: the expression and what it read, in which state; empty while under way
    Instant at = 0;
    std::string trouble;  ///< why it has no samples; empty for none
};

struct BadRow {
    std::int64_t line = 0;
    std::string reason;
    std::string text;  ///< of the row, as far as it is kept
    std::string cell;  ///< header of the cell that was kept aside; empty where it is the whole row
};

/// Which samples to read: with the fixes that are on, or as they were logged.
enum class Which { Mended, AsLogged };

/// Open from one thread; for another thread open the file again (read only, as often as needed).
/// Methods throw StoreError when the disk or the file fails, and return Result where the user can be wrong.
class Study {
  public:
    /// Fails where the file exists, and on what is not the path of a file (empty, `:memory:`, a URI).
    static Result<std::unique_ptr<Study>> create(const std::string& path);
    /// Fails where there is no such file or it is not a study. A file that this user cannot write, or that
    /// lies in a folder where nothing can be written, is opened for reading whatever is asked for: see
    /// readOnly(). Reading leaves no files behind that its owner could not write.
    static Result<std::unique_ptr<Study>> open(const std::string& path, bool readOnly = false);
    ~Study();

    bool readOnly() const { return readOnly_; }
    bool isUntouched() const;  ///< nobody has put anything in since it was made
    /// What of the file is damaged and is not used: one line each, found by the checksums and the counts of
    /// the rows. Quick: the samples, and what grows with them, are left to check().
    std::vector<std::string> damage();

    const std::string& path() const { return path_; }
    Catalog& catalog() { return catalog_; }
    const Catalog& catalog() const { return catalog_; }
    SampleStore& samples() { return samples_; }

    /// Folds the journal beside the file into it, which happens by itself when the study is closed.
    void foldJournal();
    void releaseMemory();  ///< gives back what the database keeps for its next reading

    // Settings: small named texts. View settings are not undone.
    std::string setting(const std::string& name, const std::string& otherwise = {}) const;
    void setSetting(const std::string& name, const std::string& value);
    Zone zone() const;  ///< the plant's; UTC where none was set
    std::string plantName() const;
    TimeRange record()
        const;  ///< from the first to just after the last sample or span; empty where there is none

    // Reading with the bridging and fixes of the tag.
    Series read(const Tag& tag, TimeRange range, Which which);
    /// The same for calculations: where the study asks for sound data only, uncertain samples are bad.
    Series readForFigures(const Tag& tag, TimeRange range, Which which);
    std::vector<Summary> columns(const Tag& tag, TimeRange range, int pixels, Which which);
    double valueAt(const Tag& tag, Instant t, Which which);

    // Derived tags: calculated from others.
    std::vector<std::int64_t> derivedTags() const;             ///< ids
    nlohmann::json derivedDefinition(std::int64_t tag) const;  ///< null for a tag that was logged
    DerivedState derivedState(std::int64_t tag) const;
    std::int64_t generationOf(std::int64_t tag) const;  ///< grows with every write of the tag's samples

    // Tracks and spans.
    std::vector<Track> tracks() const;
    std::optional<Track> trackNamed(const std::string& name) const;
    std::optional<Track> firstTrackOf(const std::string& kind) const;
    std::vector<Span> spans(std::int64_t track) const;         ///< by start
    std::vector<Span> spansOf(const std::string& kind) const;  ///< over all tracks of that kind
    std::optional<Span> span(std::int64_t id) const;
    /// The first track with spans about this tag, and how many; none where no span is.
    std::optional<std::pair<std::string, std::int64_t>> spansAbout(std::int64_t tag) const;

    // Judgement.
    const std::vector<Fix>& fixes(std::int64_t tag) const;  ///< in ledger order
    std::vector<Fix> allFixes() const;
    std::vector<CheckReading> checkReadings(std::int64_t tag) const;
    std::vector<std::int64_t> goldenRuns(std::int64_t track) const;
    std::string goldenWhy(std::int64_t track, std::int64_t span) const;
    std::vector<LimitSet> limitSets() const;  ///< every version, oldest first
    std::vector<std::pair<std::string, std::set<std::string>>> limitNames() const;  ///< newest, with roles
    /// The newest version, or a certain one.
    std::optional<LimitSet> limitSetNamed(const std::string& name, int version = 0) const;
    LabelBook labelBook() const;
    std::vector<Rule> rules() const;
    std::vector<LedgerEntry> ledger() const;
    std::vector<ImportRecord> imports() const;
    std::vector<BadRow> badRows(std::int64_t import) const;
    /// Hands the samples of a tag that imports replaced to `edit`, piece by piece, and keeps what it makes of
    /// them (as many, at the same times). Inside a transaction.
    void rewriteReplaced(std::int64_t tag, const std::function<void(Series&)>& edit);
    /// The samples that an import replaced, as they were, with the tag of each series.
    std::vector<std::pair<std::int64_t, Series>> replacedSamples(std::int64_t import) const;

    /// Does `work` as one undoable step: all or nothing, entered in the ledger under `name`, with who, why
    /// and the detail as JSON. What `work` changes through the methods below can be undone.
    void change(const std::string& name, const std::string& why, const nlohmann::json& detail,
                const std::function<void()>& work);
    /// The same for work that also makes tags and writes their samples (derived tags): undo takes the samples
    /// with it.
    void changeWithSamples(const std::string& name, const std::string& why, const nlohmann::json& detail,
                           const std::function<void()>& work);
    /// The same for derived tags by expression, whose samples do not belong to the step. The samples of the
    /// tags in `emptied` are dropped first.
    void changeDerived(const std::string& name, const std::string& why, const nlohmann::json& detail,
                       const std::vector<std::int64_t>& emptied, const std::function<void()>& work);
    void putDerivedDefinition(std::int64_t tag, const nlohmann::json& definition);
    void removeDerivedTag(std::int64_t tag);  ///< with its fixes; its samples must be gone before
    std::int64_t putTrack(const std::string& name, const std::string& kind,
                          const std::string& definition = "{}");
    void clearTrack(std::int64_t track);   ///< removes its spans, with their golden marks
    void removeTrack(std::int64_t track);  ///< with its spans
    std::int64_t addSpan(std::int64_t track, const Span& span, std::int64_t import = 0);
    void setTrackDefinition(std::int64_t track, const std::string& definition);
    void updateSpan(const Span& span);
    void removeSpan(std::int64_t id);  ///< with its golden mark
    std::int64_t addFix(const Fix& fix);
    void setFixOn(std::int64_t id, bool on);
    void removeFix(std::int64_t id);
    void setGoldenRuns(std::int64_t track, const std::vector<std::int64_t>& runs, const std::string& why);
    void removeLimitSet(const std::string& name, int version);  ///< every version where 0
    void renameLimitSet(const std::string& name, const std::string& newName);
    std::int64_t putLimitSet(const LimitSet& set);  ///< as the next version of its name
    void putRule(const Rule& rule);
    void setLabelBook(const LabelBook& book);
    void setAssetFacts(std::int64_t asset, const Facts& facts);
    /// Saved layouts of files: name and body in JSON, in order of name.
    std::vector<std::pair<std::string, std::string>> recipes() const;
    void putRecipe(const std::string& name, const std::string& body);

    /// What no undo takes back: samples that are calculated again by themselves, and how they stand. In the
    /// caller's transaction.
    void setDerivedState(std::int64_t tag, const DerivedState& state);
    void dropDerivedSamples(std::int64_t tag);

    /// What undo and redo would do next; none where there is nothing.
    std::optional<UndoableStep> nextUndo() const;
    std::optional<UndoableStep> nextRedo() const;
    /// Names of the same; empty where there is nothing.
    std::string undoName() const;
    std::string redoName() const;
    /// With `step` only where that is the one that is next: never a step that the user has not seen.
    Status undo(std::int64_t step = 0);
    Status redo(std::int64_t step = 0);
    /// The number of the newest step that is not undone; 0 for none.
    std::int64_t newestStep() const;
    /// Makes one step of the newest two, under the name of the newer, where `first` is the older of them: for
    /// work that has to commit half-way. Does nothing where another step has come between, or was undone
    /// since.
    void joinSteps(std::int64_t first);
    void forgetSteps();  ///< nothing before can be undone

    /// An entry that no undo takes back (an import, for one). Inside a transaction of the caller's.
    void enterInLedger(const std::string& what, const std::string& why, const nlohmann::json& detail);
    std::int64_t beginImport(const ImportRecord& record);
    void updateImport(const ImportRecord& record);
    void keepBadRow(std::int64_t import, const BadRow& row);
    /// Remembers what a write brought, so that the import can be removed. Inside its transaction.
    void keepImportPart(std::int64_t import, const PreparedWrite& write);
    /// Removes what an import brought. Samples: where it had replaced older ones, these return; where a
    /// newer import replaced its samples, nothing is seen of the removal. Recorded events: its spans go, as
    /// one undoable step. Entered in the ledger.
    Result<ImportRemoval> removeImport(std::int64_t import, const std::string& why);

    void reload();  ///< drops what is cached
    /// Takes notice of what other connections have written since; true where there was something.
    bool refresh();
    /// Reads everything and compares it with what it must be: the pages of the file, the definitions of its
    /// tables, the checksum of every row and block, how many rows there are, the summaries, the ledger's
    /// chain, every text in JSON, and what refers to what. One line per fault; empty for a clean study. Stops
    /// early where it is stopped.
    std::vector<std::string> check(const Progress& progress = {});
    /// A copy, whole and compact. Written beside and put in place when it is whole. Where there is a file:
    /// fails, or with `replace` takes its place; never that of this study or of one that is open in a
    /// program. Can be stopped.
    Status saveCopy(const std::string& path, bool replace = false, const Progress& progress = {});
    /// Who changes things: $JACINTH_USER, or the account's full name, unless set.
    void setWho(std::string who) { who_ = std::move(who); }
    const std::string& who() const { return who_; }

  private:
    friend class WriteBatch;
    friend Database& databaseOf(Study& study);  // store/study_database.h
    Study(std::string path, std::unique_ptr<Database> db, bool readOnly);
    void gatherIndex();
    Status step(bool undoing, std::int64_t only);
    std::optional<UndoableStep> nextStep(bool undoing) const;
    void changeIn(const std::vector<std::string>& tables, const std::string& name, const std::string& why,
                  const nlohmann::json& detail, const std::function<void()>& before,
                  const std::function<void()>& work);

    std::string path_;
    bool readOnly_ = false;
    std::unique_ptr<Database> db_;
    Catalog catalog_;
    SampleStore samples_;
    std::string who_;
    mutable std::unordered_map<std::int64_t, std::vector<Fix>> fixes_;
    std::int64_t seenVersion_ = 0;  ///< of the file, as SQLite counts other connections' commits
};

/// What is written to a study while it lives is committed together: all of it, or nothing where it ends
/// without commit(). May not be nested, nor live across Study::change.
class WriteBatch {
  public:
    explicit WriteBatch(Study& study);
    void commit() { transaction_.commit(); }

  private:
    Transaction transaction_;
};

}  // namespace jacinth
