// Pieces of the file are read on all threads, ahead of the one that stores.
#include "source/text_record.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <deque>
#include <set>

#include "core/base/ahead.h"
#include "core/base/text.h"
#include "source/chunks.h"
#include "source/gzip.h"
#include "source/import_samples.h"
#include "source/parse_rows.h"

namespace jacinth {
namespace {

constexpr std::size_t kPiecesAhead = 6;

/// Reads pieces ahead on other threads and hands them on in the order of the file.
class TextBlocks : public BlockStream {
  public:
    TextBlocks(const TextSource& source, const TextLayout& layout, std::string asset, const Zone& zone,
               TagKinds& kinds)
        : source_(source),
          chunks_(source, layout.coding),
          layout_(layout),
          asset_(std::move(asset)),
          zone_(zone),
          times_(layout.timeFormat, zone),
          kinds_(kinds) {}

    Result<std::optional<RecordBlock>> next() override {
        while (ahead_.size() < kPiecesAhead && !ended_) {
            auto chunk = chunks_.next();
            if (!chunk) return chunk.error();
            if (!*chunk) {
                ended_ = true;
                break;
            }
            start(std::move(**chunk));
        }
        if (ahead_.empty()) return std::optional<RecordBlock>();
        ParsedRows rows = ahead_.take();
        const TextChunk chunk = std::move(chunksAhead_.front());
        chunksAhead_.pop_front();
        share_ = chunk.share;
        // A wall time that happened twice depends on the row before it, in the piece before this one.
        const bool readAgain = kinds_.learn(rows);
        if (readAgain || (rows.twice > 0 && last_ != kNoInstant))
            rows = parseRows(chunk.text, layout_, asset_, *kinds_.now(), times_.after(last_));
        if (rows.lines != chunk.lines)
            return Error{fmt::format("{}: {} of the lines from line {} on were not accounted for",
                                     source_.name, chunk.lines - rows.lines, line_ + 1)};
        if (rows.last != kNoInstant) last_ = rows.last;
        for (BadRow& bad : rows.aside.kept) bad.line += line_;
        line_ += rows.lines;
        twice_ += rows.twice;
        return std::optional<RecordBlock>(std::move(rows));
    }

    double share() const override { return share_; }

    /// A file that another program shortens or writes over is not the one that was looked at; one that grew
    /// still has all the rows it had.
    Status stillTrue(std::vector<std::string>& notes) override {
        const Status same = source_.unchanged();
        if (same || source_.file->sizeNow() <= source_.size()) return same;
        notes.push_back(fmt::format(
            "{} grew while it was read: what it held at the start was imported; import it again for the rest",
            source_.name));
        return Done{};
    }

    std::vector<std::string> notes() const override {
        if (twice_ == 0) return {};
        return {
            fmt::format("{} rows have a wall time that happened twice in {} (clocks put back); they were "
                        "taken in the order of the file",
                        twice_, zone_.name())};
    }

  private:
    void start(TextChunk chunk) {
        if (!begun_) {
            chunk.text = withoutLines(chunk.text, layout_.titleLines);
            chunk.lines -= layout_.titleLines;
            line_ += layout_.titleLines;
            RowReader header(chunk.text, layout_.separator);
            begun_ = header.next();
            line_ += header.linesRead();
            chunk.lines -= header.linesRead();
            chunk.text.remove_prefix(header.position());
        }
        const std::string_view text = chunk.text;
        chunksAhead_.push_back(std::move(chunk));
        ahead_.start(
            [this, text, kinds = kinds_.now()] { return parseRows(text, layout_, asset_, *kinds, times_); });
    }

    const TextSource& source_;
    ChunkReader chunks_;
    const TextLayout& layout_;
    std::string asset_;
    const Zone& zone_;
    TimeReader times_;
    TagKinds& kinds_;
    std::deque<TextChunk> chunksAhead_;  ///< whose rows are in ahead_
    bool begun_ = false, ended_ = false;
    Instant last_ = kNoInstant;
    std::int64_t line_ = 0;  ///< lines before the piece handed out next
    std::int64_t twice_ = 0;
    double share_ = 0;
    Ahead<ParsedRows> ahead_;  ///< the last member, so that it goes first: its work reads the others
};

/// A packed file is read to its end before anything is stored: damage further on must leave the study as it
/// is.
Status checkPacked(const TextSource& source, const TextLayout& layout) {
    if (!layout.coding.packed) return Done{};
    const auto checked = checkGzip(source);
    if (!checked)
        return Error{fmt::format("{}: {}. Nothing of it was imported", source.name, checked.error().message)};
    return checkEnd(source.name, checked->tail, layout.separator, layout.columns.size());
}

/// Calls `row` with the fields of every whole row below the header, and its line.
template <typename F>
Status lookThroughRows(const TextSource& source, const TextLayout& layout, F row) {
    ChunkReader chunks(source, layout.coding);
    std::int64_t line = 0;
    bool header = true;
    while (true) {
        const auto chunk = chunks.next();
        if (!chunk) return chunk.error();
        if (!*chunk) return Done{};
        const std::int64_t titles = header ? layout.titleLines : 0;
        RowReader rows(withoutLines((*chunk)->text, titles), layout.separator);
        if (header) header = !rows.next();
        while (rows.next())
            if (rows.fields().size() == layout.columns.size())
                row(rows.fields(), line + titles + rows.line());
        line += (*chunk)->lines;
    }
}

/// Adds the times of every row to the evidence.
Status lookThroughTimes(const TextSource& source, const TextLayout& layout, TimeFormEvidence& seen) {
    return lookThroughRows(source, layout, [&](const auto& fields, std::int64_t line) {
        seen.add(fields[static_cast<std::size_t>(layout.timeColumn)], line);
    });
}

/// The names of a long file come row by row: all of them are looked at before anything is stored where a
/// pattern or a table could make two of them one.
Status settleNames(const TextSource& source, const LayoutHints& hints, const TextLayout& layout) {
    if (!layout.longForm || !layout.names) return Done{};
    std::set<std::string, std::less<>> seen;
    std::vector<std::pair<std::string, MappedName>> mapped;
    const Status read = lookThroughRows(source, layout, [&](const auto& fields, std::int64_t) {
        const std::string_view name = trimmed(fields[static_cast<std::size_t>(layout.tagColumn)]);
        if (name.empty() || seen.contains(name)) return;
        seen.emplace(name);
        LayoutColumn column = columnFromHeader(std::string(name), hints.asset, layout.names.get());
        if (column.trouble.empty()) mapped.emplace_back(name, std::move(column.name));
    });
    if (!read) return read.error();
    const auto clashes = clashesOf(mapped);
    if (clashes.empty()) return Done{};
    return Error{fmt::format("{}: {}. Nothing of it was imported", source.name, fmt::join(clashes, "\n"))};
}

/// Day first or month first is decided by all rows of the file.
Status settleDates(const TextSource& source, const LayoutHints& hints, TextLayout& layout) {
    const TimeForm form = layout.timeFormat.form;
    if (form != TimeForm::DayFirst && form != TimeForm::MonthFirst) return Done{};
    TimeFormEvidence seen;
    if (const Status read = lookThroughTimes(source, layout, seen); !read) return read.error();
    if (const auto contradiction = seen.contradiction())
        return Error{fmt::format("{}: {}. Nothing of it was imported", source.name, *contradiction)};
    if (!hints.timeFormat.empty()) {
        const auto decided = seen.ambiguous() ? std::nullopt : seen.form();
        const bool other = decided && decided->form != form && seen.decides();
        if (other)
            return Error{fmt::format("{}: the times are to be read {}, but {}. Nothing of it was imported",
                                     source.name, sayTimeFormat(layout.timeFormat), seen.decidingText())};
        return Done{};
    }
    const auto order = orderOfDates(seen, hints);
    if (seen.ambiguous() && !order)
        return Error{timeQuestion(source.name, seen) + ". Nothing of it was imported"};
    if (const auto decided = order ? order : seen.form()) layout.timeFormat = *decided;
    return Done{};
}

}  // namespace

TextRecord::TextRecord(TextSource source, LayoutHints hints, Zone zone, TextLayout layout)
    : source_(std::move(source)),
      hints_(std::move(hints)),
      zone_(std::move(zone)),
      layout_(std::move(layout)) {}

Result<std::unique_ptr<TextRecord>> TextRecord::open(const TextSource& source, const LayoutHints& hints,
                                                     const Zone& zone) {
    auto layout = guessLayout(source, hints);
    if (!layout) return layout.error();
    if (const Status whole = checkPacked(source, *layout); !whole) return whole.error();
    if (!layout->numberQuestion.empty())
        return Error{layout->numberQuestion + ". Nothing of it was imported"};
    if (const Status dates = settleDates(source, hints, *layout); !dates) return dates.error();
    if (const Status names = settleNames(source, hints, *layout); !names) return names.error();
    return std::unique_ptr<TextRecord>(new TextRecord(source, hints, zone, std::move(*layout)));
}

SourceFacts TextRecord::facts() const {
    return {source_.name, layout_.longForm ? "long" : "wide", static_cast<std::int64_t>(source_.size()),
            false, false};
}

Result<std::vector<SourceTag>> TextRecord::tags(const std::string& like) {
    LayoutHints hints = hints_;
    hints.zone = zone_.name();
    const auto preview = previewImport(nullptr, source_, hints);
    if (!preview) return preview.error();
    std::vector<SourceTag> out;
    for (const std::string& path : preview->tags) {
        if (lowerCase(path).find(lowerCase(like)) == std::string::npos) continue;
        SourceTag tag{path, {}, {}, {}, {}, {}};
        for (const LayoutColumn& c : layout_.columns)
            if (c.name.asset + "/" + c.name.tag == path) {
                tag.unit = c.name.unit;
                tag.kind = c.states ? TagKind::State : TagKind::Continuous;
            }
        out.push_back(std::move(tag));
    }
    return out;
}

Result<std::unique_ptr<BlockStream>> TextRecord::read(const ReadRequest&, TagKinds& kinds) {
    return std::unique_ptr<BlockStream>(
        std::make_unique<TextBlocks>(source_, layout_, hints_.asset, zone_, kinds));
}

}  // namespace jacinth
