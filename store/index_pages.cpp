#include "store/index_pages.h"

#include <algorithm>
#include <limits>

namespace jacinth {
namespace {

constexpr std::int64_t kMostParts = 64;  // identifiers of parts are page · 64 + part
static_assert(IndexPages::kMostBlocks / IndexPages::kGroup <= kMostParts);

std::uint32_t cellsIn(const Summary& block, std::size_t samples) {
    return static_cast<std::uint32_t>((block.count + samples - 1) / samples);
}

/// Says of each block of a page where its summaries stand.
void place(std::vector<IndexEntry>& blocks, std::size_t from, std::int64_t page) {
    std::uint32_t coarse = 0, quarter = 0;
    for (std::size_t i = from; i < blocks.size(); ++i) {
        const std::size_t k = i - from;
        if (k % IndexPages::kGroup == 0) coarse = 0;
        blocks[i].page = page;
        blocks[i].part = static_cast<std::uint32_t>(k / IndexPages::kGroup);
        blocks[i].coarseAt = coarse;
        blocks[i].quarterAt = quarter;
        coarse += cellsIn(blocks[i].summary, kCoarseSamples);
        quarter += cellsIn(blocks[i].summary, kQuarterSamples);
    }
}

}  // namespace

struct IndexPages::Page {
    std::int64_t id = 0;
    TagId tag;
    std::vector<BlockFigures> blocks;
    Cells quarters;
    bool changed = false;
};

void IndexPages::loose(TagId tag, Instant after, Instant before, std::vector<IndexEntry>& out) const {
    Statement s(db_,
                "SELECT id, first_time, last_time, count, usable, first, last, least, greatest, sum, spacing "
                "FROM block WHERE tag = ? AND first_time > ? AND first_time < ? ORDER BY first_time");
    s.bind(tag, after, before);
    while (s.step())
        out.push_back({{s.integer(0),
                        {s.instant(1), s.instant(2), static_cast<std::uint32_t>(s.integer(3)),
                         static_cast<std::uint32_t>(s.integer(4)), s.real(5), s.real(6), s.real(7), s.real(8),
                         s.real(9)},
                        s.duration(10)}});
}

std::vector<IndexEntry> IndexPages::load(TagId tag) const {
    std::vector<IndexEntry> out;
    Statement pages(
        db_, "SELECT id, first_time, last_time, blocks FROM index_page WHERE tag = ? ORDER BY first_time");
    pages.bind(tag);
    Instant after = Instant::min();
    while (pages.step()) {
        loose(tag, after, pages.instant(1), out);
        const std::size_t from = out.size();
        for (const BlockFigures& b : decodeBlockFigures(pages.blob(3))) out.push_back({b});
        place(out, from, pages.integer(0));
        after = pages.instant(2);
    }
    loose(tag, after, Instant::max(), out);
    return out;
}

IndexPages::Cells IndexPages::coarse(std::int64_t page, std::uint32_t part) const {
    Statement s(db_, "SELECT data FROM coarse_page WHERE id = ?");
    if (!s.bind(page * kMostParts + part).step()) throw StoreError("coarse summaries are missing");
    return decodeCells(s.blob(0));
}

IndexPages::Cells IndexPages::quarters(std::int64_t page) const {
    Statement s(db_, "SELECT quarters FROM index_page WHERE id = ?");
    if (!s.bind(page).step()) throw StoreError("a page of the index is missing");
    return decodeCells(s.blob(0));
}

bool IndexPages::drop(TagId tag, Instant first, Instant last) {
    std::vector<std::int64_t> touched;
    Statement s(db_, "SELECT id FROM index_page WHERE tag = ? AND first_time <= ? AND last_time >= ?");
    s.bind(tag, last, first);
    while (s.step()) touched.push_back(s.integer(0));
    for (const std::int64_t page : touched) {
        Statement(db_, "DELETE FROM coarse_page WHERE id BETWEEN ? AND ?")
            .bind(page * kMostParts, (page + 1) * kMostParts - 1)
            .run();
        Statement(db_, "DELETE FROM index_page WHERE id = ?").bind(page).run();
    }
    return !touched.empty();
}

void IndexPages::append(Page& page, std::span<const IndexEntry> group, const CoarseOf& coarseOf) {
    Cells part;
    for (const IndexEntry& block : group) {
        const Cells cells = coarseOf(block.id);
        part.insert(part.end(), cells.begin(), cells.end());
        const Cells quarters = quarterCells(cells);
        page.quarters.insert(page.quarters.end(), quarters.begin(), quarters.end());
    }
    const auto number = static_cast<std::int64_t>(page.blocks.size() / kGroup);
    Statement(db_, "INSERT INTO coarse_page(id, data) VALUES(?, ?)")
        .bind(page.id * kMostParts + number, encodeCells(part))
        .run();
    // The pages hold them from now on.
    Statement gone(db_, "DELETE FROM block_coarse WHERE block = ?");
    for (const IndexEntry& block : group) gone.bind(block.id).run();
    page.blocks.insert(page.blocks.end(), group.begin(), group.end());
    page.changed = true;
}

void IndexPages::store(Page& page) {
    if (!page.changed) return;
    Statement(db_,
              "UPDATE index_page SET first_time = ?, last_time = ?, blocks = ?, quarters = ? WHERE id = ?")
        .bind(page.blocks.front().summary.firstTime, page.blocks.back().summary.lastTime,
              encodeBlockFigures(page.blocks), encodeCells(page.quarters), page.id)
        .run();
    page.changed = false;
}

void IndexPages::gather(TagId tag, const CoarseOf& coarseOf) {
    const std::vector<IndexEntry> all = load(tag);
    Page page;
    const auto turnTo = [&](std::size_t i) {  // the page that takes block i: the one before it, or a new one
        if (page.id != 0 && page.blocks.size() < kMostBlocks) return;
        store(page);
        page = {0, tag, {}, {}, false};
        if (i > 0 && all[i - 1].page != 0) {
            page.id = all[i - 1].page;
            std::size_t first = i;
            while (first > 0 && all[first - 1].page == page.id) --first;
            if (i - first < kMostBlocks) {
                page.blocks.assign(all.begin() + static_cast<std::ptrdiff_t>(first),
                                   all.begin() + static_cast<std::ptrdiff_t>(i));
                page.quarters = quarters(page.id);
                return;
            }
        }
        Statement(
            db_,
            "INSERT INTO index_page(tag, first_time, last_time, blocks, quarters) VALUES(?, ?, ?, x'', x'')")
            .bind(tag, all[i].summary.firstTime, all[i].summary.lastTime)
            .run();
        page.id = db_.lastId();
    };
    for (std::size_t i = 0; i < all.size();) {
        if (all[i].page != 0) {
            ++i;
            continue;
        }
        std::size_t end = i;
        while (end < all.size() && all[end].page == 0) ++end;
        const std::size_t wanted = end == all.size() ? kMostLoose : kGroup;
        for (; end - i >= wanted; i += kGroup) {
            turnTo(i);
            append(page, std::span(all).subspan(i, kGroup), coarseOf);
        }
        store(page);
        page = {};
        i = end;
    }
}

}  // namespace jacinth
