#include "source/import_events.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

namespace jacinth {
namespace {

/// Which columns a kind of table must have, and what they mean for the span.
struct EventForm {
    const char* kind;
    const char* track;     ///< name of the track they go to
    const char* start;     ///< column of the start, or of the moment
    const char* end;       ///< column of the end; "" for a moment
    bool asset;            ///< has to name an asset
    bool tag;              ///< has to name a tag
    const char* required;  ///< one more column there has to be; "" for none
};

const std::vector<EventForm>& forms() {
    static const std::vector<EventForm> all{
        {"failures", "Failures", "time", "", true, false, ""},
        {"work-orders", "Work orders", "opened", "closed", true, false, "text"},
        {"readings", "Check readings", "time", "", false, true, "value"},
        {"log", "Shift log", "time", "", false, false, "text"},
        {"alarms", "Source alarms", "start", "end", true, false, "text"},
        {"stops", "Stops", "start", "end", true, false, ""},
        {"batches", "Batch list", "start", "end", true, false, ""},
    };
    return all;
}

class EventRows {
  public:
    EventRows(Study& study, const EventForm& form, const TextHead& head, TimeReader times)
        : study_(study), form_(form), header_(head.header), times_(std::move(times)) {
        for (std::string& h : header_) h = lowerCase(h);
    }

    Status checkHeader(const std::string& file) const {
        for (const char* name :
             {form_.start, form_.end, form_.required, form_.asset ? "asset" : "", form_.tag ? "tag" : ""})
            if (*name && column(name) < 0)
                return Error{fmt::format("{} has no column `{}`; {} need it", file, name, form_.kind)};
        return Done{};
    }

    Result<Span> read(const std::vector<std::string_view>& fields) {
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
                span.facts[name] = std::string(text);
        }
        if (form_.tag && !std::get_if<double>(&span.facts[form_.required]))
            return Error{"the value is no number"};
        return span;
    }
    const TimeReader& times() const { return times_; }

  private:
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
        if (const Asset* asset = study_.catalog().assetNamed(name)) {
            span.asset = asset->id;
            return Done{};
        }
        std::vector<std::string> known;
        for (const Asset& a : study_.catalog().assets()) known.push_back(a.name);
        const std::string near = nearestName(name, known);
        return Error{fmt::format("`{}` is no asset{}", name,
                                 near.empty() ? "" : fmt::format("; nearest is `{}`", near))};
    }

    Study& study_;
    const EventForm& form_;
    std::vector<std::string> header_;
    TimeReader times_;
};

std::string keyOf(const Span& s) {
    return fmt::format("{}|{}|{}|{}|{}", s.asset, s.tag, s.start, s.end, factsToJson(s.facts));
}

}  // namespace

const std::vector<std::string>& eventKinds() {
    static const std::vector<std::string> kinds = [] {
        std::vector<std::string> out;
        for (const EventForm& f : forms()) out.emplace_back(f.kind);
        return out;
    }();
    return kinds;
}

Result<ImportResult> importEvents(Study& study, const TextSource& source, const std::string& kind,
                                  const LayoutHints& hints) {
    const auto form =
        std::find_if(forms().begin(), forms().end(), [&](const EventForm& f) { return kind == f.kind; });
    if (form == forms().end())
        return Error{fmt::format("`{}` is no kind of table; {} are", kind, fmt::join(eventKinds(), ", "))};
    const auto head = readHead(source, 500);
    if (!head) return head.error();
    const auto zone = Zone::named(hints.zone.empty() ? study.setting("zone", "UTC") : hints.zone);
    if (!zone) return zone.error();
    std::vector<std::string_view> starts;
    for (std::size_t i = 0; i < head->header.size(); ++i)
        if (lowerCase(head->header[i]) == form->start)
            for (const auto& row : head->rows)
                if (i < row.size()) starts.push_back(row[i]);
    EventRows rows(study, *form, *head,
                   TimeReader(guessDateOrder(starts).value_or(DateOrder::YearFirst), *zone));
    if (const Status header = rows.checkHeader(source.name); !header) return header.error();

    ImportResult result;
    try {
        study.change(fmt::format("import {} from {}", kind, source.name), "", {{"bytes", source.text.size()}},
                     [&] {
                         const std::int64_t track = study.putTrack(form->track, form->kind);
                         std::set<std::string> known;
                         for (const Span& s : study.spans(track)) known.insert(keyOf(s));
                         ImportRecord record{
                             0, 0, source.name, form->kind, static_cast<std::int64_t>(source.text.size()),
                             0, 0, 0,           true};
                         result.import = record.id = study.beginImport(record);
                         RowReader reader(withoutMark(source.text), head->separator);
                         reader.next();
                         while (reader.next()) {
                             ++result.rows;
                             const auto span = rows.read(reader.fields());
                             if (!span) {
                                 ++result.badRowCount;
                                 const BadRow bad{reader.line(), span.error().message,
                                                  std::string(reader.raw().substr(0, 300))};
                                 if (result.badRows.size() < 100) result.badRows.push_back(bad);
                                 study.keepBadRow(record.id, bad);
                             } else if (known.insert(keyOf(*span)).second) {
                                 study.addSpan(track, *span);
                                 ++result.samples;
                             } else {
                                 ++result.unchanged;
                             }
                         }
                         record.rows = result.rows;
                         record.samples = result.samples;
                         record.badRows = result.badRowCount;
                         study.updateImport(record);
                     });
    } catch (const StoreError& e) {
        return Error{e.what()};
    }
    return result;
}

}  // namespace jacinth
