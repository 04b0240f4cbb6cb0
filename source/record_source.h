// Where a record comes from: one interface for text files, databases, files of arrays and live protocols.
// What a source reads goes into the study through source/record_writer.h, which counts, keeps aside, and
// settles overlaps alike for all of them.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/series/series.h"
#include "source/name_mapping.h"
#include "store/catalog.h"
#include "store/imports.h"

namespace jacinth {

/// One tag's samples in a block. Any order of time; where two have the same instant the later one stands.
struct TagBlock {
    std::string path;  ///< `Asset/Tag`, as it will be in the study
    MappedName name;
    std::string sourceName;  ///< as the source has it, for messages: a column's header
    /// Known before, or what most of its values in this block are; none where there were only texts that
    /// mean “no value”.
    std::optional<TagKind> kind;
    bool known = false;  ///< the kind was known before the block was read
    /// Of a state tag, values are places in `texts`; else a text has the value valueOfText(place) and bad
    /// quality.
    Series series;
    std::vector<std::string> texts;  ///< in order of first sight
};

/// Rows and cells that could not be read: the first kMost in full, the rest counted.
struct KeptAside {
    static constexpr std::size_t kMost = 2000;
    std::vector<BadRow> kept;  ///< `cell` is set for a cell of a row that was read
    std::int64_t rows = 0;     ///< not read at all
    std::int64_t cells = 0;    ///< of rows that were read
};

/// What a source hands on at a time: some ten thousand to some million samples.
struct RecordBlock {
    std::int64_t rows = 0;                        ///< those kept aside included
    std::vector<std::unique_ptr<TagBlock>> tags;  ///< in order of first sight
    KeptAside aside;
    std::map<std::string, std::int64_t> noValue;  ///< samples without a value, by the text that said so
};

/// What holds the values of a tag, by path.
using KnownKinds = std::map<std::string, TagKind, std::less<>>;

/// The kinds of tags as far as they are known: from the study, or from blocks read before. From one thread;
/// what now() gave does not change and may be read from any.
class TagKinds {
  public:
    explicit TagKinds(const Catalog& catalog);
    std::shared_ptr<const KnownKinds> now() const { return std::make_shared<KnownKinds>(kinds_); }
    std::optional<TagKind> of(const std::string& path) const;
    /// Takes up what a block shows of the kinds of its tags. True where it has to be read again: it took a
    /// tag for something else than it turns out to be.
    bool learn(const RecordBlock& block);

  private:
    KnownKinds kinds_;
};

/// What a source is, and what it can do.
struct SourceFacts {
    std::string name;           ///< for the ledger and the list of imports, without secrets
    std::string kind;           ///< `long`, `wide`, …
    std::int64_t bytes = 0;     ///< 0 where that means nothing
    bool choosesTags = false;   ///< can read some tags alone
    bool choosesTimes = false;  ///< can read a stretch of time alone
};

/// A tag that a source has, as far as it can say that cheaply.
struct SourceTag {
    std::string path, description, unit;
    std::optional<TagKind> kind;
    std::optional<TimeRange> extent;
    std::optional<std::int64_t> count;
};

/// What becomes of samples whose unit is not that of their tag in the study.
enum class OtherUnits {
    Refuse,   ///< nothing is stored; the error says what differs
    Convert,  ///< to the tag's unit; refused where that is not known how
    Keep      ///< the numbers are taken as they are
};

struct ReadRequest {
    std::vector<std::string> tags;   ///< paths; empty for all
    std::optional<TimeRange> range;  ///< none for all
    OtherUnits units = OtherUnits::Refuse;
};

/// Blocks of a record, one after the other. From one thread.
class BlockStream {
  public:
    virtual ~BlockStream() = default;
    /// The next block; none at the end. After an error nothing more is asked for.
    virtual Result<std::optional<RecordBlock>> next() = 0;
    virtual double share() const { return 0; }  ///< of the whole that was read, 0 to 1
    /// Asked before anything is stored: is what was read still what the source holds? May add notes.
    virtual Status stillTrue(std::vector<std::string>& notes) {
        (void)notes;
        return Done{};
    }
    /// What is worth knowing about what was read, asked at the end.
    virtual std::vector<std::string> notes() const { return {}; }
};

/// A source that is open. It outlives the streams it gives; one stream at a time.
class RecordSource {
  public:
    virtual ~RecordSource() = default;
    virtual SourceFacts facts() const = 0;
    /// Tags whose path holds `like` (capitals or not), all where it is empty.
    virtual Result<std::vector<SourceTag>> tags(const std::string& like) = 0;
    /// Asked to choose only as far as facts() says that it can. `kinds` outlives the stream, which may teach
    /// it; blocks come with the kinds it knows.
    virtual Result<std::unique_ptr<BlockStream>> read(const ReadRequest& request, TagKinds& kinds) = 0;
};

}  // namespace jacinth
