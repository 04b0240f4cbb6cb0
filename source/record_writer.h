// The one way a record gets into a study: samples gathered by tag, stored batch by batch, counted, and on
// record as an import that can be removed.
#pragma once

#include <memory>
#include <unordered_map>

#include "source/record_source.h"
#include "store/sample_store.h"
#include "store/study.h"

namespace jacinth {

inline constexpr std::size_t kBadRowsShown = 100;
inline constexpr std::size_t kMostBadRows = 10'000;  ///< kept in the study of one import; the rest is counted

struct ImportResult {
    ImportId import;
    std::int64_t rows = 0;          ///< of the source, those kept aside included
    std::int64_t badRowCount = 0;   ///< kept aside as a whole
    std::int64_t badCellCount = 0;  ///< kept aside of rows whose other cells were read (wide files)
    std::int64_t samples = 0, replaced = 0, unchanged = 0;
    std::int64_t sameTime = 0;    ///< samples of a tag at a time that a later row has again; that row stands
    std::vector<BadRow> badRows;  ///< the first kBadRowsShown; the study keeps the first kMostBadRows
    std::map<std::string, std::int64_t> noValue;  ///< samples without a value, by the text that said so
    std::vector<std::string> tags;                ///< paths
    std::vector<std::string> notes;  ///< what is worth knowing: an hour that happened twice, for one
    bool cancelled = false;

    void add(const ImportResult& next);  ///< that of one more file
};

/// Belongs to one import. Nothing is written before the first commit. `kinds` and `result` outlive it.
class RecordWriter {
  public:
    RecordWriter(Study& study, const SourceFacts& source, const TagKinds& kinds, OtherUnits units,
                 ImportResult& result);
    ~RecordWriter();

    /// Throws StoreError where a tag of the block has another unit than in the study and that is refused.
    void add(RecordBlock& block);
    bool full() const;           ///< enough for a commit
    bool nothingRead() const;    ///< there were rows, and all of them were kept aside
    void commit(bool complete);  ///< one transaction; throws StoreError
    void listTags();             ///< into the result

  private:
    struct Target;
    void addTag(TagBlock& block);
    TagId addTag(const Target& target, TagKind kind);
    void turnIntoStates(Target& target);
    void bringToUnit(Target& target, TagBlock& block);
    void makeTags(const std::vector<Target*>& due);
    void makeTag(Target& target);
    void store(std::vector<PreparedWrite>& writes, const std::vector<Target*>& due, bool complete);
    void keepRecord(bool complete);

    Study& study_;
    const TagKinds& kinds_;
    OtherUnits units_;
    ImportResult& result_;
    ImportRecord record_;
    std::unordered_map<std::string, std::unique_ptr<Target>> targets_;
    std::map<std::string, std::map<std::string, std::string>> groupsOf_;  ///< of assets, as named here
    std::vector<Target*> order_;  ///< of first sight, so that new tags stand in the order of the source
    std::vector<BadRow> bad_;
    std::size_t badKept_ = 0;  ///< rows and cells handed to the study
    std::size_t waiting_ = 0;  ///< samples gathered and not stored
    std::size_t fresh_ = 0;    ///< gathered since the last commit
};

}  // namespace jacinth
