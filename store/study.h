// A study: one file with everything about one investigation. This is the one door to it.
#pragma once

#include <functional>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/base/progress.h"
#include "core/time/zone.h"
#include "store/catalog.h"
#include "store/sample_reader.h"
#include "store/store_error.h"

namespace jacinth {

class Database;
class DerivedCatalog;
class History;
class Imports;
class Judgement;
class SampleStore;
class Tracks;

/// Setting: `yes` where samples of uncertain quality are missing to every expression.
inline constexpr const char* kSoundDataOnly = "sound data only";

/// Which samples to read: with the fixes that are on, or as they were logged.
enum class Which { Mended, AsLogged };

/// Open from one thread; for another thread open the file again (read only, as often as needed).
/// Its parts live as long as it does; each has its own header: include that of the part you use.
/// Methods throw StoreError when the disk or the file fails, and return Result where the user can be wrong.
class Study {
  public:
    /// Fails where the file exists, and on what is not the path of a file (empty, `:memory:`, a URI).
    static Result<std::unique_ptr<Study>> create(const std::string& path);
    /// Fails where there is no such file or it is not a study. A file that this user cannot write, or that
    /// lies in a folder where nothing can be written, or of a newer format that this program can read, is
    /// opened for reading whatever is asked for: see readOnly(). Reading leaves no files behind that its
    /// owner could not write.
    static Result<std::unique_ptr<Study>> open(const std::string& path, bool readOnly = false);
    ~Study();

    const std::string& path() const { return path_; }
    bool readOnly() const { return readOnly_; }
    bool isNewer() const { return newer_; }  ///< made by a newer Jacinth, and therefore for reading only
    /// Which file of the disk this is, whatever its path: two that are open are the same one where it is
    /// equal.
    const std::string& fileIdentity() const { return identity_; }
    bool isReplaced() const;   ///< its file is another one on the disk now, see Database
    void leavePlace();         ///< to the other file, see Database
    bool isUntouched() const;  ///< nobody has put anything in since it was made

    // The parts.
    Catalog& catalog() { return *catalog_; }  ///< assets and tags
    const Catalog& catalog() const { return *catalog_; }
    Tracks& tracks() { return *tracks_; }  ///< tracks and spans
    const Tracks& tracks() const { return *tracks_; }
    Judgement& judgement() { return *judgement_; }  ///< fixes, golden runs, limits, label kinds, rules
    const Judgement& judgement() const { return *judgement_; }
    DerivedCatalog& derived() { return *derived_; }  ///< what derived tags are made of
    const DerivedCatalog& derived() const { return *derived_; }
    Imports& imports() { return *imports_; }  ///< what came in, and its removal
    const Imports& imports() const { return *imports_; }
    History& history() { return *history_; }  ///< undo, redo, ledger
    const History& history() const { return *history_; }
    SampleStore& samples() { return *samples_; }  ///< for writing; read through the methods below

    // Settings: small named texts. View settings are not undone.
    std::string setting(const std::string& name, const std::string& otherwise = {}) const;
    void setSetting(const std::string& name, const std::string& value);
    Zone zone() const;  ///< the plant's; UTC where none was set
    std::string plantName() const;
    /// From the first to just after the last sample or, in a study without samples, span; empty without both.
    TimeRange record() const;
    /// The same of samples alone.
    std::optional<TimeRange> sampled() const;

    // Reading with the bridging and fixes of the tag.
    Series read(const Tag& tag, TimeRange range, Which which) const;
    /// The same for calculations: where the study asks for sound data only, uncertain samples are bad.
    Series readForFigures(const Tag& tag, TimeRange range, Which which) const;
    Series readForFigures(const Tag& tag, TimeRange range, std::span<const Fix> fixes) const;
    std::vector<Summary> columns(const Tag& tag, TimeRange range, int pixels, Which which) const;
    double valueAt(const Tag& tag, Instant t, Which which) const;
    /// The same as mended by these fixes alone, on record or not.
    double valueAt(const Tag& tag, Instant t, std::span<const Fix> fixes) const;
    /// Where this tag's samples are read from, for what the methods above do not answer.
    const SampleReader& reader(TagId tag) const;

    /// Does `work` as one undoable step: all or nothing, entered in the ledger under `name`, with who, why
    /// and the detail as JSON. What `work` changes through the parts can be undone.
    void change(const std::string& name, const std::string& why, const nlohmann::json& detail,
                const std::function<void()>& work);
    /// The same for work that also makes tags and writes their samples (derived tags): undo takes the samples
    /// with it.
    void changeWithSamples(const std::string& name, const std::string& why, const nlohmann::json& detail,
                           const std::function<void()>& work);
    /// The same for derived tags by expression, whose samples do not belong to the step. The samples of the
    /// tags in `emptied` are dropped first.
    void changeDerived(const std::string& name, const std::string& why, const nlohmann::json& detail,
                       const std::vector<TagId>& emptied, const std::function<void()>& work);

    void reload();  ///< drops what is cached
    /// Takes notice of what other connections have written since; true where there was something.
    bool refresh();
    /// Folds the journal beside the file into it, which happens by itself when the study is closed.
    void foldJournal();
    void releaseMemory();  ///< gives back what the database keeps for its next reading

    /// What of the file is damaged and is not used: one line each, found by the checksums and the counts of
    /// the rows. Quick: the samples, and what grows with them, are left to check().
    std::vector<std::string> damage();
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

    std::string path_, identity_;
    bool readOnly_ = false, newer_ = false;
    std::string who_;
    // In order of what stands on what.
    std::unique_ptr<Database> db_;
    std::unique_ptr<Catalog> catalog_;
    std::unique_ptr<SampleStore> samples_;
    std::unique_ptr<Tracks> tracks_;
    std::unique_ptr<Judgement> judgement_;
    std::unique_ptr<DerivedCatalog> derived_;
    std::unique_ptr<History> history_;
    std::unique_ptr<Imports> imports_;
    std::int64_t seenVersion_ = 0;  ///< of the file, as SQLite counts other connections' commits
};

/// What is written to a study while it lives is committed together: all of it, or nothing where it ends
/// without commit(). May not be nested, nor live across Study::change.
class WriteBatch {
  public:
    explicit WriteBatch(Study& study);
    ~WriteBatch();
    void commit();

  private:
    std::unique_ptr<class Transaction> transaction_;
};

}  // namespace jacinth
