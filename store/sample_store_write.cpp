// Writing samples: blocks are made again where new samples fall into them. And what a check reads of them.
#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include "store/coded_times.h"
#include "store/sample_store.h"

namespace jacinth {
namespace {

bool rises(std::span<const Instant> times) {
    return std::adjacent_find(times.begin(), times.end(), std::greater_equal<>()) == times.end();
}

/// Sorted by time; of equal times the later entry.
Series settled(const SeriesView& s) {
    std::vector<std::size_t> order(s.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return s.times[a] < s.times[b]; });
    Series out;
    out.reserve(s.size());
    for (std::size_t k = 0; k < order.size(); ++k) {
        if (k + 1 < order.size() && s.times[order[k + 1]] == s.times[order[k]]) continue;
        out.push(s.times[order[k]], s.values[order[k]], s.qualityAt(order[k]));
    }
    return out;
}

bool sameValue(double a, double b) {
    return std::bit_cast<std::uint64_t>(a) == std::bit_cast<std::uint64_t>(b);
}

/// What the newer samples add, replace and find there already, as far as it goes into `out`.
void compareWith(const SeriesView& older, const SeriesView& newer, PreparedWrite& out) {
    std::size_t i = firstNotBefore(older.times, newer.times.front());
    out.alone = i == older.size() || older.times[i] > newer.times.back();
    if (out.alone) {
        out.count.added = static_cast<std::int64_t>(newer.size());
        return;
    }
    for (std::size_t j = 0; j < newer.size(); ++j) {
        while (i < older.size() && older.times[i] < newer.times[j]) ++i;
        const bool there = i < older.size() && older.times[i] == newer.times[j];
        if (there && sameValue(older.values[i], newer.values[j]) &&
            older.qualityAt(i) == newer.qualityAt(j)) {
            ++out.count.unchanged;
            continue;
        }
        ++(there ? out.count.replaced : out.count.added);
        if (there) out.replaced.push(older.times[i], older.values[i], older.qualityAt(i));
        out.instants.push_back(newer.times[j]);
    }
}

bool sameSummary(const Summary& a, const Summary& b) {
    const auto same = [](double x, double y) { return x == y || (std::isnan(x) && std::isnan(y)); };
    return a.firstTime == b.firstTime && a.lastTime == b.lastTime && a.count == b.count &&
           a.usable == b.usable && same(a.first, b.first) && same(a.last, b.last) && same(a.least, b.least) &&
           same(a.greatest, b.greatest) && same(a.sum, b.sum);
}

}  // namespace

std::vector<std::int64_t> SampleStore::insertBlocks(TagId tag,
                                                    const std::vector<PreparedWrite::Block>& blocks) {
    Statement block(
        db_,
        "INSERT INTO block(tag, first_time, last_time, count, usable, first, last, least, greatest, sum, "
        "spacing) VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)");
    Statement samples(db_, "INSERT INTO block_samples(block, data) VALUES(?, ?)");
    Statement cells(db_, "INSERT INTO block_cells(block, data) VALUES(?, ?)");
    Statement coarse(db_, "INSERT INTO block_coarse(block, data) VALUES(?, ?)");
    std::vector<std::int64_t> ids;
    for (const PreparedWrite::Block& b : blocks) {
        const Summary& sum = b.summary;
        block
            .bind(tag, sum.firstTime, sum.lastTime, sum.count, sum.usable, sum.first, sum.last, sum.least,
                  sum.greatest, sum.sum, b.spacing)
            .run();
        const std::int64_t id = db_.lastId();
        samples.bind(id, b.samples).run();
        cells.bind(id, b.cells).run();
        coarse.bind(id, b.coarse).run();
        ids.push_back(id);
    }
    return ids;
}

void SampleStore::removeBlock(std::int64_t id) {
    for (const char* sql :
         {"DELETE FROM block_samples WHERE block = ?", "DELETE FROM block_cells WHERE block = ?",
          "DELETE FROM block_coarse WHERE block = ?", "DELETE FROM block WHERE id = ?"})
        Statement(db_, sql).bind(id).run();
}

void SampleStore::nextGeneration(TagId tag) {
    Statement(db_,
              "INSERT INTO record_change(tag, generation) VALUES(?, 1) ON CONFLICT(tag) DO UPDATE SET "
              "generation = generation + 1")
        .bind(tag)
        .run();
    tags_.erase(tag);
}

PreparedWrite SampleStore::prepare(TagId tag, const SeriesView& samples) const {
    PreparedWrite out;
    out.tag = tag;
    const TagCache& cached = cache(tag);
    out.generation = cached.generation;
    if (samples.empty()) return out;
    Series sorted;
    if (!rises(samples.times)) sorted = settled(samples);
    const SeriesView incoming = sorted.empty() ? samples : sorted.view();
    out.extent = {incoming.times.front(), incoming.times.back() + kNanosecond};
    const Blocks& all = cached.blocks;
    auto [first, last] = blocksIn(all, out.extent);
    // A last block that is not full takes the new samples in, so blocks stay of one size.
    if (first == last && first == all.size() && first > 0 && all[first - 1].summary.count < kBlockSamples)
        --first;
    Series older;
    for (std::size_t i = first; i < last; ++i) older.append(this->samples(tag, all[i].id)->view());
    compareWith(older, incoming, out);
    if (out.count.added == 0 && out.count.replaced == 0) return out;
    for (std::size_t i = first; i < last; ++i) out.outdated.push_back(all[i].id);
    out.content = mergeSeries(older, incoming);
    return out;
}

void SampleStore::code(PreparedWrite& write) {
    CodedTimes times;
    code(write, times);
}

void SampleStore::code(PreparedWrite& write, CodedTimes& times) {
    const SeriesView s = write.content;
    for (std::size_t at = 0; at < s.size(); at += kBlockSamples) {
        const std::size_t n = std::min(kBlockSamples, s.size() - at);
        const SeriesView part{s.times.subspan(at, n), s.values.subspan(at, n),
                              s.quality.empty() ? s.quality : s.quality.subspan(at, n)};
        const std::vector<Summary> cells = cellsOf(part);
        const auto coded = times.of(part.times);
        write.blocks.push_back({summarize(part), coded->spacing, encodeSamples(part, coded->bytes),
                                encodeCells(cells), encodeCells(coarseCells(cells))});
    }
    write.content = {};
}

bool SampleStore::apply(PreparedWrite& write) {
    if (write.blocks.empty()) return true;
    if (generationOf(write.tag) != write.generation) {
        tags_.erase(write.tag);
        return false;
    }
    // What comes holds the samples of what goes: no page beyond its range is touched.
    const bool dropped =
        pages_.drop(write.tag, write.blocks.front().summary.firstTime, write.blocks.back().summary.lastTime);
    for (const std::int64_t block : write.outdated) removeBlock(block);
    const std::vector<std::int64_t> ids = insertBlocks(write.tag, write.blocks);
    // The index in memory follows, so that a long import does not read it again with every batch.
    TagCache index = std::move(cache(write.tag));
    nextGeneration(write.tag);
    follow(index.blocks, write, ids);
    const auto loose =
        std::find_if(index.blocks.rbegin(), index.blocks.rend(), [](const Block& b) { return b.page != 0; }) -
        index.blocks.rbegin();
    if (dropped || loose >= static_cast<std::ptrdiff_t>(IndexPages::kMostLoose)) {
        gatherIndex(write.tag);
        return true;
    }
    TagCache& kept = tags_[write.tag];
    kept.generation = generationOf(write.tag);
    kept.blocks = std::move(index.blocks);
    return true;
}

void SampleStore::follow(Blocks& index, const PreparedWrite& write, const std::vector<std::int64_t>& ids) {
    std::erase_if(index, [&](const Block& b) {
        return std::find(write.outdated.begin(), write.outdated.end(), b.id) != write.outdated.end();
    });
    Blocks come;
    for (std::size_t i = 0; i < ids.size(); ++i)
        come.push_back({{ids[i], write.blocks[i].summary, write.blocks[i].spacing}});
    const auto place = std::partition_point(index.begin(), index.end(), [&](const Block& b) {
        return b.summary.firstTime < come.front().summary.firstTime;
    });
    index.insert(place, come.begin(), come.end());
}

void SampleStore::gatherIndex(TagId tag) {
    pages_.gather(tag, [&](std::int64_t block) { return coarseOfLoose(block); });
    tags_.erase(tag);
}

WriteCount SampleStore::write(TagId tag, const SeriesView& incoming) {
    if (incoming.empty()) return {};
    PreparedWrite prepared = prepare(tag, incoming);
    code(prepared);
    if (!apply(prepared)) throw StoreError("the record was changed by another program at the same time");
    return prepared.count;
}

void SampleStore::rewrite(TagId tag, TimeRange range, const std::function<void(Series&)>& edit) {
    const Blocks all = blocks(tag);
    const auto [first, last] = blocksIn(all, range);
    if (first == last) return;
    const bool dropped = pages_.drop(tag, all[first].summary.firstTime, all[last - 1].summary.lastTime);
    for (std::size_t i = first; i < last; ++i) {
        PreparedWrite changed;
        changed.content = *samples(tag, all[i].id);
        edit(changed.content);
        removeBlock(all[i].id);
        code(changed);
        insertBlocks(tag, changed.blocks);
    }
    nextGeneration(tag);
    if (dropped) gatherIndex(tag);
}

void SampleStore::clear(TagId tag) {
    pages_.drop(tag, kNoInstant, Instant::max());
    for (const char* table : {"block_samples", "block_cells", "block_coarse"})
        Statement(db_,
                  fmt::format("DELETE FROM {} WHERE block IN (SELECT id FROM block WHERE tag = ?)", table))
            .bind(tag)
            .run();
    Statement(db_, "DELETE FROM block WHERE tag = ?").bind(tag).run();
    nextGeneration(tag);
}

std::vector<std::string> SampleStore::verify(TagId tag,
                                             const std::function<std::string(const Series&)>& judge) const {
    std::vector<std::string> faults;
    Instant before = kNoInstant;
    forget();
    for (const Block& b : blocks(tag)) {
        try {
            const Series s = decodeSamples([&] {
                Statement q(db_, "SELECT data FROM block_samples WHERE block = ?");
                if (!q.bind(b.id).step()) throw StoreError("its samples are missing");
                const auto bytes = q.blob(0);
                return Blob(bytes.begin(), bytes.end());
            }());
            if (!sameSummary(summarize(s), b.summary))
                throw StoreError("its figures do not agree with its samples");
            const auto stored = cells(tag, b.id);
            const CellList made = cellsOf(s);
            if (!std::equal(made.begin(), made.end(), stored->begin(), stored->end(), sameSummary))
                throw StoreError("its summaries do not agree with its samples");
            const CellList roughMade = coarseCells(made);
            const CellList widest = b.page == 0 ? roughMade : quarterCells(roughMade);
            const auto rough = coarse(tag, b), wide = quarters(tag, b);
            if (!std::equal(roughMade.begin(), roughMade.end(), rough.begin(), rough.end(), sameSummary) ||
                !std::equal(widest.begin(), widest.end(), wide.begin(), wide.end(), sameSummary))
                throw StoreError("its coarse summaries do not agree with its samples");
            if (const std::string fault = judge ? judge(s) : ""; !fault.empty()) throw StoreError(fault);
            if (b.summary.firstTime <= before) throw StoreError("it overlaps the block before it");
        } catch (const StoreError& e) {
            faults.push_back(fmt::format("block {} ({} to {}): {}", b.id, toIso(b.summary.firstTime),
                                         toIso(b.summary.lastTime), e.what()));
        }
        before = b.summary.lastTime;
    }
    return faults;
}

}  // namespace jacinth
