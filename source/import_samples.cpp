// The way of an import: pieces of the file are read by two threads ahead of the one that stores; samples are
// gathered by tag and stored batch by batch. Only the writing itself locks the file, for some milliseconds.
#include "source/import_samples.h"

#include <fmt/format.h>

#include <deque>
#include <future>

#include "source/import_batches.h"
#include "source/parse_rows.h"
#include "store/imports.h"

namespace jacinth {
namespace {

constexpr std::size_t kPiecesAhead = 3;

/// Reads pieces ahead on other threads and hands them on in the order of the file.
class PieceReader {
  public:
    PieceReader(const TextSource& source, const TextLayout& layout, std::string asset, TimeReader times)
        : name_(source.name),
          chunks_(source, layout.coding),
          layout_(layout),
          asset_(std::move(asset)),
          times_(std::move(times)) {}

    /// The next piece, or none at the end.
    Result<std::optional<ParsedRows>> next(ImportBatches& batches, double& share) {
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
        const bool readAgain = batches.learnKinds(rows);
        if (readAgain || (rows.twice > 0 && last_ != kNoInstant))
            rows = parseRows(piece.chunk.text, layout_, asset_, *batches.kinds(), times_.after(last_));
        if (rows.lines != piece.chunk.lines)
            return Error{fmt::format("{}: {} of the lines from line {} on were not accounted for", name_,
                                     piece.chunk.lines - rows.lines, line_ + 1)};
        if (rows.last != kNoInstant) last_ = rows.last;
        for (BadRow& bad : rows.bad.kept) bad.line += line_;
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
            begun_ = header.next();
            line_ += header.linesRead();
            chunk.lines -= header.linesRead();
            chunk.text.remove_prefix(header.position());
        }
        const std::string_view text = chunk.text;
        ahead_.push_back({std::move(chunk), std::async(std::launch::async, [this, text, kinds] {
                              return parseRows(text, layout_, asset_, *kinds, times_);
                          })});
    }

    std::string name_;
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
    if (!layout.coding.packed) return Done{};
    const auto checked = checkGzip(source);
    if (!checked)
        return Error{fmt::format("{}: {}. Nothing was imported", source.name, checked.error().message)};
    return checkEnd(source.name, checked->tail, layout.separator, layout.columns.size());
}

/// Adds the times of every row to the evidence.
Status lookThroughTimes(const TextSource& source, const TextLayout& layout, TimeFormEvidence& seen) {
    ChunkReader chunks(source, layout.coding);
    std::int64_t line = 0;
    bool header = true;
    while (true) {
        const auto chunk = chunks.next();
        if (!chunk) return chunk.error();
        if (!*chunk) return Done{};
        RowReader rows((*chunk)->text, layout.separator);
        if (header) header = !rows.next();
        while (rows.next())
            if (rows.fields().size() == layout.columns.size())
                seen.add(rows.fields()[static_cast<std::size_t>(layout.timeColumn)], line + rows.line());
        line += (*chunk)->lines;
    }
}

/// Day first or month first is decided by all rows of the file.
Status settleDates(const TextSource& source, const LayoutHints& hints, TextLayout& layout) {
    const TimeForm form = layout.timeFormat.form;
    if (form != TimeForm::DayFirst && form != TimeForm::MonthFirst) return Done{};
    TimeFormEvidence seen;
    if (const Status read = lookThroughTimes(source, layout, seen); !read) return read.error();
    if (const auto contradiction = seen.contradiction())
        return Error{fmt::format("{}: {}. Nothing was imported", source.name, *contradiction)};
    if (!hints.timeFormat.empty()) {
        const auto decided = seen.ambiguous() ? std::nullopt : seen.form();
        const bool other = decided && decided->form != form && seen.decides();
        if (other)
            return Error{fmt::format("{}: the times are to be read {}, but {}. Nothing was imported",
                                     source.name, sayTimeFormat(layout.timeFormat), seen.decidingText())};
        return Done{};
    }
    const auto order = orderOfDates(seen, hints);
    if (seen.ambiguous() && !order) return Error{timeQuestion(source.name, seen) + ". Nothing was imported"};
    if (const auto decided = order ? order : seen.form()) layout.timeFormat = *decided;
    return Done{};
}

/// A file that another program shortens or writes over is no longer what was looked at; one that grew has
/// all the rows it had.
Status checkSameFile(const TextSource& source, ImportResult& result) {
    const Status same = source.unchanged();
    if (same) return Done{};
    if (source.file->sizeNow() <= source.size())
        return Error{fmt::format("{}; of it {} samples of whole batches are stored. Import it again",
                                 same.error().message, result.samples + result.replaced)};
    const std::string note = fmt::format(
        "{} grew while it was read: what it held at the start was imported; import it again for the rest",
        source.name);
    if (std::find(result.notes.begin(), result.notes.end(), note) == result.notes.end())
        result.notes.push_back(note);
    return Done{};
}

void addNotes(const ImportResult& result, std::int64_t twice, const Zone& zone,
              std::vector<std::string>& notes) {
    if (twice > 0)
        notes.push_back(
            fmt::format("{} rows have a wall time that happened twice in {} (clocks put back); they were "
                        "taken in the order of the file",
                        twice, zone.name()));
    if (result.sameTime > 0)
        notes.push_back(
            fmt::format("{} samples have the same tag and time as a later row of the file; the "
                        "later row stands",
                        result.sameTime));
    for (const auto& [text, count] : result.noValue)
        notes.push_back(fmt::format("`{}`: {} samples without a value, of bad quality", text, count));
}

Status importAllPieces(ImportBatches& batches, PieceReader& pieces, const TextSource& source,
                       ImportResult& result, std::int64_t& twice, const Progress& progress) {
    double share = 0;
    while (true) {
        auto piece = pieces.next(batches, share);
        if (!piece) return piece.error();
        if (!*piece) break;
        twice += (*piece)->twice;
        batches.add(**piece);
        if (batches.full()) {
            if (const Status same = checkSameFile(source, result); !same) return same.error();
            batches.commit(false);
        }
        if (progress.stopped(share)) {
            result.cancelled = true;
            return Done{};
        }
    }
    if (const Status same = checkSameFile(source, result); !same) return same.error();
    if (batches.nothingRead()) {
        const BadRow first = result.badRows.empty() ? BadRow{} : result.badRows.front();
        return Error{fmt::format("{}: none of its {} rows can be read; line {}: {}. Nothing was imported",
                                 source.name, result.rows, first.line, first.reason)};
    }
    batches.commit(true);
    return Done{};
}

}  // namespace

void ImportResult::add(const ImportResult& next) {
    rows += next.rows;
    badRowCount += next.badRowCount;
    badCellCount += next.badCellCount;
    samples += next.samples;
    replaced += next.replaced;
    unchanged += next.unchanged;
    sameTime += next.sameTime;
    const std::size_t room = kBadRowsShown - std::min(kBadRowsShown, badRows.size());
    badRows.insert(badRows.end(), next.badRows.begin(),
                   next.badRows.begin() + static_cast<std::ptrdiff_t>(std::min(room, next.badRows.size())));
    for (const auto& [text, count] : next.noValue) noValue[text] += count;
    tags.insert(tags.end(), next.tags.begin(), next.tags.end());
    std::sort(tags.begin(), tags.end());
    tags.erase(std::unique(tags.begin(), tags.end()), tags.end());
    notes.insert(notes.end(), next.notes.begin(), next.notes.end());
    cancelled = next.cancelled;
}

Result<Zone> zoneOfTimes(const Study* study, const LayoutHints& hints) {
    if (!hints.zone.empty()) return Zone::named(hints.zone);
    return Zone::named(study ? study->setting("zone", "UTC") : "UTC");
}

Result<ImportResult> importSamples(Study& study, const TextSource& source, const LayoutHints& hints,
                                   const Progress& progress) {
    auto layout = guessLayout(source, hints);
    if (!layout) return layout.error();
    if (const Status whole = checkPacked(source, *layout); !whole) return whole.error();
    if (!layout->numberQuestion.empty()) return Error{layout->numberQuestion + ". Nothing was imported"};
    if (const Status dates = settleDates(source, hints, *layout); !dates) return dates.error();
    const auto zone = zoneOfTimes(&study, hints);
    if (!zone) return zone.error();
    ImportResult result;
    std::int64_t twice = 0;
    try {
        ImportBatches batches(study, source, *layout, result);
        PieceReader pieces(source, *layout, hints.asset, TimeReader(layout->timeFormat, *zone));
        const Status done = importAllPieces(batches, pieces, source, result, twice, progress);
        if (!done) {
            study.reload();
            return done.error();
        }
        batches.listTags();
        if (!hints.zone.empty() && study.setting("zone").empty()) study.setSetting("zone", hints.zone);
    } catch (const StoreError& e) {
        study.reload();
        return Error{e.what()};
    }
    addNotes(result, twice, *zone, result.notes);
    (void)progress.stopped(1);
    return result;
}

}  // namespace jacinth
