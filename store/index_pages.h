// The index of a tag's blocks in few large pieces, so that a tag of years is looked up in a handful of reads
// wherever its blocks lie in the file. All of it is derived from `block`, `block_cells` and `block_coarse`,
// and can be dropped and made again.
#pragma once

#include <functional>

#include "store/block_codec.h"

namespace jacinth {

/// A block, and where in the pages its summaries stand. Page 0: in none yet.
struct IndexEntry : BlockFigures {
    std::int64_t page = 0;
    std::uint32_t part = 0;                     ///< of the page's coarse summaries
    std::uint32_t coarseAt = 0, quarterAt = 0;  ///< its first cell within the part, within the page
};

class IndexPages {
  public:
    /// Blocks are gathered in groups; a group's coarse summaries are one piece (a part).
    static constexpr std::size_t kGroup = 64;
    static constexpr std::size_t kMostBlocks = 2048;  ///< of a page
    /// So many of the newest blocks may stand outside pages: they change with every write.
    static constexpr std::size_t kMostLoose = kGroup + 8;

    using Cells = std::vector<Summary>;
    using CoarseOf = std::function<Cells(std::int64_t block)>;

    explicit IndexPages(Database& db) : db_(db) {}

    std::vector<IndexEntry> load(TagId tag) const;              ///< all blocks of the tag, by time
    Cells coarse(std::int64_t page, std::uint32_t part) const;  ///< cells of kCoarseSamples
    Cells quarters(std::int64_t page) const;                    ///< cells of kQuarterSamples
    /// Drops the pages that have a block in [first, last]; true where there was one. Before blocks there
    /// change, inside the same transaction.
    bool drop(TagId tag, Instant first, Instant last);
    /// Takes blocks that stand outside pages into pages. Inside a transaction.
    void gather(TagId tag, const CoarseOf& coarseOf);

  private:
    struct Page;
    void append(Page& page, std::span<const IndexEntry> group, const CoarseOf& coarseOf);
    void store(Page& page);
    void loose(TagId tag, Instant after, Instant before, std::vector<IndexEntry>& out) const;
    Database& db_;
};

}  // namespace jacinth
