#include "store/sample_store.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "core/mend/mended.h"
#include "store/fix_body.h"

namespace jacinth {
namespace {

constexpr std::size_t kMostCoarseCells = 1 << 20;

bool anyTouches(std::span<const Fix> fixes, TimeRange range) {
    return std::any_of(fixes.begin(), fixes.end(), [&](const Fix& f) { return f.touches(range); });
}

/// Does a fix that makes samples come, go, move or turn bad reach into the range?
bool changesSamples(std::span<const Fix> fixes, TimeRange range) {
    return std::any_of(fixes.begin(), fixes.end(),
                       [&](const Fix& f) { return !f.isPlain() && f.touches(range); });
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

}  // namespace

std::int64_t SampleStore::generationOf(TagId tag) const {
    Statement s(db_, "SELECT generation FROM record_change WHERE tag = ?");
    return s.bind(tag).step() ? s.integer(0) : 0;
}

SampleStore::TagCache& SampleStore::cache(TagId tag) const {
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

std::shared_ptr<const Series> SampleStore::samples(TagId tag, std::int64_t block) const {
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

std::shared_ptr<const SampleStore::CellList> SampleStore::cells(TagId tag, std::int64_t block) const {
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

std::span<const Summary> SampleStore::coarse(TagId tag, const Block& block) const {
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

std::span<const Summary> SampleStore::quarters(TagId tag, const Block& block) const {
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

TimeRange SampleStore::rangeOf(const Blocks& all, std::size_t block) {
    // Up to the next block: what fills the gap between two belongs to the first.
    return {all[block].summary.firstTime, block + 1 < all.size() ? all[block + 1].summary.firstTime
                                                                 : all[block].summary.lastTime + kNanosecond};
}

MendSources SampleStore::sourcesOf(TagId tag) const {
    const auto exactly = [this](TagId of, TimeRange range) {
        if (range.to <= range.from) return Series();
        const Series s = logged(of, range);
        Series out;
        out.append(s.view().within(range));
        return out;
    };
    return {[=](TimeRange range) { return exactly(tag, range); }, exactly, extent(tag).value_or(TimeRange{}),
            spacing(tag)};
}

Series SampleStore::mended(TagId tag, std::size_t block, std::span<const Fix> fixes) const {
    const Blocks& all = blocks(tag);
    const TimeRange range = rangeOf(all, block);
    if (changesSamples(fixes, range)) return mendedSamples(fixes, range, sourcesOf(tag));
    Series s = *samples(tag, all[block].id);
    applyPlainFixes(fixes, s);
    return s;
}

std::shared_ptr<const SampleStore::CellList> SampleStore::mendedCells(TagId tag, std::size_t block,
                                                                      std::span<const Fix> fixes) const {
    std::string key = std::to_string(blocks(tag)[block].id);
    for (const Fix& f : fixes) {
        if (!f.on) continue;
        key += fmt::format("|{}:{}:{}:{}", fixKindName(f.kind()), epochNanoseconds(f.from),
                           epochNanoseconds(f.to), fixBodyText(f.body));
        if (const auto* borrow = std::get_if<BorrowFix>(&f.body))
            key += fmt::format(":{}", generationOf(borrow->twin));
    }
    auto& known = cache(tag).mendedCells;
    if (const auto found = known.find(key); found != known.end()) return found->second;
    auto out = std::make_shared<const CellList>(cellsOf(mended(tag, block, fixes)));
    if (known.size() >= mostCellBlocks_ / 8) known.clear();
    return known[key] = out;
}

Series SampleStore::logged(TagId tag, TimeRange range) const {
    const Blocks& all = blocks(tag);
    auto [first, last] = blocksIn(all, range);
    // One block more on either side only when the nearest sample lies there.
    if (first > 0 && (first == last || all[first].summary.firstTime >= range.from)) --first;
    if (last < all.size() && (first == last || all[last - 1].summary.lastTime < range.to)) ++last;
    Series out;
    for (std::size_t i = first; i < last; ++i) {
        const auto block = samples(tag, all[i].id);
        const SeriesView view = block->view();
        // A row of the index that is wrong could put the record centuries away.
        if (view.times.empty() || view.times.front() != all[i].summary.firstTime ||
            view.times.back() != all[i].summary.lastTime)
            throw StoreError(fmt::format("block {} does not hold the times that the index says", all[i].id));
        if (i == first) out.reserve(view.size() * (last - first));  // blocks are about equally full
        // Only what is asked for is copied: from the sample before the range to the one after it.
        std::size_t a = firstNotBefore(view.times, range.from),
                    b = std::max(a, firstNotBefore(view.times, range.to));
        if (a > 0) --a;
        if (b < view.size()) ++b;
        out.append({view.times.subspan(a, b - a), view.values.subspan(a, b - a),
                    view.quality.empty() ? view.quality : view.quality.subspan(a, b - a)});
    }
    trimToNeighbours(out, range);
    return out;
}

Series SampleStore::read(TagId tag, TimeRange range, std::span<const Fix> fixes) const {
    const bool plain =
        std::all_of(fixes.begin(), fixes.end(), [](const Fix& f) { return f.isPlain() || !f.on; });
    if (!plain) return readAround(tag, range, fixes);
    Series out = logged(tag, range);
    applyPlainFixes(fixes, out);
    return out;
}

Series SampleStore::readAround(TagId tag, TimeRange range, std::span<const Fix> fixes) const {
    const MendSources sources = sourcesOf(tag);
    Series out = mendedSamples(fixes, range, sources);
    // The nearest on either side, which may have been moved there, or cut away.
    TimeRange reach = sources.extent;
    for (const Fix& f : fixes)
        if (const auto* clock = std::get_if<ClockFix>(&f.body); clock && f.on) {
            reach.from = std::min(reach.from, f.from + clock->by);
            reach.to = std::max(reach.to, f.to + clock->by + kNanosecond);
        }
    const Duration first = std::max<Duration>(4 * sources.spacing, kMinute);
    Instant to = range.from;
    for (Duration step = first; to > reach.from; step *= 4) {
        const Series before = mendedSamples(fixes, {to - step, to}, sources);
        to -= step;
        if (before.empty()) continue;
        Series all;
        all.append(before.view().within({before.times.back(), before.times.back() + kNanosecond}));
        all.append(out);
        out = std::move(all);
        break;
    }
    Instant from = range.to;
    for (Duration step = first; from < reach.to; step *= 4) {
        const Series after = mendedSamples(fixes, {from, from + step}, sources);
        from += step;
        if (after.empty()) continue;
        out.append(after.view().within({after.times.front(), after.times.front() + kNanosecond}));
        break;
    }
    return out;
}

void SampleStore::addBlock(ColumnBuilder& out, TagId tag, std::size_t place,
                           std::span<const Fix> fixes) const {
    const Block& block = blocks(tag)[place];
    const bool touched = anyTouches(fixes, rangeOf(blocks(tag), place));
    if (!touched && out.fits(block.summary.firstTime, block.summary.lastTime)) return out.add(block.summary);
    const Duration sample =
        (block.summary.lastTime - block.summary.firstTime) / std::max<std::uint32_t>(1, block.summary.count);
    // A quarter longer than the average cell may be: a longer one is drawn where its middle lies.
    const auto fit = [&](std::size_t samples) {
        return !touched && out.fits({}, Instant(sample * static_cast<std::int64_t>(samples) * 5 / 4));
    };
    if (fit(kQuarterSamples)) {
        for (const Summary& cell : quarters(tag, block)) out.add(cell);
        return;
    }
    if (fit(kCoarseSamples)) {
        for (const Summary& cell : coarse(tag, block)) out.add(cell);
        return;
    }
    const auto list = touched ? mendedCells(tag, place, fixes) : cells(tag, block.id);
    Series copy;
    for (std::size_t i = 0; i < list->size(); ++i) {
        const Summary& cell = (*list)[i];
        if (out.fits(cell.firstTime, cell.lastTime)) {
            out.add(cell);
            continue;
        }
        const auto logged = touched ? nullptr : samples(tag, block.id);
        if (touched && copy.empty()) copy = mended(tag, place, fixes);
        const SeriesView all = touched ? copy.view() : logged->view();
        const std::size_t a = i * kCellSamples, n = std::min(kCellSamples, all.size() - a);
        out.add(SeriesView{all.times.subspan(a, n), all.values.subspan(a, n),
                           all.quality.empty() ? all.quality : all.quality.subspan(a, n)});
    }
}

std::vector<Summary> SampleStore::columns(TagId tag, TimeRange range, int pixels,
                                          std::span<const Fix> fixes) const {
    const Blocks& all = blocks(tag);
    auto [first, last] = blocksIn(all, range);
    ColumnBuilder builder(range, pixels);
    // At a fine zoom only the samples in view, and their neighbours, are worth touching.
    const Duration width = range.length() / std::max(1, pixels);
    const bool fine = last - first <= 2 && first < last &&
                      all[first].summary.lastTime - all[first].summary.firstTime >
                          width * static_cast<std::int64_t>(all[first].summary.count / kCellSamples + 1);
    if (fine || first == last) {
        builder.add(read(tag, range, fixes).view());
        return builder.take();
    }
    // What fills the gap after a block belongs to the block.
    if (first > 0 && all[first].summary.firstTime > range.from && changesSamples(fixes, range)) --first;
    // One sample beyond either edge. Where all samples of its block are usable and none is mended, the
    // block's own figures hold it, and no samples have to be read for it.
    const auto plain = [&](std::size_t i) {
        return all[i].summary.usable == all[i].summary.count && !anyTouches(fixes, rangeOf(all, i));
    };
    const auto addMoved = [&](Instant from, Instant to) {
        if (from < to && changesSamples(fixes, {from, to}))
            builder.add(mendedSamples(fixes, {from, to}, sourcesOf(tag)).view());
    };
    if (first > 0) {
        const Summary& edge = all[first - 1].summary;
        Series before;
        if (plain(first - 1))
            before.push(edge.lastTime, edge.last);
        else
            before = read(tag, {all[first].summary.firstTime, all[first].summary.firstTime}, fixes);
        if (!before.empty() && before.times[0] < range.from)
            builder.add(before.view().within({before.times[0], before.times[0] + kNanosecond}));
    }
    // A clock may have moved samples to before the first and after the last of them.
    if (first == 0) addMoved(range.from, all.front().summary.firstTime);
    for (std::size_t i = first; i < last; ++i) addBlock(builder, tag, i, fixes);
    if (last == all.size()) addMoved(all.back().summary.lastTime + kNanosecond, range.to);
    if (last < all.size()) {
        const Summary& edge = all[last].summary;
        Series after;
        if (plain(last))
            after.push(edge.firstTime, edge.first);
        else
            after = read(tag, {edge.firstTime, edge.firstTime + kNanosecond}, fixes);
        builder.add(after.view().within({edge.firstTime, edge.firstTime + kNanosecond}));
    }
    return builder.take();
}

Summary SampleStore::whole(TagId tag) const {
    Summary out;
    for (const Block& b : blocks(tag)) out.merge(b.summary);
    return out;
}

std::int64_t SampleStore::countAbout(TagId tag, TimeRange range) const {
    const Blocks& all = blocks(tag);
    const auto [first, last] = blocksIn(all, range);
    std::int64_t out = 0;
    for (std::size_t i = first; i < last; ++i) out += all[i].summary.count;
    return out;
}

Duration SampleStore::spacing(TagId tag) const {
    std::vector<Duration> all;
    for (const Block& b : blocks(tag))
        if (b.spacing > Duration::zero()) all.push_back(b.spacing);
    if (all.empty()) return {};
    std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2), all.end());
    return all[all.size() / 2];
}

std::optional<TimeRange> SampleStore::extent(TagId tag) const {
    // The table is looked up at its two ends, whatever its length. A damaged row that lies centuries away is
    // left out: everything that walks over the record would never end.
    constexpr Instant kEarliest(-200 * 365 * kDay), kLatest(250 * 365 * kDay);
    Statement first(
        db_, "SELECT first_time FROM block WHERE tag = ? AND first_time > ? ORDER BY first_time LIMIT 1"),
        last(db_,
             "SELECT last_time FROM block WHERE tag = ? AND first_time < ? ORDER BY first_time DESC LIMIT 1");
    if (!first.bind(tag, kEarliest).step() || !last.bind(tag, kLatest).step()) return {};
    return TimeRange{first.instant(0), std::min(last.instant(0), kLatest) + kNanosecond};
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
