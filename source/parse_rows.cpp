#include "source/parse_rows.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <unordered_map>

#include "core/base/missing.h"
#include "core/base/utf8.h"
#include "core/series/text_value.h"
#include "store/imports.h"

namespace jacinth {
namespace {

constexpr std::size_t kLongestName = 400;
constexpr std::size_t kKeptOfRow = 300;

Result<Quality> readQuality(std::string_view text) {
    if (text == "good" || text.empty()) return Quality::Good;
    const std::string word = lowerCase(trimmed(text));
    if (word.empty() || word == "good") return Quality::Good;
    if (word == "uncertain") return Quality::Uncertain;
    if (word == "bad") return Quality::Bad;
    if (word == "missing") return Quality::Missing;
    // Numeric OPC quality: 192 and above good, 64 to 127 uncertain, below 64 bad.
    if (const auto code = readNumber(word, false); code && *code >= 0 && *code <= 255) {
        if (*code >= 192) return Quality::Good;
        if (*code >= 64 && *code < 128) return Quality::Uncertain;
        if (*code < 64) return Quality::Bad;
    }
    return Error{fmt::format("quality `{}` is not one of good, uncertain, bad, missing", text.substr(0, 40))};
}

/// `inf`, `-Infinity`, and numbers that no double holds: `1e400`.
bool isInfinite(std::string_view text) {
    double value = 0;
    if (text.size() > 1 && text.front() == '+') text.remove_prefix(1);
    const auto result = std::from_chars(text.data(), text.data() + text.size(), value);
    if (result.ptr != text.data() + text.size()) return false;
    return result.ec == std::errc::result_out_of_range || (result.ec == std::errc() && std::isinf(value));
}

/// A tag while a piece is read: what its values are is only known at the end of the piece.
struct OpenTag {
    TagBlock* tag = nullptr;
    std::unordered_map<std::string, std::uint32_t> places;  ///< of texts
    std::int64_t numbers = 0;
    /// Texts that are neither numbers nor mean “no value”: names of states, or slips.
    struct Odd {
        std::size_t sample = 0;
        std::uint32_t place = 0;
        std::int64_t line = 0;
        std::string raw;  ///< of the first ones
    };
    std::vector<Odd> odd;

    std::uint32_t placeOf(std::string_view text) {
        const auto [at, fresh] =
            places.try_emplace(std::string(text), static_cast<std::uint32_t>(tag->texts.size()));
        if (fresh) tag->texts.emplace_back(text);
        return at->second;
    }
};

/// Gathers samples by tag.
class GatherSink : public RowSink {
  public:
    GatherSink(ParsedRows& out, const TextLayout& layout, const std::string& asset, const KnownKinds& known)
        : out_(out),
          layout_(layout),
          asset_(asset),
          known_(known),
          byColumn_(layout.columns.size(), nullptr) {}

    void sample(int column, std::string_view tagName, Instant t, std::string_view value, Quality q) override {
        OpenTag* open = column >= 0 ? byColumn_[static_cast<std::size_t>(column)] : find(tagName);
        if (!open && !(open = this->open(column, tagName))) return;
        TagBlock& tag = *open->tag;
        if (value.empty() || q == Quality::Missing) {
            tag.series.push(t, kMissing, q == Quality::Missing ? q : Quality::Bad);
            return;
        }
        if (tag.kind == TagKind::State) {
            if (nameIsGood(value)) tag.series.push(t, open->placeOf(value), q);
            return;
        }
        if (const auto number = readNumber(value, layout_)) {
            tag.series.push(t, *number, q);
            ++open->numbers;
            return;
        }
        if (layout_.meansNoValue(value)) {
            tag.series.push(t, valueOfText(open->placeOf(value)), Quality::Bad);
            ++out_.noValue[std::string(value)];
            return;
        }
        if (isInfinite(value)) {
            ++open->numbers;
            return badCell(fmt::format("`{}` is not a finite number", asUtf8(value, 40)), tag.sourceName);
        }
        // Whether this is a slip or a state is decided when all values of the piece are known.
        if (!nameIsGood(value)) return;
        open->odd.push_back({tag.series.size(), open->placeOf(value), line,
                             open->odd.size() < KeptAside::kMost ? asUtf8(raw, kKeptOfRow) : std::string()});
        tag.series.push(t, valueOfText(open->odd.back().place), q);
    }

    /// The tag of a wide file's column; null where it cannot be one.
    OpenTag* tagOf(std::size_t column) {
        OpenTag* known = byColumn_[column];
        return known ? known : open(static_cast<int>(column), {});
    }

    /// Does any column hold states? Then no row is plain.
    bool anyStates() {
        for (std::size_t i = 0; i < layout_.columns.size(); ++i) {
            const LayoutColumn& c = layout_.columns[i];
            const auto known = known_.find(c.name.asset + "/" + c.name.tag);
            if (known != known_.end() ? known->second == TagKind::State : c.states) return true;
        }
        return false;
    }

    void badRow(std::string reason) override {
        ++out_.aside.rows;
        keep({line, std::move(reason), asUtf8(raw, kKeptOfRow), {}});
    }

    /// Says what each tag is that was not known, and sorts its odd texts: states, or slips.
    void finish() {
        for (const auto& open : open_) {
            TagBlock& tag = *open->tag;
            if (tag.known && tag.kind == TagKind::State) continue;
            const auto odd = static_cast<std::int64_t>(open->odd.size());
            if (!tag.known && (odd > 0 || open->numbers > 0))
                tag.kind = odd > open->numbers ? TagKind::State : TagKind::Continuous;
            if (tag.kind != TagKind::State) dropSlips(*open);
        }
        std::stable_sort(out_.aside.kept.begin(), out_.aside.kept.end(),
                         [](const BadRow& a, const BadRow& b) { return a.line < b.line; });
    }

    std::int64_t line = 0;
    std::string_view raw;
    std::size_t expectRows = 0;  ///< of a wide file: room for as many samples is made at once

  private:
    void keep(BadRow row) {
        if (out_.aside.kept.size() < KeptAside::kMost) out_.aside.kept.push_back(std::move(row));
    }

    bool nameIsGood(std::string_view value) {
        const char* wrong = value.size() > kLongestName ? "is too long to be the name of a state"
                            : !isUtf8(value)            ? "is not valid UTF-8; say the encoding"
                                                        : nullptr;
        if (wrong) badCell(fmt::format("`{}` {}", asUtf8(value, 60), wrong), "");
        return !wrong;
    }

    void badCell(std::string reason, const std::string& cell) {
        if (layout_.longForm) return badRow(std::move(reason));
        ++out_.aside.cells;
        keep({line, std::move(reason), asUtf8(raw, kKeptOfRow), cell});
    }

    void dropSlips(OpenTag& open) {
        if (open.odd.empty()) return;
        TagBlock& tag = *open.tag;
        Series rest;
        rest.reserve(tag.series.size());
        std::size_t next = 0;
        for (std::size_t i = 0; i < tag.series.size(); ++i) {
            if (next < open.odd.size() && open.odd[next].sample == i) {
                const OpenTag::Odd& odd = open.odd[next++];
                ++(layout_.longForm ? out_.aside.rows : out_.aside.cells);
                keep(
                    {odd.line,
                     fmt::format("`{}` for `{}` is not a number", asUtf8(tag.texts[odd.place], 40), tag.path),
                     odd.raw, layout_.longForm ? std::string() : tag.sourceName});
                continue;
            }
            rest.push(tag.series.times[i], tag.series.values[i], tag.series.view().qualityAt(i));
        }
        tag.series = std::move(rest);
    }

    OpenTag* find(std::string_view name) {
        if (lastTag_ && name == lastName_) return lastTag_;
        const auto found = byName_.find(std::string(name));
        if (found == byName_.end()) return nullptr;
        lastName_ = found->first;
        return lastTag_ = found->second;
    }

    OpenTag* open(int column, std::string_view tagName) {
        const LayoutColumn c = column >= 0
                                   ? layout_.columns[static_cast<std::size_t>(column)]
                                   : columnFromHeader(std::string(tagName), asset_, layout_.names.get());
        if (c.name.asset.empty() || c.name.tag.empty() || !isUtf8(tagName) || tagName.size() > kLongestName) {
            badRow(!isUtf8(tagName)
                       ? fmt::format("the tag `{}` is not valid UTF-8; say the encoding", asUtf8(tagName, 60))
                   : tagName.size() > kLongestName
                       ? fmt::format("`{}…` is too long to be the name of a tag", asUtf8(tagName, 60))
                   : !c.trouble.empty() ? c.trouble
                                        : fmt::format("tag `{}` names no asset; write it like `Asset/Tag`",
                                                      asUtf8(tagName, 60)));
            return nullptr;
        }
        const std::string path = c.name.asset + "/" + c.name.tag;
        // One tag in two units comes as two, each to be converted by itself.
        // So do two names that a mapping makes one, which is refused later.
        const std::string name = layout_.names ? nameAndUnit(c.header).first : std::string();
        OpenTag*& slot = byPath_[path + "\n" + c.name.unit + "\n" + name];
        if (!slot) {
            slot = open_.emplace_back(std::make_unique<OpenTag>()).get();
            slot->tag = out_.tags.emplace_back(std::make_unique<TagBlock>()).get();
            slot->tag->path = path;
            slot->tag->name = c.name;
            slot->tag->sourceName = c.header;
            if (column >= 0) slot->tag->series.reserve(expectRows);
            if (const auto known = known_.find(path); known != known_.end()) {
                slot->tag->kind = known->second;
                slot->tag->known = true;
            }
        }
        if (column >= 0)
            byColumn_[static_cast<std::size_t>(column)] = slot;
        else
            byName_[std::string(tagName)] = slot;
        return slot;
    }

    ParsedRows& out_;
    const TextLayout& layout_;
    const std::string& asset_;
    const KnownKinds& known_;
    std::vector<std::unique_ptr<OpenTag>> open_;
    std::vector<OpenTag*> byColumn_;
    std::unordered_map<std::string, OpenTag*> byName_, byPath_;
    std::string_view lastName_;
    OpenTag* lastTag_ = nullptr;
};

/// Rows of a wide file whose cells are plain numbers or empty, read in one walk over the text: what nearly
/// all rows of nearly all large files are. A row with anything else in it is left to the careful way. What
/// was read stands column by column, and goes to its tags with flush(), before any careful row does.
class PlainWideRows {
  public:
    PlainWideRows(const TextLayout& layout, GatherSink& sink)
        : layout_(layout), sink_(sink), cells_(layout.columns.size()), columns_(layout.columns.size()) {}

    void reserve(std::size_t rows) {
        times_.reserve(rows);
        for (Column& c : columns_) c.values.reserve(rows);
    }

    /// Takes the row at the start of `text`; how many bytes it has, 0 where it is not plain. `time` is called
    /// with the time's cell, once, and says none where it cannot be read.
    template <typename TimeOf>
    std::size_t take(std::string_view text, TimeOf timeOf) {
        const char* at = text.data();
        const char* const end = at + text.size();
        std::string_view time;
        std::size_t column = 0;
        for (; column < cells_.size(); ++column) {
            if (static_cast<int>(column) == layout_.timeColumn) {
                const char* start = at;
                while (at < end && *at != layout_.separator && *at != '\n' && *at != '"') ++at;
                time = {start, static_cast<std::size_t>(at - start)};
                cells_[column] = kMissing;
            } else if (!takeCell(at, end, cells_[column])) {
                return 0;
            }
            if (at == end) return 0;  // the last row of a text may be cut off
            if (*at != layout_.separator) break;
            ++at;
        }
        if (column + 1 != cells_.size()) return 0;
        if (*at == '\r' && at + 1 < end) ++at;
        if (*at != '\n') return 0;
        for (std::size_t i = 0; i < cells_.size(); ++i)
            if (!std::isnan(cells_[i]) && !columns_[i].tag && !(columns_[i].tag = sink_.tagOf(i))) return 0;
        const std::optional<Instant> t = timeOf(time);
        if (!t) return 0;
        times_.push_back(*t);
        for (std::size_t i = 0; i < cells_.size(); ++i) {
            Column& c = columns_[i];
            c.values.push_back(cells_[i]);
            c.there += !std::isnan(cells_[i]);
        }
        return static_cast<std::size_t>(at + 1 - text.data());
    }

    void flush() {
        for (Column& c : columns_) {
            if (c.there > 0) {
                Series& series = c.tag->tag->series;
                if (c.there == times_.size() && series.empty()) {
                    series.times.assign(times_.begin(), times_.end());
                    series.values.swap(c.values);
                } else if (c.there == times_.size()) {
                    series.append({times_, c.values, {}});
                } else {
                    for (std::size_t row = 0; row < times_.size(); ++row)
                        if (!std::isnan(c.values[row])) series.push(times_[row], c.values[row]);
                }
                c.tag->numbers += static_cast<std::int64_t>(c.there);
            }
            c.values.clear();
            c.there = 0;
        }
        times_.clear();
    }

  private:
    struct Column {
        OpenTag* tag = nullptr;
        std::vector<double> values;  ///< a row each; NaN for an empty cell
        std::size_t there = 0;       ///< how many are not empty
    };

    /// Digits with a point between them, fifteen at most, so that the quotient of two exact doubles is the
    /// nearest double (Clinger 1990).
    bool takeCell(const char*& at, const char* end, double& cell) const {
        static constexpr std::array<double, 16> kTens{1,   1e1, 1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                                      1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15};
        const bool minus = at < end && *at == '-';
        const char* p = at + minus;
        const char* const start = p;
        std::uint64_t digits = 0;
        while (p < end && static_cast<unsigned char>(*p - '0') < 10)
            digits = digits * 10 + static_cast<std::uint64_t>(*p++ - '0');
        std::ptrdiff_t count = p - start, decimals = 0;
        if (p < end && count > 0 && *p == (layout_.decimalComma ? ',' : '.')) {
            const char* const point = ++p;
            while (p < end && static_cast<unsigned char>(*p - '0') < 10)
                digits = digits * 10 + static_cast<std::uint64_t>(*p++ - '0');
            decimals = p - point;
            count += decimals;
        }
        cell = kMissing;
        if (count > 15 || (minus && count == 0)) return false;
        if (p < end && *p != layout_.separator && *p != '\n' && *p != '\r') return false;
        at = p;
        if (count == 0) return true;
        const double value = static_cast<double>(digits) / kTens[static_cast<std::size_t>(decimals)];
        cell = minus ? -value : value;
        return true;
    }

    const TextLayout& layout_;
    GatherSink& sink_;
    std::vector<double> cells_;  ///< of one row
    std::vector<Instant> times_;
    std::vector<Column> columns_;
};

}  // namespace

void RowInterpreter::read(const RowReader& row, RowSink& sink) {
    if (*row.trouble()) return sink.badRow(row.trouble());
    const std::vector<std::string_view>& fields = row.fields();
    if (fields.size() != layout_.columns.size())
        return sink.badRow(
            fmt::format("{} fields where the header has {}", fields.size(), layout_.columns.size()));
    std::string_view time = fields[static_cast<std::size_t>(layout_.timeColumn)];
    if (!layout_.timeInOneColumn()) {
        joined_ = layout_.joinedTime(fields);
        time = joined_;
    }
    const auto t = times_.read(time);
    if (!t) return sink.badRow(asUtf8(t.error().message, 300));
    if (layout_.longForm) return readLong(fields, *t, sink);
    for (std::size_t i = 0; i < fields.size(); ++i) {
        if (layout_.isOfTime(static_cast<int>(i))) continue;
        const std::string_view value = trimmed(fields[i]);
        if (!value.empty()) sink.sample(static_cast<int>(i), {}, *t, value, Quality::Good);
    }
}

void RowInterpreter::readLong(const std::vector<std::string_view>& fields, Instant t, RowSink& sink) {
    const std::string_view tag = trimmed(fields[static_cast<std::size_t>(layout_.tagColumn)]),
                           value = trimmed(fields[static_cast<std::size_t>(layout_.valueColumn)]);
    if (tag.empty()) return sink.badRow("no tag");
    Quality q = Quality::Good;
    if (layout_.qualityColumn >= 0) {
        const auto quality = readQuality(fields[static_cast<std::size_t>(layout_.qualityColumn)]);
        if (!quality) return sink.badRow(asUtf8(quality.error().message, 300));
        q = *quality;
    }
    if (value.empty() && q < Quality::Bad) return sink.badRow("no value");
    sink.sample(-1, tag, t, value, q);
}

ParsedRows parseRows(std::string_view text, const TextLayout& layout, const std::string& asset,
                     const KnownKinds& known, TimeReader times) {
    ParsedRows out;
    GatherSink sink(out, layout, asset, known);
    RowInterpreter interpreter(layout, std::move(times));
    PlainWideRows plain(layout, sink);
    const bool mayBePlain = !layout.longForm && layout.timeInOneColumn() && !sink.anyStates();
    const std::size_t firstEnd = text.find('\n');
    sink.expectRows = firstEnd == std::string_view::npos ? 1 : text.size() / (firstEnd + 1) + 1;
    if (mayBePlain) plain.reserve(sink.expectRows);
    while (!text.empty()) {
        const std::size_t taken =
            mayBePlain ? plain.take(text, [&](std::string_view t) { return interpreter.time(t); }) : 0;
        if (taken > 0) {
            ++out.rows;
            ++out.lines;
            text.remove_prefix(taken);
            continue;
        }
        plain.flush();
        RowReader row(text, layout.separator);
        if (row.next()) {
            ++out.rows;
            sink.line = out.lines + row.line();
            sink.raw = row.raw();
            interpreter.read(row, sink);
        }
        out.lines += row.linesRead();
        text.remove_prefix(row.position());
    }
    plain.flush();
    sink.finish();
    out.twice = interpreter.times().twice();
    out.last = interpreter.times().last();
    out.timesCarryZone = interpreter.times().sawOffset();
    return out;
}

}  // namespace jacinth
