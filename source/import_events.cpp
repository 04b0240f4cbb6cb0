#include "source/import_events.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/units.h"
#include "core/base/utf8.h"
#include "store/imports.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

constexpr std::size_t kLongestText = 100'000;
constexpr std::size_t kLargestTable = 512 << 20;

class EventRows {
  public:
    EventRows(Study& study, const EventForm& form, const TextHead& head, TimeReader times, OtherUnits units)
        : study_(study), form_(form), header_(head.header), times_(std::move(times)), units_(units) {
        for (std::string& h : header_) h = lowerCase(h);
    }

    Status checkHeader(const std::string& file) const {
        for (const char* name :
             {form_.start, form_.end, form_.required, form_.asset ? "asset" : "", form_.tag ? "tag" : ""})
            if (*name && column(name) < 0)
                return Error{fmt::format("{} has no column `{}`; {} need it", file, name, form_.kind)};
        return Done{};
    }

    Result<Span> read(const RowReader& row) {
        if (*row.trouble()) return Error{row.trouble()};
        const std::vector<std::string_view>& fields = row.fields();
        if (fields.size() != header_.size())
            return Error{fmt::format("{} fields where the header has {}", fields.size(), header_.size())};
        Span span;
        const auto start = times_.read(field(fields, form_.start));
        if (!start) return start.error();
        span.start = span.end = *start;
        if (*form_.end && !field(fields, form_.end).empty()) {
            const auto end = times_.read(field(fields, form_.end));
            if (!end) return end.error();
            if (*end < *start) return Error{"it ends before it starts"};
            span.end = *end;
        }
        if (const Status owner = findOwner(fields, span); !owner) return owner.error();
        for (std::size_t i = 0; i < fields.size(); ++i) {
            const std::string& name = header_[i];
            const std::string_view text = trimmed(fields[i]);
            if (name == form_.start || name == form_.end || name == "asset" || name == "tag" || text.empty())
                continue;
            // A log entry stays a text even where it is only a number.
            const auto number = name == "text" || name == "note" ? std::nullopt : readNumber(text, false);
            if (number)
                span.facts[name] = *number;
            else
                span.facts[name] = asUtf8(text, kLongestText);
        }
        if (form_.tag && !std::get_if<double>(&span.facts[form_.required]))
            return Error{"the value is not a number"};
        if (form_.tag) bringToUnit(row.line(), span);
        return span;
    }
    const TimeReader& times() const { return times_; }

  private:
    /// A reading in another unit than its tag's is not mixed in without a word.
    void bringToUnit(std::int64_t line, Span& span) {
        const Tag* tag = study_.catalog().tag(span.tag);
        const std::string unit = factText(span.facts, "unit");
        if (!tag || unit.empty() || tag->unit.empty() || units_ == OtherUnits::Keep) return;
        if (isSameUnit(unit, tag->unit)) {
            span.facts.erase("unit");
            return;
        }
        const auto conversion = unitConversion(unit, tag->unit);
        if (units_ == OtherUnits::Refuse || !conversion)
            throw StoreError(fmt::format(
                "line {}: {} is in {}, and its reading in {}{}. Nothing of it was imported", line,
                tag->path(), tag->unit, unit,
                conversion
                    ? "; say whether to convert its values or to take its numbers as they are"
                    : ", which cannot be converted; say that its numbers are to be taken as they are"));
        double& value = std::get<double>(span.facts[form_.required]);
        value = (*conversion)(value);
        span.facts.erase("unit");
    }

    int column(std::string_view name) const {
        const auto found = std::find(header_.begin(), header_.end(), name);
        return found == header_.end() ? -1 : static_cast<int>(found - header_.begin());
    }
    std::string_view field(const std::vector<std::string_view>& fields, std::string_view name) const {
        const int at = column(name);
        return at < 0 ? std::string_view() : trimmed(fields[at]);
    }
    Status findOwner(const std::vector<std::string_view>& fields, Span& span) {
        if (form_.tag) {
            const auto tag = study_.catalog().tagAt(std::string(field(fields, "tag")));
            if (!tag) return tag.error();
            span.tag = tag->id;
            span.asset = tag->asset;
            return Done{};
        }
        const std::string name(field(fields, "asset"));
        if (name.empty()) return form_.asset ? Status(Error{"no asset"}) : Status(Done{});
        const auto asset = study_.catalog().assetCalled(name);
        if (!asset) return asset.error();
        span.asset = asset->id;
        return Done{};
    }

    Study& study_;
    const EventForm& form_;
    std::vector<std::string> header_;
    TimeReader times_;
    OtherUnits units_;
};

std::string keyOf(const Span& s) {
    return fmt::format("{}|{}|{}|{}|{}", s.asset, s.tag, epochNanoseconds(s.start), epochNanoseconds(s.end),
                       factsToJson(s.facts));
}

}  // namespace

namespace {

/// The whole text of a table in UTF-8. Tables of events are written by people and fit in memory.
Result<std::string> wholeText(const TextSource& source, const TextCoding& coding) {
    TextStream stream(source, coding);
    std::string text;
    while (true) {
        const auto more = stream.read(text, 8 << 20);
        if (!more)
            return Error{
                fmt::format("{}: {}. Nothing of it was imported", source.name, more.error().message)};
        if (!*more) return text;
        if (text.size() > kLargestTable)
            return Error{
                fmt::format("{} is larger than {} MB: no table of events", source.name, kLargestTable >> 20)};
    }
}

/// How the times of all rows are written; the columns of the start and of the end count alike.
Result<TimeFormat> formatOf(const std::string& file, std::string_view text, char separator,
                            const EventForm& form, const LayoutHints& hints) {
    if (!hints.timeFormat.empty()) return timeFormatNamed(hints.timeFormat);
    TimeFormEvidence seen;
    RowReader rows(text, separator, Quotes::OverLines);
    rows.next();
    std::vector<std::size_t> columns;
    for (std::size_t i = 0; i < rows.fields().size(); ++i)
        if (const std::string name = lowerCase(trimmed(rows.fields()[i]));
            name == form.start || name == form.end)
            columns.push_back(i);
    while (rows.next())
        for (const std::size_t i : columns)
            if (i < rows.fields().size()) seen.add(rows.fields()[i], rows.line());
    if (const auto contradiction = seen.contradiction())
        return Error{fmt::format("{}: {}. Nothing of it was imported", file, *contradiction)};
    if (const auto order = orderOfDates(seen, hints)) return *order;
    if (seen.ambiguous()) return Error{timeQuestion(file, seen) + ". Nothing of it was imported"};
    return seen.form().value_or(TimeFormat{});
}

void keepAside(Study& study, ImportResult& result, const RowReader& reader, const std::string& reason) {
    ++result.badRowCount;
    const BadRow bad{reader.line(), asUtf8(reason, 300), asUtf8(reader.raw(), 300), {}};
    if (result.badRows.size() < kBadRowsShown) result.badRows.push_back(bad);
    if (result.badRowCount <= static_cast<std::int64_t>(kMostBadRows))
        study.imports().keepBadRow(result.import, bad);
}

void storeRows(Study& study, const EventForm& form, EventRows& rows, RowReader& reader,
               ImportResult& result) {
    const TrackId track = study.tracks().put(form.track, form.kind);
    std::set<std::string> known;
    for (const Span& s : study.tracks().spans(track)) known.insert(keyOf(s));
    while (reader.next()) {
        ++result.rows;
        const auto span = rows.read(reader);
        if (!span) {
            keepAside(study, result, reader, span.error().message);
        } else if (known.insert(keyOf(*span)).second) {
            study.tracks().addSpan(track, *span, result.import);
            ++result.samples;
        } else {
            ++result.unchanged;
        }
    }
}

}  // namespace

Result<ImportResult> importEvents(Study& study, const TextSource& source, const std::string& kind,
                                  const LayoutHints& hints) {
    const auto form = std::find_if(eventForms().begin(), eventForms().end(),
                                   [&](const EventForm& f) { return kind == f.kind; });
    if (form == eventForms().end())
        return Error{fmt::format("`{}` is not a kind of table; {} are", kind, fmt::join(eventKinds(), ", "))};
    const auto parts = partsOf(source, hints);
    if (!parts) return parts.error();
    const auto head = readHead(source.name, *parts, hints, 500, NoRows::Allowed);
    if (!head) return head.error();
    const auto zone = zoneOfTimes(&study, hints);
    if (!zone) return zone.error();
    auto text = wholeText(source, parts->coding);
    if (!text) return text.error();
    // Blank in the place of title lines, so that lines keep their numbers.
    *text = std::string(static_cast<std::size_t>(parts->titleLines), '\n') +
            std::string(withoutLines(*text, parts->titleLines));
    const auto format = formatOf(source.name, *text, head->separator, *form, hints);
    if (!format) return format.error();
    EventRows rows(study, *form, *head, TimeReader(*format, *zone), hints.units);
    if (const Status header = rows.checkHeader(source.name); !header) return header.error();

    ImportResult result;
    try {
        study.change(
            fmt::format("import {} from {}", kind, source.name), "", {{"bytes", source.size()}}, [&] {
                ImportRecord record;
                record.file = asUtf8(source.name, 1000);
                record.kind = form->kind;
                record.bytes = static_cast<std::int64_t>(source.size());
                result.import = record.id = study.imports().begin(record);
                RowReader reader(*text, head->separator, Quotes::OverLines);
                reader.next();
                storeRows(study, *form, rows, reader, result);
                if (result.rows > 0 && result.badRowCount == result.rows)
                    throw StoreError(fmt::format(
                        "{}: none of its {} rows can be read; line {}: {}. Nothing of it was imported",
                        source.name, result.rows, result.badRows[0].line, result.badRows[0].reason));
                record.rows = result.rows;
                record.samples = result.samples;
                record.badRows = result.badRowCount;
                record.complete = true;
                study.imports().update(record);
            });
    } catch (const StoreError& e) {
        return Error{e.what()};
    }
    return result;
}

}  // namespace jacinth
