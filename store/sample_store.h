// The samples of a study: blocks on disk, summaries above them, as logged or with fixes applied.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <unordered_map>

#include "core/mend/mended.h"
#include "store/index_pages.h"
#include "store/sample_reader.h"

namespace jacinth {

/// What a write did to the record.
struct WriteCount {
    std::int64_t added = 0;      ///< samples at new instants
    std::int64_t replaced = 0;   ///< samples that took the place of an older one at the same instant
    std::int64_t unchanged = 0;  ///< samples that were there already
};

class CodedTimes;

/// A write prepared and coded before the file is locked for it.
struct PreparedWrite {
    struct Block {
        Summary summary;
        Duration spacing{};
        Blob samples, cells, coarse;
    };
    TagId tag;
    std::int64_t generation = 0;         ///< of the tag's samples when this was prepared
    std::vector<std::int64_t> outdated;  ///< blocks that go
    Series content;                      ///< of the blocks that come; empty once coded
    std::vector<Block> blocks;
    WriteCount count;
    TimeRange extent;               ///< from the first to just after the last sample handed in
    bool alone = true;              ///< there was no other sample of this tag in `extent`
    std::vector<Instant> instants;  ///< of the samples added or replaced; empty where `alone`
    Series replaced;                ///< samples that give way, as they were
};

/// Reads and writes samples by tag id. Not for use from two threads at once: open the study again instead.
/// Fixes are those on record, in ledger order; pass none to read as logged.
class SampleStore : public SampleReader {
  public:
    explicit SampleStore(Database& db) : db_(db), pages_(db) {}

    Series read(TagId tag, TimeRange range, std::span<const Fix> fixes) const override;
    std::vector<Summary> columns(TagId tag, TimeRange range, int pixels,
                                 std::span<const Fix> fixes) const override;
    Summary whole(TagId tag) const override;
    /// Samples of the blocks that touch the range: at most two blocks more than lie in it.
    std::int64_t countAbout(TagId tag, TimeRange range) const override;
    /// Without reading the tag's index.
    std::optional<TimeRange> extent(TagId tag) const override;
    std::int64_t generationOf(TagId tag) const override;  ///< grows with every write of its samples

    /// Adds samples, any order; at the same instant the later of them stands and replaces what is stored.
    /// Call inside a transaction.
    WriteCount write(TagId tag, const SeriesView& samples);
    /// The same in three steps: what to write (reads), its coding (touches nothing, for any thread), and the
    /// writing itself, inside a transaction. apply() is false, and does nothing, when the tag's samples
    /// changed since prepare().
    PreparedWrite prepare(TagId tag, const SeriesView& samples) const;
    static void code(PreparedWrite& write);
    /// The same for one of many writes, whose times are coded once. May be called from several threads, with
    /// a write each.
    static void code(PreparedWrite& write, CodedTimes& times);
    bool apply(PreparedWrite& write);
    /// Hands each block's samples that touch the range to `edit` and stores what it leaves of them. Inside a
    /// transaction.
    void rewrite(TagId tag, TimeRange range, const std::function<void(Series&)>& edit);
    void clear(TagId tag);              ///< removes all samples; inside a transaction
    Duration spacing(TagId tag) const;  ///< median of the blocks' median spacings

    /// Reads every block of the tag and compares it with its checksum and summaries; `judge` says what else
    /// is wrong with its samples, or nothing. One line per fault.
    std::vector<std::string> verify(TagId tag,
                                    const std::function<std::string(const Series&)>& judge = {}) const;

    /// How much memory samples may take; summaries take about as much again.
    void setCacheSize(std::size_t bytes);
    void forget() const;   ///< drops what is cached, after a rollback
    void refresh() const;  ///< drops what is cached of tags that another connection has written since
    /// Brings the index of tags written by an earlier version into pages. Inside a transaction.
    void gatherIndex(TagId tag);

  private:
    using Block = IndexEntry;
    using Blocks = std::vector<Block>;
    using CellList = IndexPages::Cells;
    /// What is in memory of one tag. It stands for one generation of the tag's samples and goes as a whole.
    struct TagCache {
        std::int64_t generation = 0;
        Blocks blocks;
        std::unordered_map<std::int64_t, std::shared_ptr<const Series>> samples;
        std::unordered_map<std::int64_t, std::shared_ptr<const CellList>> cells;
        std::unordered_map<std::int64_t, CellList> coarse;  ///< of blocks outside pages
        std::map<std::pair<std::int64_t, std::uint32_t>, CellList> coarseParts;
        std::unordered_map<std::int64_t, CellList> quarters;  ///< by page
        std::unordered_map<std::string, std::shared_ptr<const CellList>> mendedCells;
    };
    TagCache& cache(TagId tag) const;
    const Blocks& blocks(TagId tag) const { return cache(tag).blocks; }
    std::pair<std::size_t, std::size_t> blocksIn(const Blocks& all, TimeRange range) const;
    std::shared_ptr<const Series> samples(TagId tag, std::int64_t block) const;
    std::shared_ptr<const CellList> cells(TagId tag, std::int64_t block) const;
    /// Cells of kCoarseSamples: small enough to read and to keep for far more blocks. Until the next call.
    std::span<const Summary> coarse(TagId tag, const Block& block) const;
    /// Cells of kQuarterSamples, or the coarse ones of a block outside pages. Until the next call.
    std::span<const Summary> quarters(TagId tag, const Block& block) const;
    CellList coarseOfLoose(std::int64_t block) const;
    void countCoarse(std::size_t cells) const;
    // Blocks by their place in the tag's index.
    static TimeRange rangeOf(const Blocks& all, std::size_t block);
    std::shared_ptr<const CellList> mendedCells(TagId tag, std::size_t block,
                                                std::span<const Fix> fixes) const;
    Series mended(TagId tag, std::size_t block, std::span<const Fix> fixes) const;
    void addBlock(ColumnBuilder& out, TagId tag, std::size_t block, std::span<const Fix> fixes) const;
    MendSources sourcesOf(TagId tag) const;
    Series logged(TagId tag, TimeRange range) const;  ///< with the nearest on either side
    /// The same, mended, where fixes make samples come, go, move or turn bad.
    Series readAround(TagId tag, TimeRange range, std::span<const Fix> fixes) const;
    void makeRoom() const;
    std::vector<std::int64_t> insertBlocks(TagId tag, const std::vector<PreparedWrite::Block>& blocks);
    void removeBlock(std::int64_t block);
    static void follow(Blocks& index, const PreparedWrite& write, const std::vector<std::int64_t>& ids);
    std::shared_ptr<const CellList> readCells(std::int64_t block) const;
    void nextGeneration(TagId tag);

    Database& db_;
    IndexPages pages_;
    /// Runs a kept statement for one block and hands its bytes to `use`; false where there is no row.
    bool withBytes(std::unique_ptr<Statement>& kept, const char* sql, std::int64_t block,
                   const std::function<void(std::span<const std::uint8_t>)>& use) const;
    mutable std::unique_ptr<Statement> readSamples_, readCells_,
        readCoarse_;  ///< preparing costs more than reading
    mutable std::unordered_map<TagId, TagCache> tags_;
    std::size_t mostSampleBlocks_ = 512, mostCellBlocks_ = 6144;                  ///< about 64 MB each
    mutable std::size_t cachedSamples_ = 0, cachedCells_ = 0, cachedCoarse_ = 0;  ///< the last in cells
};

}  // namespace jacinth
