// What came into a study: imports, the rows they kept aside, the samples they replaced, their removal.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/base/id.h"
#include "core/series/series.h"

namespace jacinth {

class Database;
class History;
class SampleStore;
class Tracks;
struct PreparedWrite;

struct ImportRecord {
    ImportId id;
    Instant at{};
    std::string file, kind;
    std::int64_t bytes = 0, rows = 0, samples = 0, badRows = 0;
    bool complete = false;
    std::int64_t replaced = 0;         ///< samples of earlier imports that gave way; kept, see removeImport
    std::optional<Instant> removedAt;  ///< set where it was removed again
    bool removable = false;            ///< what it brought is on record
    std::int64_t badCells = 0;         ///< kept aside of rows that were read
};

/// What the removal of an import did, or would do.
struct ImportRemoval {
    std::int64_t samples = 0;   ///< that go
    std::int64_t restored = 0;  ///< older ones that come back in their place
    std::int64_t tags = 0;      ///< that are touched
    std::int64_t spans = 0;     ///< failures, readings, log lines … that go
};

/// A stretch of a tag's record that one import brought samples into, or that the removal of one took some
/// from; both ends included.
struct RecordPart {
    ImportId import;
    TimeRange range;
    bool removed = false;
};

struct BadRow {
    std::int64_t line = 0;
    std::string reason;
    std::string text;  ///< of the row, as far as it is kept
    std::string cell;  ///< header of the cell that was kept aside; empty where it is the whole row
};

/// Throws StoreError where the file fails.
class Imports {
  public:
    /// All must outlive this.
    Imports(Database& db, SampleStore& samples, Tracks& tracks, History& history)
        : db_(db), samples_(samples), tracks_(tracks), history_(history) {}

    std::vector<ImportRecord> all() const;
    std::vector<BadRow> badRows(ImportId import) const;
    /// The samples that an import replaced, as they were, with the tag of each series.
    std::vector<std::pair<TagId, Series>> replacedSamples(ImportId import) const;

    /// Every part of a tag's record, in order of what happened first: imports that are there, then removals.
    std::vector<RecordPart> partsOf(TagId tag) const;

    // While an import goes on, inside the transactions of its batches.
    ImportId begin(const ImportRecord& record);
    void update(const ImportRecord& record);
    void keepBadRow(ImportId import, const BadRow& row);
    /// Remembers what a write brought, so that the import can be removed.
    void keepPart(ImportId import, const PreparedWrite& write);

    /// Removes what an import brought. Samples: where it had replaced older ones, these return; where a
    /// newer import replaced its samples, nothing is seen of the removal. Recorded events: its spans go, as
    /// one undoable step. Entered in the ledger.
    Result<ImportRemoval> remove(ImportId import, const std::string& why);
    /// Hands the samples of a tag that imports replaced to `edit`, piece by piece, and keeps what it makes of
    /// them (as many, at the same times). Inside a transaction.
    void rewriteReplaced(TagId tag, const std::function<void(Series&)>& edit);

    /// Saved layouts of files: name and body in JSON, in order of name.
    std::vector<std::pair<std::string, std::string>> recipes() const;
    void putRecipe(const std::string& name, const std::string& body);

  private:
    ImportRemoval removeSamples(ImportId import);

    Database& db_;
    SampleStore& samples_;
    Tracks& tracks_;
    History& history_;
};

}  // namespace jacinth
