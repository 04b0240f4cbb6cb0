#include "source/parse_rows.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <limits>
#include <unordered_map>

namespace jacinth {
namespace {

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
    return Error{fmt::format("quality `{}` is none of good, uncertain, bad, missing", text.substr(0, 40))};
}

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
        ParsedTag* tag = column >= 0 ? byColumn_[static_cast<std::size_t>(column)] : find(tagName);
        const bool ends = q == Quality::Missing;  // carries no value
        const auto number = ends ? std::optional(std::numeric_limits<double>::quiet_NaN())
                            : tag && tag->kind == TagKind::State ? std::optional<double>()
                                                                 : readNumber(value, layout_.decimalComma);
        if (!tag && !(tag = open(column, tagName, number.has_value()))) return;
        if (tag->kind == TagKind::State && !ends)
            tag->series.push(t, stateCode(*tag, value), q);
        else if (number)
            tag->series.push(t, *number, q);
        else
            badRow(fmt::format("`{}` for `{}` is no number", value.substr(0, 40), tag->path));
    }

    /// The tag of a wide file's column, opened for a number.
    ParsedTag* numberTag(int column) {
        ParsedTag* known = byColumn_[static_cast<std::size_t>(column)];
        return known ? known : open(column, {}, true);
    }

    /// Does any column hold states? Then no row is plain.
    bool anyStates() {
        for (std::size_t i = 0; i < layout_.columns.size(); ++i) {
            const LayoutColumn& c = layout_.columns[i];
            const auto known = known_.find(c.asset + "/" + c.tag);
            if (c.states || (known != known_.end() && known->second == TagKind::State)) return true;
        }
        return false;
    }

    void badRow(std::string reason) override {
        out_.bad.push_back({line, std::move(reason), std::string(raw.substr(0, 300))});
    }

    std::int64_t line = 0;
    std::string_view raw;
    std::size_t expectRows = 0;  ///< of a wide file: room for as many samples is made at once

  private:
    ParsedTag* find(std::string_view name) {
        if (lastTag_ && name == lastName_) return lastTag_;
        const auto found = byName_.find(std::string(name));
        if (found == byName_.end()) return nullptr;
        lastName_ = found->first;
        return lastTag_ = found->second;
    }

    ParsedTag* open(int column, std::string_view tagName, bool isNumber) {
        const LayoutColumn c = column >= 0 ? layout_.columns[static_cast<std::size_t>(column)]
                                           : columnFromHeader(std::string(tagName), asset_);
        if (c.asset.empty() || c.tag.empty()) {
            badRow(fmt::format("tag `{}` names no asset; write it like `Kiln 3/Air-off temp`",
                               tagName.substr(0, 60)));
            return nullptr;
        }
        const std::string path = c.asset + "/" + c.tag;
        ParsedTag*& slot = byPath_[path];
        if (!slot) {
            slot = out_.tags.emplace_back(std::make_unique<ParsedTag>()).get();
            slot->path = path;
            slot->column = c;
            const bool states = column >= 0 ? c.states : !isNumber;
            const auto known = known_.find(path);
            if (column >= 0) slot->series.reserve(expectRows);
            slot->kind = known != known_.end() ? known->second
                         : states              ? TagKind::State
                                               : TagKind::Continuous;
        }
        if (column >= 0)
            byColumn_[static_cast<std::size_t>(column)] = slot;
        else
            byName_[std::string(tagName)] = slot;
        return slot;
    }

    static double stateCode(ParsedTag& tag, std::string_view name) {
        const auto found = std::find(tag.states.begin(), tag.states.end(), name);
        if (found != tag.states.end()) return static_cast<double>(found - tag.states.begin());
        tag.states.emplace_back(name);
        return static_cast<double>(tag.states.size() - 1);
    }

    ParsedRows& out_;
    const TextLayout& layout_;
    const std::string& asset_;
    const KnownKinds& known_;
    std::vector<ParsedTag*> byColumn_;
    std::unordered_map<std::string, ParsedTag*> byName_, byPath_;
    std::string_view lastName_;
    ParsedTag* lastTag_ = nullptr;
};

/// Rows of a wide file whose cells are plain numbers or empty, read in one walk over the text: what nearly
/// all rows of nearly all large files are. A row with anything else in it is left to the careful way.
class PlainWideRows {
  public:
    PlainWideRows(const TextLayout& layout, GatherSink& sink)
        : layout_(layout), sink_(sink), cells_(layout.columns.size()) {}

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
        const std::optional<Instant> t = timeOf(time);
        if (!t) return 0;
        for (std::size_t i = 0; i < cells_.size(); ++i)
            if (cells_[i].there && static_cast<int>(i) != layout_.timeColumn)
                if (ParsedTag* tag = sink_.numberTag(static_cast<int>(i)))
                    tag->series.push(*t, cells_[i].value);
        return static_cast<std::size_t>(at + 1 - text.data());
    }

  private:
    struct Cell {
        bool there = false;
        double value = 0;
    };

    /// Digits with a point between them, fifteen at most, so that the quotient of two exact doubles is the
    /// nearest double (Clinger 1990).
    bool takeCell(const char*& at, const char* end, Cell& cell) const {
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
        cell.there = count > 0;
        if (count > 15 || (minus && count == 0)) return false;
        if (p < end && *p != layout_.separator && *p != '\n' && *p != '\r') return false;
        const double value = static_cast<double>(digits) / kTens[static_cast<std::size_t>(decimals)];
        cell.value = minus ? -value : value;
        at = p;
        return true;
    }

    const TextLayout& layout_;
    GatherSink& sink_;
    std::vector<Cell> cells_;
};

}  // namespace

void RowInterpreter::read(const std::vector<std::string_view>& fields, RowSink& sink) {
    if (fields.size() != layout_.columns.size())
        return sink.badRow(
            fmt::format("{} fields where the header has {}", fields.size(), layout_.columns.size()));
    const auto t = times_.read(fields[static_cast<std::size_t>(layout_.timeColumn)]);
    if (!t) return sink.badRow(t.error().message);
    if (layout_.longForm) return readLong(fields, *t, sink);
    for (std::size_t i = 0; i < fields.size(); ++i) {
        if (static_cast<int>(i) == layout_.timeColumn) continue;
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
        if (!quality) return sink.badRow(quality.error().message);
        q = *quality;
    }
    if (value.empty() && q != Quality::Missing) return sink.badRow("no value");
    sink.sample(-1, tag, t, value, q);
}

ParsedRows parseRows(std::string_view text, const TextLayout& layout, const std::string& asset,
                     const KnownKinds& known, TimeReader times) {
    ParsedRows out;
    GatherSink sink(out, layout, asset, known);
    RowInterpreter interpreter(layout, std::move(times));
    PlainWideRows plain(layout, sink);
    const bool mayBePlain = !layout.longForm && !sink.anyStates();
    const std::size_t firstEnd = text.find('\n');
    sink.expectRows = firstEnd == std::string_view::npos ? 1 : text.size() / (firstEnd + 1) + 1;
    while (!text.empty()) {
        const std::size_t taken =
            mayBePlain ? plain.take(text, [&](std::string_view t) { return interpreter.time(t); }) : 0;
        if (taken > 0) {
            ++out.rows;
            ++out.lines;
            text.remove_prefix(taken);
            continue;
        }
        RowReader row(text, layout.separator);
        if (!row.next()) break;
        ++out.rows;
        sink.line = out.lines + row.line();
        sink.raw = row.raw();
        interpreter.read(row.fields(), sink);
        out.lines +=
            std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(row.position()), '\n');
        text.remove_prefix(row.position());
    }
    out.twice = interpreter.times().twice();
    out.last = interpreter.times().last();
    out.timesCarryZone = interpreter.times().sawOffset();
    return out;
}

}  // namespace jacinth
