// The way of an import: pieces of the file are read by two threads ahead of the one that stores; samples are
// gathered by tag and stored batch by batch. Only the writing itself locks the file, for some milliseconds.
#include "source/import_samples.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <deque>
#include <future>
#include <nlohmann/json.hpp>
#include <unordered_map>

#include "source/chunks.h"
#include "source/parse_rows.h"

namespace jacinth {
namespace {

constexpr std::size_t kBatchSamples = 4'000'000;      // gathered between two commits: about 64 MB
constexpr std::size_t kMostHeldSamples = 16'000'000;  // of tags too thin for a block of their own yet
constexpr std::size_t kWorthStoring = kBlockSamples / 2;
constexpr std::size_t kListedBadRows = 100;
constexpr std::size_t kPiecesAhead = 3;

/// Gathers samples by tag and stores them batch by batch.
class Batches {
  public:
    Batches(Study& study, const TextSource& source, const TextLayout& layout, ImportResult& result)
        : study_(study), result_(result) {
        record_.file = source.name;
        record_.kind = layout.longForm ? "long" : "wide";
        record_.bytes = static_cast<std::int64_t>(source.text.size());
        for (const Tag& tag : study.catalog().tags()) kinds_[tag.path()] = tag.kind;
    }

    /// What is known of tags' kinds now, for reading the next piece.
    std::shared_ptr<const KnownKinds> kinds() const { return std::make_shared<KnownKinds>(kinds_); }

    /// Was a tag taken for a number in this piece and for a state in one before it, or the other way round?
    bool contradicts(const ParsedRows& piece) const {
        return std::any_of(piece.tags.begin(), piece.tags.end(), [&](const auto& tag) {
            const auto known = kinds_.find(tag->path);
            return known != kinds_.end() && known->second != tag->kind &&
                   (known->second == TagKind::State || tag->kind == TagKind::State);
        });
    }

    void add(ParsedRows& piece) {
        for (const auto& tag : piece.tags) add(*tag);
        for (BadRow& row : piece.bad) {
            ++result_.badRowCount;
            if (result_.badRows.size() < kListedBadRows) result_.badRows.push_back(row);
            bad_.push_back(std::move(row));
        }
        result_.rows += piece.rows;
    }

    bool full() const { return fresh_ >= kBatchSamples; }

    void commit(bool complete) {
        std::vector<Target*> due;
        const bool all = complete || waiting_ >= kMostHeldSamples;
        for (Target* t : order_)
            if (!t->series.empty() && (all || t->series.size() >= kWorthStoring)) due.push_back(t);
        makeTags(due);
        std::vector<PreparedWrite> writes;
        for (Target* t : due) {
            waiting_ -= t->series.size();
            writes.push_back(study_.samples().prepare(t->tag, std::move(t->series)));
            t->series = {};
        }
        code(writes);
        store(writes, complete);
        fresh_ = 0;
    }

    void listTags() {
        for (const Target* target : order_) result_.tags.push_back(target->path);
    }

  private:
    struct Target {
        std::string path;
        LayoutColumn column;
        std::int64_t tag = 0;  ///< 0 until it is first stored
        TagKind kind = TagKind::Continuous;
        Series series;
        std::vector<std::string> states;  ///< in order of first sight, this import
        std::vector<int> codes;           ///< the study's code of each
    };

    void add(ParsedTag& parsed) {
        auto& slot = targets_[parsed.path];
        if (!slot) {
            slot = std::make_unique<Target>();
            order_.push_back(slot.get());
            slot->path = parsed.path;
            slot->column = parsed.column;
            slot->kind = kinds_.try_emplace(parsed.path, parsed.kind).first->second;
        }
        const std::size_t samples = parsed.series.size();
        if (slot->kind == TagKind::State) {
            std::vector<double> code;
            for (const std::string& name : parsed.states) code.push_back(placeOf(*slot, name));
            for (double& v : parsed.series.values)
                if (std::isfinite(v)) v = code[static_cast<std::size_t>(v)];
        }
        if (slot->series.empty())
            slot->series = std::move(parsed.series);
        else
            slot->series.append(parsed.series);
        waiting_ += samples;
        fresh_ += samples;
    }

    static double placeOf(Target& target, const std::string& name) {
        const auto found = std::find(target.states.begin(), target.states.end(), name);
        if (found != target.states.end()) return static_cast<double>(found - target.states.begin());
        target.states.push_back(name);
        return static_cast<double>(target.states.size() - 1);
    }

    /// Tags and states that the study does not have yet, and codes in place of places.
    void makeTags(const std::vector<Target*>& due) {
        Transaction transaction(study_.database());
        if (record_.id == 0) result_.import = record_.id = study_.beginImport(record_);
        for (Target* t : due) {
            if (t->tag == 0) makeTag(*t);
            if (t->kind != TagKind::State) continue;
            while (t->codes.size() < t->states.size())
                t->codes.push_back(study_.catalog().addState(t->tag, t->states[t->codes.size()]));
            for (double& v : t->series.values)
                if (std::isfinite(v)) v = t->codes[static_cast<std::size_t>(v)];
        }
        transaction.commit();
    }

    void makeTag(Target& target) {
        Catalog& catalog = study_.catalog();
        const auto known = catalog.tagAt(target.path);
        if (known && study_.derivedDefinition(known->id).contains(kExpression))
            throw StoreError(
                fmt::format("`{}` is given by an expression and takes no samples from a file", target.path));
        target.tag = known ? known->id
                           : catalog.addTag(catalog.addAsset(target.column.asset), target.column.tag,
                                            target.column.unit, target.kind);
        // A unit that an earlier file did not say is taken from this one.
        if (known && known->unit.empty() && !target.column.unit.empty()) {
            Tag tag = *known;
            tag.unit = target.column.unit;
            catalog.updateTag(tag);
        }
    }

    static void code(std::vector<PreparedWrite>& writes) {
        std::atomic<std::size_t> next{0};
        const auto work = [&] {
            for (std::size_t i = next++; i < writes.size(); i = next++) SampleStore::code(writes[i]);
        };
        auto helper = std::async(std::launch::async, work);
        work();
        helper.get();
    }

    void store(std::vector<PreparedWrite>& writes, bool complete) {
        Transaction transaction(study_.database());
        for (PreparedWrite& w : writes) {
            if (!study_.samples().apply(w))
                throw StoreError("another import is writing the same tags; start this one again after it");
            study_.keepImportPart(record_.id, w);
            result_.samples += w.count.added;
            result_.replaced += w.count.replaced;
            result_.unchanged += w.count.unchanged;
            study_.catalog().setSpacing(w.tag, study_.samples().spacing(w.tag));
        }
        for (const BadRow& row : bad_) study_.keepBadRow(record_.id, row);
        bad_.clear();
        record_.rows = result_.rows;
        record_.samples = result_.samples;
        record_.replaced = result_.replaced;
        record_.badRows = result_.badRowCount;
        record_.complete = complete;
        study_.updateImport(record_);
        if (complete)
            study_.enterInLedger("import " + record_.file, "",
                                 {{"rows", result_.rows},
                                  {"samples", result_.samples},
                                  {"replaced", result_.replaced},
                                  {"badRows", result_.badRowCount}});
        transaction.commit();
    }

    Study& study_;
    ImportResult& result_;
    ImportRecord record_;
    KnownKinds kinds_;
    std::unordered_map<std::string, std::unique_ptr<Target>> targets_;
    std::vector<Target*> order_;  ///< of first sight, so that new tags stand in the order of the file
    std::vector<BadRow> bad_;
    std::size_t waiting_ = 0;  ///< samples gathered and not stored
    std::size_t fresh_ = 0;    ///< gathered since the last commit
};

/// Reads pieces ahead on other threads and hands them on in the order of the file.
class PieceReader {
  public:
    PieceReader(std::string_view bytes, const TextLayout& layout, std::string asset, TimeReader times)
        : chunks_(bytes, layout.separator),
          layout_(layout),
          asset_(std::move(asset)),
          times_(std::move(times)) {}

    /// The next piece, or none at the end. `redo` says whether what is known by now makes it read otherwise.
    Result<std::optional<ParsedRows>> next(const Batches& batches, double& share) {
        while (ahead_.size() < kPiecesAhead && !ended_) {
            auto chunk = chunks_.next();
            if (!chunk) return chunk.error();
            if (!*chunk) {
                ended_ = true;
                break;
            }
            start(std::move(**chunk), batches.kinds());
        }
        if (ahead_.empty()) return std::optional<ParsedRows>();
        Piece piece = std::move(ahead_.front());
        ahead_.pop_front();
        ParsedRows rows = piece.rows.get();
        share = piece.chunk.share;
        // A wall time that happened twice depends on the row before it, in the piece before this one.
        if ((rows.twice > 0 && last_ != kNoInstant) || batches.contradicts(rows))
            rows = parseRows(piece.chunk.text, layout_, asset_, *batches.kinds(), times_.after(last_));
        if (rows.last != kNoInstant) last_ = rows.last;
        for (BadRow& bad : rows.bad) bad.line += line_;
        line_ += rows.lines;
        return std::optional<ParsedRows>(std::move(rows));
    }

  private:
    struct Piece {
        TextChunk chunk;
        std::future<ParsedRows> rows;
    };

    void start(TextChunk chunk, std::shared_ptr<const KnownKinds> kinds) {
        if (!begun_) {
            RowReader header(chunk.text, layout_.separator);
            header.next();
            const std::string_view top = chunk.text.substr(0, header.position());
            line_ = std::count(top.begin(), top.end(), '\n');
            chunk.text.remove_prefix(top.size());
            begun_ = true;
        }
        const std::string_view text = chunk.text;
        ahead_.push_back({std::move(chunk), std::async(std::launch::async, [this, text, kinds] {
                              return parseRows(text, layout_, asset_, *kinds, times_);
                          })});
    }

    ChunkReader chunks_;
    const TextLayout& layout_;
    std::string asset_;
    TimeReader times_;
    std::deque<Piece> ahead_;
    bool begun_ = false, ended_ = false;
    Instant last_ = kNoInstant;
    std::int64_t line_ = 0;  ///< lines before the piece handed out next
};

/// A packed file is read to its end before anything is stored: damage further on must leave the study as it
/// is.
Status checkPacked(const TextSource& source, const TextLayout& layout) {
    if (!isGzip(source.text)) return Done{};
    const auto checked = checkGzip(source.text);
    if (!checked)
        return Error{fmt::format("{}: {}. Nothing was imported", source.name, checked.error().message)};
    return checkEnd({source.name, checked->tail}, layout.separator, layout.columns.size());
}

}  // namespace

Result<Zone> zoneOfTimes(const Study* study, const LayoutHints& hints) {
    if (!hints.zone.empty()) return Zone::named(hints.zone);
    return Zone::named(study ? study->setting("zone", "UTC") : "UTC");
}

Result<ImportResult> importSamples(Study& study, const TextSource& source, const LayoutHints& hints,
                                   const Progress& progress) {
    const auto head = headOf(source);
    if (!head) return head.error();
    const auto layout = guessLayout({source.name, head->text}, hints);
    if (!layout) return layout.error();
    if (const Status whole = checkPacked(source, *layout); !whole) return whole.error();
    const auto zone = zoneOfTimes(&study, hints);
    if (!zone) return zone.error();
    ImportResult result;
    try {
        Batches batches(study, source, *layout, result);
        PieceReader pieces(source.text, *layout, hints.asset, TimeReader(layout->dateOrder, *zone));
        std::int64_t twice = 0;
        double share = 0;
        while (true) {
            auto piece = pieces.next(batches, share);
            if (!piece) return piece.error();
            if (!*piece) break;
            twice += (*piece)->twice;
            batches.add(**piece);
            if (batches.full()) batches.commit(false);
            if (progress && !progress(share)) {
                result.cancelled = true;
                break;
            }
        }
        if (!result.cancelled) batches.commit(true);
        batches.listTags();
        if (!hints.zone.empty() && study.setting("zone").empty()) study.setSetting("zone", hints.zone);
        if (twice > 0)
            result.notes.push_back(
                fmt::format("{} rows have a wall time that happened twice in {} (clocks put back); they were "
                            "taken in the order of the file",
                            twice, zone->name()));
        if (progress) progress(1.0);
    } catch (const StoreError& e) {
        study.reload();
        return Error{e.what()};
    }
    return result;
}

}  // namespace jacinth
