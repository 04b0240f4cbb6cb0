// Samples of an import gathered by tag, and stored batch by batch.
#pragma once

#include <memory>
#include <unordered_map>

#include "source/import_samples.h"
#include "source/parse_rows.h"
#include "store/imports.h"
#include "store/sample_store.h"

namespace jacinth {

/// Belongs to one import. Nothing is written before the first commit.
class ImportBatches {
  public:
    ImportBatches(Study& study, const TextSource& source, const TextLayout& layout, ImportResult& result);
    ~ImportBatches();

    /// What is known of tags' kinds now, for reading the next piece.
    std::shared_ptr<const KnownKinds> kinds() const { return std::make_shared<KnownKinds>(kinds_); }
    /// Takes up what a piece shows of the kinds of its tags. True where the piece has to be read again: it
    /// took a tag for something else than it turns out to be.
    bool learnKinds(const ParsedRows& piece);
    void add(ParsedRows& piece);
    bool full() const;           ///< enough for a commit
    bool nothingRead() const;    ///< there were rows, and all of them were kept aside
    void commit(bool complete);  ///< one transaction; throws StoreError
    void listTags();             ///< into the result

  private:
    struct Target;
    void addTag(ParsedTag& parsed);
    void turnIntoStates(Target& target);
    void makeTags(const std::vector<Target*>& due);
    void makeTag(Target& target);
    void store(std::vector<PreparedWrite>& writes, const std::vector<Target*>& due, bool complete);
    void keepRecord(bool complete);

    Study& study_;
    ImportResult& result_;
    ImportRecord record_;
    KnownKinds kinds_;
    std::unordered_map<std::string, std::unique_ptr<Target>> targets_;
    std::vector<Target*> order_;  ///< of first sight, so that new tags stand in the order of the file
    std::vector<BadRow> bad_;
    std::size_t badKept_ = 0;  ///< rows and cells handed to the study
    std::size_t waiting_ = 0;  ///< samples gathered and not stored
    std::size_t fresh_ = 0;    ///< gathered since the last commit
};

}  // namespace jacinth
