// Labels from a file: rows of a table or an array in JSON, each checked before any comes in.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>
#include <tuple>

#include "core/base/parse_json.h"
#include "core/base/text.h"
#include "source/encoding.h"
#include "source/row_reader.h"
#include "source/time_reader.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/label/kinds.h"
#include "work/label/label_files.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

using nlohmann::json;

constexpr std::size_t kLongestShown = 300;

/// A label as the file has it, before anything is known of it.
struct Given {
    std::int64_t line = 0;
    std::string text;  ///< the row
    std::string asset, start, end, kind, certainty, note, by, from, meaning, trouble;
    std::vector<std::string> tags;
    bool normal = false;
    Facts facts;
};

std::string shortened(std::string text) {
    text = onOneLine(std::move(text));
    return text.size() > kLongestShown ? text.substr(0, kLongestShown) + "…" : text;
}

std::vector<std::string> listed(std::string_view text) {
    std::vector<std::string> out;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(';'), text.size());
        if (const auto part = trimmed(text.substr(0, end)); !part.empty()) out.emplace_back(part);
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    return out;
}

/// The columns that have a meaning, and where each of them goes; others are facts.
const std::map<std::string, std::string Given::*>& textColumns() {
    static const std::map<std::string, std::string Given::*> columns{
        {"asset", &Given::asset}, {"start", &Given::start},         {"end", &Given::end},
        {"kind", &Given::kind},   {"certainty", &Given::certainty}, {"note", &Given::note},
        {"by", &Given::by},       {"from", &Given::from},           {"meaning", &Given::meaning}};
    return columns;
}

bool isOurs(const std::string& column) {
    return textColumns().contains(column) || column == "tags" || column == "tag" || column == "normal";
}

/// A column of facts whose name has another meaning in a table is called `fact:NAME` there.
std::string factOfColumn(const std::string& column) {
    const std::string_view prefix = kFactColumn;
    return column.starts_with(prefix) ? column.substr(prefix.size()) : column;
}

/// Blanks and numbers: in a table what stands in quotes is a text as it is; else blanks around it do not
/// count, and what looks like a number is one.
struct Field {
    std::string text;
    bool exact = false;
};

Field fieldOf(const RowReader& rows, std::size_t i) {
    const std::string_view field = rows.fields()[i];
    const bool exact = rows.isQuoted(i);
    return {withoutGuard(exact ? field : trimmed(field)), exact};
}

void takeField(Given& given, const std::string& column, const Field& field) {
    const std::string& text = field.text;
    if (const auto known = textColumns().find(column); known != textColumns().end()) {
        given.*known->second = text;
    } else if (column == "tags" || column == "tag") {
        given.tags = listed(text);
    } else if (column == "normal") {
        given.normal = lowerCase(trimmed(text)) == "yes";
    } else if (!text.empty()) {
        const std::string name = factOfColumn(column);
        if (!field.exact && looksLikeNumber(text))
            given.facts[name] = *finiteNumber(text);
        else
            given.facts[name] = text;
    }
}

/// `,`, `;` or tab: what the first line has most of.
char separatorOf(std::string_view text) {
    const std::string_view head = text.substr(0, text.find('\n'));
    return *std::max_element(std::begin(",;\t"), std::end(",;\t") - 1, [&](char a, char b) {
        return std::ranges::count(head, a) < std::ranges::count(head, b);
    });
}

std::vector<std::string> headerOf(const RowReader& rows, const std::map<std::string, std::string>& columns) {
    std::vector<std::string> header;
    for (const std::string_view h : rows.fields()) {
        const std::string name(trimmed(h));
        const auto mapped = columns.find(name);
        const std::string meant = mapped != columns.end() ? mapped->second : name;
        header.push_back(isOurs(lowerCase(meant)) ? lowerCase(meant) : meant);
    }
    return header;
}

Result<std::vector<Given>> fromTable(std::string_view text,
                                     const std::map<std::string, std::string>& columns) {
    RowReader rows(text, separatorOf(text), Quotes::OverLines);
    if (!rows.next()) return Error{"the file is empty"};
    const std::vector<std::string> header = headerOf(rows, columns);
    std::vector<Given> out;
    while (rows.next()) {
        Given& given = out.emplace_back();
        given.line = rows.line();
        given.text = shortened(std::string(rows.raw()));
        if (*rows.trouble())
            given.trouble = rows.trouble();
        else if (rows.fields().size() != header.size())
            given.trouble =
                fmt::format("{} fields where the header has {}", rows.fields().size(), header.size());
        else
            for (std::size_t i = 0; i < header.size(); ++i) takeField(given, header[i], fieldOf(rows, i));
    }
    return out;
}

/// Fails where a column that is needed is not there.
Status checkColumns(std::string_view text, const std::map<std::string, std::string>& columns) {
    RowReader rows(text, separatorOf(text), Quotes::OverLines);
    if (!rows.next()) return Error{"the file is empty"};
    const std::vector<std::string> header = headerOf(rows, columns);
    for (const char* needed : {"asset", "start", "end"})
        if (std::ranges::count(header, needed) == 0)
            return Error{shortened(
                fmt::format("the table has no column `{}`; it has {}", needed, fmt::join(header, ", ")))};
    return Done{};
}

bool isJson(std::string_view text) {
    const std::string_view begin = trimmed(text);
    return begin.starts_with('{') || begin.starts_with('[');
}

void takeTags(Given& given, const json& tags) {
    for (const json& tag : tags) {
        if (tag.is_string())
            given.tags.push_back(tag.get<std::string>());
        else
            given.trouble = "a tag in `tags` is not a text";
    }
}

Given fromObject(const json& j, std::int64_t line) {
    Given given;
    given.line = line;
    given.text = shortened(j.dump(-1, ' ', false, json::error_handler_t::replace));
    if (!j.is_object()) {
        given.trouble = "it is not an object";
        return given;
    }
    for (const auto& [name, value] : j.items()) {
        if (name == "id" || value.is_null()) continue;
        const bool isText = textColumns().contains(name);
        if (value.is_string())
            takeField(given, name, {value.get<std::string>(), true});
        else if (isText || (name == "tags" && !value.is_array()) || (name == "facts" && !value.is_object()))
            given.trouble = fmt::format("`{}` is not {}", name,
                                        isText           ? "a text"
                                        : name == "tags" ? "a list"
                                                         : "an object");
        else if (name == "tags")
            takeTags(given, value);
        else if (name == "facts")
            given.facts.merge(factsFromJson(value.dump()));
        else if (value.is_number())
            given.facts[name] = value.get<double>();
    }
    return given;
}

/// The time that labels take up, asked in time that grows with the logarithm of their number.
class TakenTime {
  public:
    void add(TimeRange range) {
        whole_.insert({range.from, range.to});
        // Joined with what it overlaps, so that one neighbour on either side is enough to look at.
        auto first = joined_.upper_bound(range.from);
        if (first != joined_.begin() && std::prev(first)->second > range.from) --first;
        auto last = first;
        for (; last != joined_.end() && last->first < range.to; ++last) {
            range.from = std::min(range.from, last->first);
            range.to = std::max(range.to, last->second);
        }
        joined_.erase(first, last);
        joined_[range.from] = range.to;
    }
    bool has(TimeRange range) const { return whole_.contains({range.from, range.to}); }
    /// Where the time that the range overlaps begins; none where it is free.
    std::optional<Instant> overlapping(TimeRange range) const {
        auto next = joined_.lower_bound(range.to);
        if (next == joined_.begin()) return {};
        --next;
        return next->second > range.from ? std::optional(next->first) : std::nullopt;
    }

  private:
    std::set<std::pair<Instant, Instant>> whole_;
    std::map<Instant, Instant> joined_;  ///< from start to end, without overlap
};

class Importer {
  public:
    Importer(Study& study, const LabelImportSpec& spec) : study_(study), spec_(spec) {
        book_ = study.judgement().labelBook();
        factKinds_ = study.judgement().factKinds();
        sampled_ = study.sampled();
        for (const Span& s : labelsOf(study)) taken_[sameOf(s)].add(s.range());
    }

    Status addBookOf(const json& file) {
        if ((!spec_.addKinds && spec_.newKinds.empty()) || !file.is_object() || !file.contains("book"))
            return Done{};
        const auto theirs = readBook(file["book"].dump());
        if (!theirs) return theirs.error();
        for (const LabelKind& kind : *theirs) described_[kind.name] = kind;
        return Done{};
    }

    Status readTimesOf(const std::vector<Given>& all) {
        TimeFormEvidence seen;
        for (const Given& g : all)
            for (const std::string& t : {g.start, g.end})
                if (!t.empty()) seen.add(t, g.line);
        if (!spec_.timeFormat.empty()) {
            const auto format = timeFormatNamed(spec_.timeFormat);
            if (!format) return format.error();
            format_ = *format;
            return Done{};
        }
        if (const auto contradiction = seen.contradiction()) return Error{*contradiction};
        if (seen.ambiguous())
            return Error{fmt::format("{} can be read day first or month first: say which", seen.example())};
        format_ = seen.form().value_or(TimeFormat{});
        return Done{};
    }

    void take(const Given& given) {
        auto span = read(given);
        if (!span) return aside(given, span.error().message);
        TakenTime& there = taken_[sameOf(*span)];
        if (there.has(span->range())) {
            ++result_.known;
            return;
        }
        if (const auto other = there.overlapping(span->range()))
            return aside(given, fmt::format("it overlaps another of the same kind, author and tags, from {}",
                                            study_.zone().preciseText(*other)));
        there.add(span->range());
        spans_.push_back(std::move(*span));
    }

    LabelImport finish() {
        result_.added = spans_.size();
        if (spans_.empty() && result_.newKinds.empty()) return std::move(result_);
        study_.change(fmt::format("import {} labels", spans_.size()), "",
                      {{"labels", spans_.size()},
                       {"known", result_.known},
                       {"kept aside", result_.aside.size()},
                       {"new kinds", result_.newKinds}},
                      [&] {
                          if (!result_.newKinds.empty()) study_.judgement().setLabelBook(book_);
                          const TrackId to = labelTrack(study_);
                          for (const Span& s : spans_) study_.tracks().addSpan(to, s);
                      });
        return std::move(result_);
    }

  private:
    /// What makes two labels say the same, but for when.
    using Same = std::tuple<AssetId, std::set<TagId>, std::string, std::string>;
    static Same sameOf(const Span& s) {
        const std::vector<TagId> tags = tagsOf(s);
        return {s.asset, std::set<TagId>(tags.begin(), tags.end()), factText(s.facts, label_fact::kKind),
                factText(s.facts, label_fact::kBy)};
    }

    void aside(const Given& given, const std::string& why) {
        result_.aside.push_back({given.line, why, given.text});
    }

    Result<Span> read(const Given& given) {
        if (!given.trouble.empty()) return Error{given.trouble};
        Span span;
        if (const Status where = readPlace(given, span); !where) return where.error();
        if (const Status when = readTimes(given, span); !when) return when.error();
        if (const Status own = checkFacts(given); !own) return own.error();
        span.facts = given.facts;
        for (const FactKind& kind : factKinds_)
            if (const auto fact = span.facts.find(kind.name);
                fact != span.facts.end() && kind.type == FactType::Text)
                fact->second = factText(fact->second);
        const auto kind = kindFor(given);
        if (!kind) return kind.error();
        const auto put = [&](const char* name, const std::string& text) {
            if (!text.empty()) span.facts[name] = text;
        };
        put(label_fact::kKind, *kind);
        put(label_fact::kNote, given.note);
        put(label_fact::kFrom, given.from);
        put(label_fact::kBy, !given.by.empty() ? given.by : !spec_.by.empty() ? spec_.by : study_.who());
        const std::string certainty = lowerCase(given.certainty);
        if (!certainty.empty() && std::ranges::count(kCertainties, certainty) == 0)
            return Error{fmt::format("`{}` is not a certainty; these are: {}", given.certainty,
                                     fmt::join(kCertainties, ", "))};
        if (certainty != kCertainties[0]) put(label_fact::kCertainty, certainty);
        return span;
    }

    /// What Jacinth itself says of a label is not a fact of the site's: it would go round the label book.
    static Status checkFacts(const Given& given) {
        for (const char* own : {label_fact::kKind, label_fact::kCertainty, label_fact::kNote, label_fact::kBy,
                                label_fact::kFrom, label_fact::kFromSpan})
            if (given.facts.contains(own))
                return Error{fmt::format("a fact cannot be called `{}`, which is a field of the label", own)};
        return Done{};
    }

    Status readPlace(const Given& given, Span& span) {
        const auto asset = study_.catalog().assetCalled(given.asset);
        if (!asset) return given.asset.empty() ? Error{"it names no asset"} : asset.error();
        span.asset = asset->id;
        std::vector<TagId> tags;
        for (const std::string& name : given.tags) {
            const auto tag =
                study_.catalog().tagAt(name.find('/') == std::string::npos ? asset->name + "/" + name : name);
            if (!tag) return tag.error();
            if (tag->asset != asset->id) return Error{fmt::format("{} is not on {}", name, asset->name)};
            tags.push_back(tag->id);
        }
        setTags(span, tags);
        return Done{};
    }

    Status readTimes(const Given& given, Span& span) {
        TimeReader times(format_, study_.zone());
        for (const auto& [text, to, what] :
             {std::tuple(given.start, &span.start, "start"), std::tuple(given.end, &span.end, "end")}) {
            if (text.empty()) return Error{fmt::format("it has no {}", what)};
            const auto t = times.read(text);
            if (!t) return t.error();
            *to = *t;
        }
        if (span.end == span.start) return Error{"it has no length"};
        if (span.end < span.start) return Error{"it ends before it starts"};
        return checkInRecord(study_, sampled_, span.range());
    }

    Result<std::string> kindFor(const Given& given) {
        const auto mapped = spec_.kinds.find(given.kind);
        const std::string kind = mapped != spec_.kinds.end() ? mapped->second : given.kind;
        if (kind.empty() || findKind(book_, kind)) return kind;
        if (!spec_.addKinds && !spec_.newKinds.contains(kind))
            return Error{
                fmt::format("kind `{}` is not in the label book: say which of its kinds it is", kind)};
        const auto described = described_.find(kind);
        LabelKind fresh = described != described_.end()
                              ? described->second
                              : LabelKind{kind, given.meaning, freeColour(book_), 0, given.normal, {}};
        if (!fresh.parent.empty() && !findKind(book_, fresh.parent)) fresh.parent.clear();
        for (const LabelKind& k : book_)
            if (k.key == fresh.key) fresh.key = 0;
        if (!fresh.key) fresh.key = freeKey(book_, kind);
        if (const Status good = checkName(kind, "a kind of label"); !good) return good.error();
        book_.push_back(fresh);
        result_.newKinds.push_back(kind);
        return kind;
    }

    Study& study_;
    const LabelImportSpec& spec_;
    LabelBook book_;
    std::vector<FactKind> factKinds_;
    std::map<std::string, LabelKind> described_;
    std::map<Same, TakenTime> taken_;
    TimeFormat format_;
    std::optional<TimeRange> sampled_;
    std::vector<Span> spans_;
    LabelImport result_;
};

/// Every label of the text, however it is written.
Result<std::vector<Given>> givenIn(std::string_view text, const std::map<std::string, std::string>& columns) {
    if (!isJson(text)) return fromTable(text, columns);
    const json file = parseJson(text);
    const json& labels = file.is_object() && file.contains("labels") ? file["labels"] : file;
    if (!labels.is_array()) return Error{"this is not a list of labels in JSON"};
    std::vector<Given> all;
    for (const json& j : labels) all.push_back(fromObject(j, static_cast<std::int64_t>(all.size()) + 1));
    return all;
}

}  // namespace

Result<LabelFileLook> lookAtLabels(std::string_view file, const std::map<std::string, std::string>& columns) {
    const std::string text = decoded(file);
    LabelFileLook look;
    if (!isJson(text)) {
        RowReader rows(text, separatorOf(text), Quotes::OverLines);
        if (!rows.next()) return Error{"the file is empty"};
        for (const std::string_view h : rows.fields()) look.columns.emplace_back(trimmed(h));
    }
    const auto all = givenIn(text, columns);
    if (!all) return all.error();
    look.labels = all->size();
    for (const Given& given : *all)
        if (given.trouble.empty()) ++look.kinds[given.kind];
    return look;
}

Result<LabelImport> importLabels(Study& study, std::string_view file, const LabelImportSpec& spec) {
    const std::string text = decoded(file);
    for (const auto& [theirs, ours] : spec.kinds)
        if (!ours.empty() && !findKind(study.judgement().labelBook(), ours) && !spec.addKinds)
            return Error{fmt::format("`{}` is to become `{}`, which is not in the label book", theirs, ours)};
    if (const Status good = isJson(text) ? Status(Done{}) : checkColumns(text, spec.columns); !good)
        return good.error();
    Importer importer(study, spec);
    const auto all = givenIn(text, spec.columns);
    if (!all) return all.error();
    if (isJson(text))
        if (const Status book = importer.addBookOf(parseJson(text)); !book) return book.error();
    if (const Status times = importer.readTimesOf(*all); !times) return times.error();
    for (const Given& given : *all) importer.take(given);
    return importer.finish();
}

}  // namespace jacinth
