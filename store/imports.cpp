#include "store/imports.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/span/span.h"
#include "store/history.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "store/wall_time.h"

// An import's samples are remembered in parts. A part that stood alone when it was written (no other sample
// of the tag between its ends) is only its ends; else it lists its instants. So two parts of different
// imports claim the same instant only where the later of them lists it, and its older sample is in
// replaced_samples; or where the later one stood alone in a gap of the earlier one, and then all there is
// its.
namespace jacinth {
namespace {

/// Instants are coded as samples that all read 0.
Blob encodeInstants(const std::vector<Instant>& instants) {
    Series s;
    s.times = instants;
    s.values.assign(instants.size(), 0);
    return encodeSamples(s);
}

template <typename F>
void inPieces(std::size_t n, F piece) {
    for (std::size_t at = 0; at < n; at += kBlockSamples) piece(at, std::min(kBlockSamples, n - at));
}

/// One import's claim on instants of one tag, in pieces as stored.
struct Claim {
    ImportId import;
    Instant first{}, last{};
    std::optional<std::vector<Instant>> instants;  ///< none where all between first and last are claimed
};

/// An import's own claims on a tag, or those that newer imports list.
enum class Whose { Own, Newer, NewerAlone };
std::vector<Claim> claims(Database& db, TagId tag, ImportId import, Whose whose) {
    std::vector<Claim> out;
    const char* which = whose == Whose::Own     ? "import = ? ORDER BY id"
                        : whose == Whose::Newer ? "import > ? AND instants IS NOT NULL ORDER BY import"
                                                : "import > ? AND instants IS NULL ORDER BY import";
    Statement s(db,
                fmt::format("SELECT import, first_time, last_time, instants FROM import_part WHERE tag = ? "
                            "AND {}",
                            which));
    s.bind(tag, import);
    while (s.step()) {
        Claim c{s.id<ImportId>(0), s.instant(1), s.instant(2), {}};
        if (!s.isNull(3)) c.instants = decodeSamples(s.blob(3)).times;
        out.push_back(std::move(c));
    }
    return out;
}

bool holds(const Claim& c, Instant t) {
    return t >= c.first && t <= c.last &&
           (!c.instants || std::binary_search(c.instants->begin(), c.instants->end(), t));
}

void keepReplaced(Database& db, ImportId import, TagId tag, const SeriesView& r) {
    Statement old(db,
                  "INSERT INTO replaced_samples(import, tag, first_time, last_time, count, data) "
                  "VALUES(?, ?, ?, ?, ?, ?)");
    inPieces(r.size(), [&](std::size_t at, std::size_t n) {
        const SeriesView piece{r.times.subspan(at, n), r.values.subspan(at, n),
                               r.quality.empty() ? r.quality : r.quality.subspan(at, n)};
        old.bind(import, tag, piece.times.front(), piece.times.back(), static_cast<std::int64_t>(n),
                 encodeSamples(piece))
            .run();
    });
}

class Removal {
  public:
    Removal(Database& db, SampleStore& samples, ImportId import)
        : db_(db), samples_(samples), import_(import) {}

    ImportRemoval run() {
        Statement tags(db_, "SELECT DISTINCT tag FROM import_part WHERE import = ?");
        tags.bind(import_);
        std::vector<TagId> all;
        while (tags.step()) all.push_back(tags.id<TagId>(0));
        for (const TagId tag : all) removeFrom(tag);
        // What was calculated from these stretches is out of date: that they were changed is remembered.
        Statement(db_,
                  "INSERT INTO removed_part(import, tag, first_time, last_time) SELECT import, tag, "
                  "min(first_time), max(last_time) FROM import_part WHERE import = ? GROUP BY tag")
            .bind(import_)
            .run();
        done_.tags = static_cast<std::int64_t>(all.size());
        for (const char* sql :
             {"DELETE FROM import_part WHERE import = ?", "DELETE FROM replaced_samples WHERE import = ?"})
            Statement(db_, sql).bind(import_).run();
        return done_;
    }

  private:
    std::map<Instant, std::pair<double, Quality>> replacedBy(ImportId import, TagId tag) const {
        std::map<Instant, std::pair<double, Quality>> out;
        Statement s(db_, "SELECT data FROM replaced_samples WHERE import = ? AND tag = ?");
        s.bind(import, tag);
        while (s.step()) {
            const Series old = decodeSamples(s.blob(0));
            for (std::size_t i = 0; i < old.size(); ++i)
                out[old.times[i]] = {old.values[i], old.view().qualityAt(i)};
        }
        return out;
    }

    void removeFrom(TagId tag) {
        const auto older = replacedBy(import_, tag);
        std::vector<TimeRange> others;
        for (const Claim& later : claims(db_, tag, import_, Whose::NewerAlone))
            others.push_back({later.first, later.last + kNanosecond});
        others_ = joined(std::move(others));
        // The first later import at each instant: there my sample lies below, in what that import replaced.
        std::map<Instant, ImportId> covered;
        for (const Claim& later : claims(db_, tag, import_, Whose::Newer))
            for (const Instant t : *later.instants) covered.try_emplace(t, later.import);
        std::map<ImportId, std::vector<Instant>> below;
        for (const Claim& c : claims(db_, tag, import_, Whose::Own)) {
            for (auto it = covered.lower_bound(c.first); it != covered.end() && it->first <= c.last; ++it)
                if (isMine(c, it->first)) below[it->second].push_back(it->first);
            samples_.rewrite(tag, {c.first, c.last + kNanosecond},
                             [&](Series& s) { cut(s, c, older, covered); });
        }
        for (const auto& [import, instants] : below) cutBelow(import, tag, instants, older);
    }

    void cut(Series& s, const Claim& c, const std::map<Instant, std::pair<double, Quality>>& older,
             const std::map<Instant, ImportId>& covered) {
        Series kept;
        for (std::size_t i = 0; i < s.size(); ++i) {
            const Instant t = s.times[i];
            const bool mine = !covered.contains(t) && isMine(c, t);
            if (!mine) {
                kept.push(t, s.values[i], s.view().qualityAt(i));
                continue;
            }
            ++done_.samples;
            if (const auto back = older.find(t); back != older.end()) {
                ++done_.restored;
                kept.push(t, back->second.first, back->second.second);
            }
        }
        s = std::move(kept);
    }

    bool isMine(const Claim& c, Instant t) const {
        if (!holds(c, t)) return false;
        const auto next = std::partition_point(others_.begin(), others_.end(),
                                               [&](const TimeRange& r) { return r.to <= t; });
        return next == others_.end() || t < next->from;
    }

    /// Takes my samples out of what a later import replaced, or puts there what I had replaced.
    void cutBelow(ImportId import, TagId tag, const std::vector<Instant>& instants,
                  const std::map<Instant, std::pair<double, Quality>>& older) {
        auto kept = replacedBy(import, tag);
        for (const Instant t : instants) {
            const auto back = older.find(t);
            if (back == older.end())
                kept.erase(t);
            else
                kept[t] = back->second;
        }
        Statement(db_, "DELETE FROM replaced_samples WHERE import = ? AND tag = ?").bind(import, tag).run();
        Series again;
        for (const auto& [t, v] : kept) again.push(t, v.first, v.second);
        keepReplaced(db_, import, tag, again);
    }

    Database& db_;
    SampleStore& samples_;
    ImportId import_;
    ImportRemoval done_;
    std::vector<TimeRange> others_;  ///< where later imports stood alone, in gaps of this one
};

}  // namespace

std::vector<ImportRecord> Imports::all() const {
    std::vector<ImportRecord> out;
    Statement s(db_,
                "SELECT id, at, file, kind, bytes, rows, samples, bad_rows, complete, replaced, removed_at, "
                "EXISTS(SELECT 1 FROM import_part WHERE import = import.id) OR EXISTS(SELECT 1 FROM span "
                "WHERE import = "
                "import.id), bad_cells FROM import ORDER BY id");
    while (s.more()) {
        out.push_back({s.id<ImportId>(0),
                       s.instant(1),
                       s.text(2),
                       s.text(3),
                       s.integer(4),
                       s.integer(5),
                       s.integer(6),
                       s.integer(7),
                       s.integer(8) != 0,
                       s.integer(9),
                       {},
                       s.integer(11) != 0,
                       s.integer(12)});
        if (!s.isNull(10)) out.back().removedAt = s.instant(10);
    }
    return out;
}

std::vector<BadRow> Imports::badRows(ImportId import) const {
    std::vector<BadRow> out;
    Statement s(db_, "SELECT line, reason, text, cell FROM bad_row WHERE import = ? ORDER BY line, id");
    s.bind(import);
    while (s.more()) out.push_back({s.integer(0), s.text(1), s.text(2), s.text(3)});
    return out;
}

std::vector<RecordPart> Imports::partsOf(TagId tag) const {
    std::vector<RecordPart> out;
    for (const auto& [sql, removed] :
         {std::pair("SELECT import, first_time, last_time FROM import_part WHERE tag = ? ORDER BY import, id",
                    false),
          std::pair("SELECT import, first_time, last_time FROM removed_part WHERE tag = ? ORDER BY id",
                    true)}) {
        Statement s(db_, sql);
        s.bind(tag);
        while (s.more()) out.push_back({s.id<ImportId>(0), {s.instant(1), s.instant(2)}, removed});
    }
    return out;
}

ImportId Imports::begin(const ImportRecord& r) {
    Statement(db_,
              "INSERT INTO import(at, file, kind, bytes, rows, samples, bad_rows, complete) "
              "VALUES(?,?,?,?,0,0,0,0)")
        .bind(timeNow(), r.file, r.kind, r.bytes)
        .run();
    return ImportId(db_.lastId());
}

void Imports::update(const ImportRecord& r) {
    Statement(db_,
              "UPDATE import SET rows = ?, samples = ?, bad_rows = ?, complete = ?, replaced = ?, bad_cells "
              "= ? WHERE id = ?")
        .bind(r.rows, r.samples, r.badRows, r.complete, r.replaced, r.badCells, r.id)
        .run();
}

void Imports::keepBadRow(ImportId import, const BadRow& row) {
    Statement(db_, "INSERT INTO bad_row(import, line, reason, text, cell) VALUES(?, ?, ?, ?, ?)")
        .bind(import, row.line, row.reason, row.text, row.cell)
        .run();
}

void Imports::keepPart(ImportId import, const PreparedWrite& w) {
    if (!w.replaced.empty()) {
        // What this import itself brought a batch before is not an older sample.
        const auto own = claims(db_, w.tag, import, Whose::Own);
        Series older;
        for (std::size_t i = 0; i < w.replaced.size(); ++i)
            if (std::none_of(own.begin(), own.end(),
                             [&](const Claim& c) { return holds(c, w.replaced.times[i]); }))
                older.push(w.replaced.times[i], w.replaced.values[i], w.replaced.view().qualityAt(i));
        keepReplaced(db_, import, w.tag, older);
    }
    Statement part(db_,
                   "INSERT INTO import_part(import, tag, first_time, last_time, count, instants) "
                   "VALUES(?, ?, ?, ?, ?, ?)");
    if (w.alone && w.count.added > 0) {
        part.bind(import, w.tag, w.extent.from, w.extent.to - kNanosecond, w.count.added,
                  std::optional<std::int64_t>())
            .run();
    }
    inPieces(w.instants.size(), [&](std::size_t at, std::size_t n) {
        const std::vector<Instant> piece(w.instants.begin() + static_cast<std::ptrdiff_t>(at),
                                         w.instants.begin() + static_cast<std::ptrdiff_t>(at + n));
        part.bind(import, w.tag, piece.front(), piece.back(), static_cast<std::int64_t>(n),
                  encodeInstants(piece))
            .run();
    });
}

std::vector<std::pair<TagId, Series>> Imports::replacedSamples(ImportId import) const {
    std::vector<std::pair<TagId, Series>> out;
    Statement s(db_, "SELECT tag, data FROM replaced_samples WHERE import = ? ORDER BY tag, first_time");
    s.bind(import);
    while (s.step()) {
        if (out.empty() || out.back().first != s.id<TagId>(0)) out.emplace_back(s.id<TagId>(0), Series());
        out.back().second.append(decodeSamples(s.blob(1)));
    }
    return out;
}

void Imports::rewriteReplaced(TagId tag, const std::function<void(Series&)>& edit) {
    std::vector<std::pair<std::int64_t, Series>> pieces;
    Statement s(db_, "SELECT id, data FROM replaced_samples WHERE tag = ?");
    s.bind(tag);
    while (s.step()) pieces.emplace_back(s.integer(0), decodeSamples(s.blob(1)));
    for (auto& [id, series] : pieces) {
        edit(series);
        Statement(db_, "UPDATE replaced_samples SET data = ? WHERE id = ?")
            .bind(encodeSamples(series), id)
            .run();
    }
}

Result<ImportRemoval> Imports::remove(ImportId import, const std::string& why) {
    const auto imports = all();
    const auto found =
        std::find_if(imports.begin(), imports.end(), [&](const ImportRecord& r) { return r.id == import; });
    if (found == imports.end()) return Error{fmt::format("{} is not an import of this study", import.number)};
    if (found->removedAt) return Error{fmt::format("import {} was removed already", import.number)};
    if (!found->removable)
        return Error{fmt::format("import {} ({}) brought nothing that is on record as its own", import.number,
                                 found->file)};
    try {
        Statement events(db_, "SELECT id FROM span WHERE import = ?");
        events.bind(import);
        std::vector<SpanId> spans;
        while (events.step()) spans.push_back(events.id<SpanId>(0));
        if (!spans.empty()) {
            history_.change("remove import " + found->file, why,
                            {{"import", import}, {"spans", spans.size()}}, [&] {
                                for (const SpanId span : spans) tracks_.removeSpan(span);
                                Statement(db_, "UPDATE import SET removed_at = ? WHERE id = ?")
                                    .bind(timeNow(), import)
                                    .run();
                            });
            return ImportRemoval{0, 0, 0, static_cast<std::int64_t>(spans.size())};
        }
        Transaction transaction(db_);
        const ImportRemoval done = Removal(db_, samples_, import).run();
        Statement(db_, "UPDATE import SET removed_at = ? WHERE id = ?").bind(timeNow(), import).run();
        history_.noteImport(import, "remove import " + found->file);
        history_.enterInLedger("remove import " + found->file, why,
                               {{"import", import}, {"samples", done.samples}, {"restored", done.restored}});
        transaction.commit();
        return done;
    } catch (const StoreError& e) {
        samples_.forget();
        return Error{e.what()};
    }
}

std::vector<std::pair<std::string, std::string>> Imports::recipes() const {
    std::vector<std::pair<std::string, std::string>> out;
    Statement s(db_, "SELECT name, body FROM recipe ORDER BY name");
    while (s.more()) out.emplace_back(s.text(0), s.text(1));
    return out;
}

void Imports::putRecipe(const std::string& name, const std::string& body) {
    Statement(
        db_,
        "INSERT INTO recipe(name, body) VALUES(?, ?) ON CONFLICT(name) DO UPDATE SET body = excluded.body")
        .bind(name, body)
        .run();
}

}  // namespace jacinth
