#include "store/sample_store.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

namespace jacinth {
namespace {

constexpr std::size_t kMostCoarseCells = 1 << 20;

bool anyTouches(std::span<const Fix> fixes, TimeRange range) {
    return std::any_of(fixes.begin(), fixes.end(), [&](const Fix& f) { return f.touches(range); });
}

/// Sorts by time and keeps the later entry of equal times.
void settle(Series& s) {
    if (std::adjacent_find(s.times.begin(), s.times.end(), std::greater_equal<>()) == s.times.end()) return;
    std::vector<std::size_t> order(s.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return s.times[a] < s.times[b]; });
    Series out;
    out.reserve(s.size());
    for (std::size_t k = 0; k < order.size(); ++k) {
        if (k + 1 < order.size() && s.times[order[k + 1]] == s.times[order[k]]) continue;
        out.push(s.times[order[k]], s.values[order[k]], s.view().qualityAt(order[k]));
    }
    s = std::move(out);
}

bool sameValue(double a, double b) {
    return std::memcmp(&a, &b, sizeof a) == 0;
}

/// Leaves one sample on either side of the range: two blocks may each have brought one.
void trimToNeighbours(Series& s, TimeRange range) {
    const std::size_t a = firstNotBefore(s.times, range.from),
                      b = std::max(a, firstNotBefore(s.times, range.to));
    const std::size_t from = a > 0 ? a - 1 : 0, to = std::min(s.size(), b + 1);
    if (from == 0 && to == s.size()) return;
    Series cut;
    cut.append({std::span<const Instant>(s.times).subspan(from, to - from),
                std::span<const double>(s.values).subspan(from, to - from),
                s.quality.empty() ? std::span<const Quality>()
                                  : std::span<const Quality>(s.quality).subspan(from, to - from)});
    s = std::move(cut);
}

/// The cells of one block among those of its page. Throws where the page is too short.
std::span<const Summary> cellsFrom(const std::vector<Summary>& all, std::size_t at, std::size_t samples,
                                   std::size_t each) {
    const std::size_t n = (samples + each - 1) / each;
    if (at + n > all.size()) throw StoreError("a page of summaries is damaged");
    return std::span(all).subspan(at, n);
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

std::int64_t SampleStore::generationOf(std::int64_t tag) const {
    Statement s(db_, "SELECT generation FROM record_change WHERE tag = ?");
    return s.bind(tag).step() ? s.integer(0) : 0;
}

SampleStore::TagCache& SampleStore::cache(std::int64_t tag) const {
    const auto known = tags_.find(tag);
    if (known != tags_.end()) return known->second;
    TagCache out;
    out.generation = generationOf(tag);
    out.blocks = pages_.load(tag);
    return tags_.emplace(tag, std::move(out)).first->second;
}

void SampleStore::makeRoom() const {
    if (cachedSamples_ < mostSampleBlocks_ && cachedCells_ < mostCellBlocks_) return;
    for (auto& [tag, cached] : tags_) {
        cached.samples.clear();
        cached.cells.clear();
        cached.mendedCells.clear();
    }
    cachedSamples_ = cachedCells_ = 0;
}

std::pair<std::size_t, std::size_t> SampleStore::blocksIn(const Blocks& all, TimeRange range) const {
    const auto first = std::lower_bound(all.begin(), all.end(), range.from,
                                        [](const Block& b, Instant t) { return b.summary.lastTime < t; });
    const auto last = std::lower_bound(first, all.end(), range.to,
                                       [](const Block& b, Instant t) { return b.summary.firstTime < t; });
    return {first - all.begin(), last - all.begin()};
}

bool SampleStore::withBytes(std::unique_ptr<Statement>& kept, const char* sql, std::int64_t block,
                            const std::function<void(std::span<const std::uint8_t>)>& use) const {
    if (!kept) kept = std::make_unique<Statement>(db_, sql);
    const struct LetGo {
        Statement& statement;
        ~LetGo() { statement.reset(); }
    } letGo{*kept};
    if (!kept->bind(block).step()) return false;
    use(kept->blob(0));
    return true;
}

std::shared_ptr<const Series> SampleStore::samples(std::int64_t tag, std::int64_t block) const {
    TagCache& cached = cache(tag);
    const auto known = cached.samples.find(block);
    if (known != cached.samples.end()) return known->second;
    std::shared_ptr<const Series> out;
    if (!withBytes(readSamples_, "SELECT data FROM block_samples WHERE block = ?", block,
                   [&](auto bytes) { out = std::make_shared<const Series>(decodeSamples(bytes)); }))
        throw StoreError(fmt::format("block {} has no samples", block));
    makeRoom();
    ++cachedSamples_;
    return cached.samples[block] = out;
}

std::shared_ptr<const SampleStore::CellList> SampleStore::readCells(std::int64_t block) const {
    std::shared_ptr<const CellList> out;
    if (!withBytes(readCells_, "SELECT data FROM block_cells WHERE block = ?", block,
                   [&](auto bytes) { out = std::make_shared<const CellList>(decodeCells(bytes)); }))
        throw StoreError(fmt::format("block {} has no summaries", block));
    return out;
}

std::shared_ptr<const SampleStore::CellList> SampleStore::cells(std::int64_t tag, std::int64_t block) const {
    TagCache& cached = cache(tag);
    const auto known = cached.cells.find(block);
    if (known != cached.cells.end()) return known->second;
    const auto out = readCells(block);
    makeRoom();
    ++cachedCells_;
    return cached.cells[block] = out;
}

SampleStore::CellList SampleStore::coarseOfLoose(std::int64_t block) const {
    CellList out;
    if (!withBytes(readCoarse_, "SELECT data FROM block_coarse WHERE block = ?", block,
                   [&](auto bytes) { out = decodeCells(bytes); }))
        out = coarseCells(*readCells(block));  // of the first version, or out of a dropped page
    return out;
}

void SampleStore::countCoarse(std::size_t cells) const {
    if ((cachedCoarse_ += cells) <= kMostCoarseCells) return;
    for (auto& [id, other] : tags_) {
        other.coarse.clear();
        other.coarseParts.clear();
        other.quarters.clear();
    }
    cachedCoarse_ = cells;
}

std::span<const Summary> SampleStore::coarse(std::int64_t tag, const Block& block) const {
    TagCache& cached = cache(tag);
    if (block.page == 0) {
        auto known = cached.coarse.find(block.id);
        if (known == cached.coarse.end()) {
            CellList read = coarseOfLoose(block.id);
            countCoarse(read.size());
            known = cached.coarse.emplace(block.id, std::move(read)).first;
        }
        return known->second;
    }
    auto known = cached.coarseParts.find({block.page, block.part});
    if (known == cached.coarseParts.end()) {
        CellList read = pages_.coarse(block.page, block.part);
        countCoarse(read.size());
        known = cached.coarseParts.emplace(std::pair(block.page, block.part), std::move(read)).first;
    }
    return cellsFrom(known->second, block.coarseAt, block.summary.count, kCoarseSamples);
}

std::span<const Summary> SampleStore::quarters(std::int64_t tag, const Block& block) const {
    if (block.page == 0) return coarse(tag, block);
    TagCache& cached = cache(tag);
    auto known = cached.quarters.find(block.page);
    if (known == cached.quarters.end()) {
        CellList read = pages_.quarters(block.page);
        countCoarse(read.size());
        known = cached.quarters.emplace(block.page, std::move(read)).first;
    }
    return cellsFrom(known->second, block.quarterAt, block.summary.count, kQuarterSamples);
}

Series SampleStore::mended(std::int64_t tag, const Block& block, std::span<const Fix> fixes) const {
    Series s = *samples(tag, block.id);
    applyFixes(fixes, s);
    return s;
}

std::shared_ptr<const SampleStore::CellList> SampleStore::mendedCells(std::int64_t tag, const Block& block,
                                                                      std::span<const Fix> fixes) const {
    std::string key = std::to_string(block.id);
    for (const Fix& f : fixes)
        if (f.on)
            key += fmt::format("|{}:{}:{}:{}:{}", static_cast<int>(f.kind), f.from, f.to, f.startBy, f.endBy);
    auto& known = cache(tag).mendedCells;
    if (const auto found = known.find(key); found != known.end()) return found->second;
    auto out = std::make_shared<const CellList>(cellsOf(mended(tag, block, fixes)));
    if (known.size() >= mostCellBlocks_ / 8) known.clear();
    return known[key] = out;
}

Series SampleStore::read(std::int64_t tag, TimeRange range, std::span<const Fix> fixes) const {
    const Blocks& all = blocks(tag);
    auto [first, last] = blocksIn(all, range);
    // One block more on either side only when the nearest sample lies there.
    if (first > 0 && (first == last || all[first].summary.firstTime >= range.from)) --first;
    if (last < all.size() && (first == last || all[last - 1].summary.lastTime < range.to)) ++last;
    Series out;
    for (std::size_t i = first; i < last; ++i) {
        const auto block = samples(tag, all[i].id);
        const SeriesView view = block->view();
        // Only what is asked for is copied: from the sample before the range to the one after it.
        std::size_t a = firstNotBefore(view.times, range.from),
                    b = std::max(a, firstNotBefore(view.times, range.to));
        if (a > 0) --a;
        if (b < view.size()) ++b;
        out.append({view.times.subspan(a, b - a), view.values.subspan(a, b - a),
                    view.quality.empty() ? view.quality : view.quality.subspan(a, b - a)});
    }
    trimToNeighbours(out, range);
    applyFixes(fixes, out);
    return out;
}

void SampleStore::addBlock(ColumnBuilder& out, std::int64_t tag, const Block& block,
                           std::span<const Fix> fixes) const {
    const bool touched = anyTouches(fixes, {block.summary.firstTime, block.summary.lastTime + 1});
    if (!touched && out.fits(block.summary.firstTime, block.summary.lastTime)) return out.add(block.summary);
    const Duration sample = (block.summary.lastTime - block.summary.firstTime) /
                            static_cast<Duration>(std::max<std::uint32_t>(1, block.summary.count));
    // A quarter longer than the average cell may be: a longer one is drawn where its middle lies.
    const auto fit = [&](std::size_t samples) {
        return !touched && out.fits(0, sample * static_cast<Duration>(samples) * 5 / 4);
    };
    if (fit(kQuarterSamples)) {
        for (const Summary& cell : quarters(tag, block)) out.add(cell);
        return;
    }
    if (fit(kCoarseSamples)) {
        for (const Summary& cell : coarse(tag, block)) out.add(cell);
        return;
    }
    const auto list = touched ? mendedCells(tag, block, fixes) : cells(tag, block.id);
    Series copy;
    for (std::size_t i = 0; i < list->size(); ++i) {
        const Summary& cell = (*list)[i];
        if (out.fits(cell.firstTime, cell.lastTime)) {
            out.add(cell);
            continue;
        }
        const auto logged = touched ? nullptr : samples(tag, block.id);
        if (touched && copy.empty()) copy = mended(tag, block, fixes);
        const SeriesView all = touched ? copy.view() : logged->view();
        const std::size_t a = i * kCellSamples, n = std::min(kCellSamples, all.size() - a);
        out.add(SeriesView{all.times.subspan(a, n), all.values.subspan(a, n),
                           all.quality.empty() ? all.quality : all.quality.subspan(a, n)});
    }
}

std::vector<Summary> SampleStore::columns(std::int64_t tag, TimeRange range, int pixels,
                                          std::span<const Fix> fixes) const {
    const Blocks& all = blocks(tag);
    const auto [first, last] = blocksIn(all, range);
    ColumnBuilder builder(range, pixels);
    // At a fine zoom only the samples in view, and their neighbours, are worth touching.
    const Duration width = range.length() / std::max(1, pixels);
    const bool fine = last - first <= 2 && first < last &&
                      all[first].summary.lastTime - all[first].summary.firstTime >
                          width * static_cast<Duration>(all[first].summary.count / kCellSamples + 1);
    if (fine || first == last) {
        builder.add(read(tag, range, fixes).view());
        return builder.take();
    }
    // One sample beyond either edge. Where all samples of its block are usable and none is mended, the
    // block's own figures hold it, and no samples have to be read for it.
    const auto plain = [&](const Block& b) {
        return b.summary.usable == b.summary.count &&
               !anyTouches(fixes, {b.summary.firstTime, b.summary.lastTime + 1});
    };
    if (first > 0) {
        const Summary& edge = all[first - 1].summary;
        Series before;
        if (plain(all[first - 1]))
            before.push(edge.lastTime, edge.last);
        else
            before = read(tag, {all[first].summary.firstTime, all[first].summary.firstTime}, fixes);
        if (!before.empty() && before.times[0] < range.from)
            builder.add(before.view().within({before.times[0], before.times[0] + 1}));
    }
    for (std::size_t i = first; i < last; ++i) addBlock(builder, tag, all[i], fixes);
    if (last < all.size()) {
        const Summary& edge = all[last].summary;
        Series after;
        if (plain(all[last]))
            after.push(edge.firstTime, edge.first);
        else
            after = read(tag, {edge.firstTime, edge.firstTime + 1}, fixes);
        builder.add(after.view().within({edge.firstTime, edge.firstTime + 1}));
    }
    return builder.take();
}

Summary SampleStore::whole(std::int64_t tag) const {
    Summary out;
    for (const Block& b : blocks(tag)) out.merge(b.summary);
    return out;
}

std::int64_t SampleStore::countAbout(std::int64_t tag, TimeRange range) const {
    const Blocks& all = blocks(tag);
    const auto [first, last] = blocksIn(all, range);
    std::int64_t out = 0;
    for (std::size_t i = first; i < last; ++i) out += all[i].summary.count;
    return out;
}

Duration SampleStore::spacing(std::int64_t tag) const {
    std::vector<Duration> all;
    for (const Block& b : blocks(tag))
        if (b.spacing > 0) all.push_back(b.spacing);
    if (all.empty()) return 0;
    std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2), all.end());
    return all[all.size() / 2];
}

std::optional<TimeRange> SampleStore::extent(std::int64_t tag) const {
    // The table is looked up at its two ends, whatever its length.
    Statement first(db_, "SELECT first_time FROM block WHERE tag = ? ORDER BY first_time LIMIT 1"),
        last(db_, "SELECT last_time FROM block WHERE tag = ? ORDER BY first_time DESC LIMIT 1");
    if (!first.bind(tag).step() || !last.bind(tag).step()) return {};
    return TimeRange{first.integer(0), last.integer(0) + 1};
}

std::vector<std::int64_t> SampleStore::insertBlocks(std::int64_t tag,
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

void SampleStore::nextGeneration(std::int64_t tag) {
    Statement(db_,
              "INSERT INTO record_change(tag, generation) VALUES(?, 1) ON CONFLICT(tag) DO UPDATE SET "
              "generation = generation + 1")
        .bind(tag)
        .run();
    tags_.erase(tag);
}

PreparedWrite SampleStore::prepare(std::int64_t tag, Series incoming) const {
    PreparedWrite out;
    out.tag = tag;
    const TagCache& cached = cache(tag);
    out.generation = cached.generation;
    if (incoming.empty()) return out;
    settle(incoming);
    out.extent = {incoming.times.front(), incoming.times.back() + 1};
    const Blocks& all = cached.blocks;
    auto [first, last] = blocksIn(all, out.extent);
    // A last block that is not full takes the new samples in, so blocks stay of one size.
    if (first == last && first == all.size() && first > 0 && all[first - 1].summary.count < kBlockSamples)
        --first;
    Series older;
    for (std::size_t i = first; i < last; ++i) older.append(samples(tag, all[i].id)->view());
    compareWith(older, incoming, out);
    if (out.count.added == 0 && out.count.replaced == 0) return out;
    for (std::size_t i = first; i < last; ++i) out.outdated.push_back(all[i].id);
    out.content = older.empty() ? std::move(incoming) : mergeSeries(older, incoming);
    return out;
}

void SampleStore::code(PreparedWrite& write) {
    const SeriesView s = write.content;
    for (std::size_t at = 0; at < s.size(); at += kBlockSamples) {
        const std::size_t n = std::min(kBlockSamples, s.size() - at);
        const SeriesView part{s.times.subspan(at, n), s.values.subspan(at, n),
                              s.quality.empty() ? s.quality : s.quality.subspan(at, n)};
        const std::vector<Summary> cells = cellsOf(part);
        write.blocks.push_back({summarize(part), medianSpacing(part.times), encodeSamples(part),
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
    // The index in memory follows, so that a long import does not read it anew with every batch.
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

void SampleStore::gatherIndex(std::int64_t tag) {
    pages_.gather(tag, [&](std::int64_t block) { return coarseOfLoose(block); });
    tags_.erase(tag);
}

WriteCount SampleStore::write(std::int64_t tag, Series incoming) {
    if (incoming.empty()) return {};
    PreparedWrite prepared = prepare(tag, std::move(incoming));
    code(prepared);
    if (!apply(prepared)) throw StoreError("the record was changed by another program at the same time");
    return prepared.count;
}

void SampleStore::rewrite(std::int64_t tag, TimeRange range, const std::function<void(Series&)>& edit) {
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

void SampleStore::clear(std::int64_t tag) {
    pages_.drop(tag, kNoInstant, std::numeric_limits<Instant>::max());
    for (const char* table : {"block_samples", "block_cells", "block_coarse"})
        Statement(db_,
                  fmt::format("DELETE FROM {} WHERE block IN (SELECT id FROM block WHERE tag = ?)", table))
            .bind(tag)
            .run();
    Statement(db_, "DELETE FROM block WHERE tag = ?").bind(tag).run();
    nextGeneration(tag);
}

std::vector<std::string> SampleStore::verify(std::int64_t tag) const {
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
            if (b.summary.firstTime <= before) throw StoreError("it overlaps the block before it");
        } catch (const StoreError& e) {
            faults.push_back(fmt::format("block {} ({} to {}): {}", b.id, toIso(b.summary.firstTime),
                                         toIso(b.summary.lastTime), e.what()));
        }
        before = b.summary.lastTime;
    }
    return faults;
}

void SampleStore::setCacheSize(std::size_t bytes) {
    constexpr std::size_t kBlockBytes = 16 * kBlockSamples;
    constexpr std::size_t kCellBlocksPerSampleBlock = 12;  // cells are that much smaller
    mostSampleBlocks_ = std::max<std::size_t>(8, bytes / kBlockBytes);
    mostCellBlocks_ = mostSampleBlocks_ * kCellBlocksPerSampleBlock;
}

void SampleStore::forget() const {
    tags_.clear();
    cachedSamples_ = cachedCells_ = cachedCoarse_ = 0;
}

void SampleStore::refresh() const {
    for (auto it = tags_.begin(); it != tags_.end();)
        it = generationOf(it->first) == it->second.generation ? std::next(it) : tags_.erase(it);
}

}  // namespace jacinth
