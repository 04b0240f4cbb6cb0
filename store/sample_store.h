// The samples of a study: blocks on disk, summaries above them, as logged or with fixes applied.
#pragma once

#include <map>
#include <memory>
#include <unordered_map>

#include "core/mend/fix.h"
#include "core/series/summary.h"
#include "store/block_codec.h"

namespace jacinth {

/// What a write did to the record.
struct WriteCount {
    std::int64_t added = 0;      ///< samples at new instants
    std::int64_t replaced = 0;   ///< samples that took the place of an older one at the same instant
    std::int64_t unchanged = 0;  ///< samples that were there already
};

/// Reads and writes samples by tag id. Not for use from two threads at once: open the study again instead.
/// Fixes are those on record, in ledger order; pass none to read as logged.
class SampleStore {
  public:
    explicit SampleStore(Database& db) : db_(db) {}

    /// Samples in [range.from, range.to), and the nearest on either side, so that lines can be drawn to the
    /// edges.
    Series read(std::int64_t tag, TimeRange range, std::span<const Fix> fixes) const;
    /// At most a few summaries a pixel column, in time order, with one sample beyond either edge where there
    /// is one.
    std::vector<Summary> columns(std::int64_t tag, TimeRange range, int pixels,
                                 std::span<const Fix> fixes) const;
    Summary whole(std::int64_t tag) const;  ///< of the logged samples; count 0 where there are none

    /// Adds samples, any order; at the same instant the later of them stands and replaces what is stored.
    /// Call inside a transaction.
    WriteCount write(std::int64_t tag, Series samples);
    Duration spacing(std::int64_t tag) const;  ///< median of the blocks' median spacings

    /// Reads every block of the tag and compares it with its checksum and summaries. One line a fault.
    std::vector<std::string> verify(std::int64_t tag) const;

    void forget() const;  ///< drops what is cached, after a change from elsewhere or a rollback

  private:
    struct Block {
        std::int64_t id = 0;
        Summary summary;
        Duration spacing = 0;
    };
    using Blocks = std::vector<Block>;
    using CellList = std::vector<Summary>;
    const Blocks& blocks(std::int64_t tag) const;
    std::pair<std::size_t, std::size_t> blocksIn(const Blocks& all, TimeRange range) const;
    std::shared_ptr<const Series> samples(std::int64_t block) const;
    std::shared_ptr<const CellList> cells(std::int64_t block) const;
    std::shared_ptr<const CellList> mendedCells(const Block& block, std::span<const Fix> fixes) const;
    Series mended(const Block& block, std::span<const Fix> fixes) const;
    void addBlock(ColumnBuilder& out, const Block& block, std::span<const Fix> fixes) const;
    void insertBlocks(std::int64_t tag, const SeriesView& samples);
    void removeBlock(std::int64_t block);

    Database& db_;
    mutable std::unordered_map<std::int64_t, Blocks> blocks_;
    mutable std::unordered_map<std::int64_t, std::shared_ptr<const Series>> samples_;
    mutable std::unordered_map<std::int64_t, std::shared_ptr<const CellList>> cells_;
    mutable std::unordered_map<std::string, std::shared_ptr<const CellList>> mendedCells_;
};

}  // namespace jacinth
