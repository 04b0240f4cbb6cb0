#include "store/sample_store.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

namespace jacinth {
namespace {

// About 64 MB of samples and as much of cells: enough for every pane of a window at once.
constexpr std::size_t kMostSampleBlocks = 512;
constexpr std::size_t kMostCellBlocks = 8192;

bool anyTouches(std::span<const Fix> fixes, TimeRange range) {
    return std::any_of(fixes.begin(), fixes.end(), [&](const Fix& f) { return f.touches(range); });
}

/// Sorts by time and keeps the later entry of equal times.
void settle(Series& s) {
    if (std::is_sorted(s.times.begin(), s.times.end(), [](Instant a, Instant b) { return a <= b; })) return;
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

WriteCount countMerge(const SeriesView& older, const SeriesView& newer) {
    WriteCount count;
    std::size_t i = 0;
    for (std::size_t j = 0; j < newer.size(); ++j) {
        while (i < older.size() && older.times[i] < newer.times[j]) ++i;
        if (i == older.size() || older.times[i] != newer.times[j])
            ++count.added;
        else if (sameValue(older.values[i], newer.values[j]) && older.qualityAt(i) == newer.qualityAt(j))
            ++count.unchanged;
        else
            ++count.replaced;
    }
    return count;
}

bool sameSummary(const Summary& a, const Summary& b) {
    const auto same = [](double x, double y) { return x == y || (std::isnan(x) && std::isnan(y)); };
    return a.firstTime == b.firstTime && a.lastTime == b.lastTime && a.count == b.count &&
           a.usable == b.usable && same(a.first, b.first) && same(a.last, b.last) && same(a.least, b.least) &&
           same(a.greatest, b.greatest) && same(a.sum, b.sum);
}

}  // namespace

const SampleStore::Blocks& SampleStore::blocks(std::int64_t tag) const {
    const auto known = blocks_.find(tag);
    if (known != blocks_.end()) return known->second;
    Blocks out;
    Statement s(db_,
                "SELECT id, first_time, last_time, count, usable, first, last, least, greatest, sum, spacing "
                "FROM block "
                "WHERE tag = ? ORDER BY first_time");
    s.bind(tag);
    while (s.step())
        out.push_back({s.integer(0),
                       {s.integer(1), s.integer(2), static_cast<std::uint32_t>(s.integer(3)),
                        static_cast<std::uint32_t>(s.integer(4)), s.real(5), s.real(6), s.real(7), s.real(8),
                        s.real(9)},
                       s.integer(10)});
    return blocks_.emplace(tag, std::move(out)).first->second;
}

std::pair<std::size_t, std::size_t> SampleStore::blocksIn(const Blocks& all, TimeRange range) const {
    const auto first = std::lower_bound(all.begin(), all.end(), range.from,
                                        [](const Block& b, Instant t) { return b.summary.lastTime < t; });
    const auto last = std::lower_bound(first, all.end(), range.to,
                                       [](const Block& b, Instant t) { return b.summary.firstTime < t; });
    return {first - all.begin(), last - all.begin()};
}

std::shared_ptr<const Series> SampleStore::samples(std::int64_t block) const {
    const auto known = samples_.find(block);
    if (known != samples_.end()) return known->second;
    Statement s(db_, "SELECT data FROM block_samples WHERE block = ?");
    if (!s.bind(block).step()) throw StoreError(fmt::format("block {} has no samples", block));
    auto out = std::make_shared<const Series>(decodeSamples(s.blob(0)));
    if (samples_.size() >= kMostSampleBlocks) samples_.clear();
    samples_[block] = out;
    return out;
}

std::shared_ptr<const SampleStore::CellList> SampleStore::cells(std::int64_t block) const {
    const auto known = cells_.find(block);
    if (known != cells_.end()) return known->second;
    Statement s(db_, "SELECT data FROM block_cells WHERE block = ?");
    if (!s.bind(block).step()) throw StoreError(fmt::format("block {} has no summaries", block));
    auto out = std::make_shared<const CellList>(decodeCells(s.blob(0)));
    if (cells_.size() >= kMostCellBlocks) cells_.clear();
    cells_[block] = out;
    return out;
}

Series SampleStore::mended(const Block& block, std::span<const Fix> fixes) const {
    Series s = *samples(block.id);
    applyFixes(fixes, s);
    return s;
}

std::shared_ptr<const SampleStore::CellList> SampleStore::mendedCells(const Block& block,
                                                                      std::span<const Fix> fixes) const {
    std::string key = std::to_string(block.id);
    for (const Fix& f : fixes)
        if (f.on)
            key += fmt::format("|{}:{}:{}:{}:{}", static_cast<int>(f.kind), f.from, f.to, f.startBy, f.endBy);
    const auto known = mendedCells_.find(key);
    if (known != mendedCells_.end()) return known->second;
    auto out = std::make_shared<const CellList>(cellsOf(mended(block, fixes)));
    if (mendedCells_.size() >= kMostCellBlocks / 8) mendedCells_.clear();
    mendedCells_[key] = out;
    return out;
}

Series SampleStore::read(std::int64_t tag, TimeRange range, std::span<const Fix> fixes) const {
    const Blocks& all = blocks(tag);
    auto [first, last] = blocksIn(all, range);
    // One block more on either side only when the nearest sample lies there.
    if (first > 0 && (first == last || all[first].summary.firstTime >= range.from)) --first;
    if (last < all.size() && (first == last || all[last - 1].summary.lastTime < range.to)) ++last;
    Series out;
    for (std::size_t i = first; i < last; ++i) {
        const auto block = samples(all[i].id);
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

void SampleStore::addBlock(ColumnBuilder& out, const Block& block, std::span<const Fix> fixes) const {
    const bool touched = anyTouches(fixes, {block.summary.firstTime, block.summary.lastTime + 1});
    if (!touched && out.fits(block.summary.firstTime, block.summary.lastTime)) return out.add(block.summary);
    const auto list = touched ? mendedCells(block, fixes) : cells(block.id);
    Series copy;
    for (std::size_t i = 0; i < list->size(); ++i) {
        const Summary& cell = (*list)[i];
        if (out.fits(cell.firstTime, cell.lastTime)) {
            out.add(cell);
            continue;
        }
        const auto logged = touched ? nullptr : samples(block.id);
        if (touched && copy.empty()) copy = mended(block, fixes);
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
    if (first > 0) {
        Series before = read(tag, {all[first].summary.firstTime, all[first].summary.firstTime}, fixes);
        if (!before.empty() && before.times[0] < range.from)
            builder.add(before.view().within({before.times[0], before.times[0] + 1}));
    }
    for (std::size_t i = first; i < last; ++i) addBlock(builder, all[i], fixes);
    if (last < all.size()) {
        const Series after = read(tag, {all[last].summary.firstTime, all[last].summary.firstTime + 1}, fixes);
        builder.add(after.view().within({all[last].summary.firstTime, all[last].summary.firstTime + 1}));
    }
    return builder.take();
}

Summary SampleStore::whole(std::int64_t tag) const {
    Summary out;
    for (const Block& b : blocks(tag)) out.merge(b.summary);
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

void SampleStore::insertBlocks(std::int64_t tag, const SeriesView& s) {
    Statement block(
        db_,
        "INSERT INTO block(tag, first_time, last_time, count, usable, first, last, least, greatest, sum, "
        "spacing) VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)");
    Statement samples(db_, "INSERT INTO block_samples(block, data) VALUES(?, ?)");
    Statement cells(db_, "INSERT INTO block_cells(block, data) VALUES(?, ?)");
    for (std::size_t at = 0; at < s.size(); at += kBlockSamples) {
        const std::size_t n = std::min(kBlockSamples, s.size() - at);
        const SeriesView part{s.times.subspan(at, n), s.values.subspan(at, n),
                              s.quality.empty() ? s.quality : s.quality.subspan(at, n)};
        const Summary sum = summarize(part);
        block
            .bind(tag, sum.firstTime, sum.lastTime, sum.count, sum.usable, sum.first, sum.last, sum.least,
                  sum.greatest, sum.sum, medianSpacing(part.times))
            .run();
        const std::int64_t id = db_.lastId();
        samples.bind(id, encodeSamples(part)).run();
        cells.bind(id, encodeCells(cellsOf(part))).run();
    }
    blocks_.erase(tag);
}

void SampleStore::removeBlock(std::int64_t id) {
    for (const char* sql : {"DELETE FROM block_samples WHERE block = ?",
                            "DELETE FROM block_cells WHERE block = ?", "DELETE FROM block WHERE id = ?"})
        Statement(db_, sql).bind(id).run();
    samples_.erase(id);
    cells_.erase(id);
}

WriteCount SampleStore::write(std::int64_t tag, Series incoming) {
    if (incoming.empty()) return {};
    settle(incoming);
    const Blocks all = blocks(tag);
    auto [first, last] = blocksIn(all, {incoming.times.front(), incoming.times.back() + 1});
    // A last block that is not full takes the new samples in, so blocks stay of one size.
    if (first == last && first == all.size() && first > 0 && all[first - 1].summary.count < kBlockSamples)
        --first;
    Series older;
    for (std::size_t i = first; i < last; ++i) older.append(samples(all[i].id)->view());
    const WriteCount count = countMerge(older, incoming);
    if (count.added == 0 && count.replaced == 0) return count;
    if (older.empty()) {
        insertBlocks(tag, incoming);
        return count;
    }
    const Series merged = mergeSeries(older, incoming);
    for (std::size_t i = first; i < last; ++i) removeBlock(all[i].id);
    insertBlocks(tag, merged);
    mendedCells_.clear();
    return count;
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
            const auto stored = cells(b.id);
            const CellList made = cellsOf(s);
            if (!std::equal(made.begin(), made.end(), stored->begin(), stored->end(), sameSummary))
                throw StoreError("its summaries do not agree with its samples");
            if (b.summary.firstTime <= before) throw StoreError("it overlaps the block before it");
        } catch (const StoreError& e) {
            faults.push_back(fmt::format("block {} ({} to {}): {}", b.id, toIso(b.summary.firstTime),
                                         toIso(b.summary.lastTime), e.what()));
        }
        before = b.summary.lastTime;
    }
    return faults;
}

void SampleStore::forget() const {
    blocks_.clear();
    samples_.clear();
    cells_.clear();
    mendedCells_.clear();
}

}  // namespace jacinth
