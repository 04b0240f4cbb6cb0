#include "source/parse_rows.h"

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>

namespace jacinth {
namespace {

Result<Quality> readQuality(std::string_view text) {
    if (text == "good" || text.empty()) return Quality::Good;
    const std::string word = lowerCase(trimmed(text));
    if (word.empty() || word == "good") return Quality::Good;
    if (word == "uncertain") return Quality::Uncertain;
    if (word == "bad") return Quality::Bad;
    // Numeric OPC quality: 192 and above good, 64 to 127 uncertain, below 64 bad.
    if (const auto code = readNumber(word, false); code && *code >= 0 && *code <= 255) {
        if (*code >= 192) return Quality::Good;
        if (*code >= 64 && *code < 128) return Quality::Uncertain;
        if (*code < 64) return Quality::Bad;
    }
    return Error{fmt::format("quality `{}` is none of good, uncertain, bad", text.substr(0, 40))};
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
        const auto number = tag && tag->kind == TagKind::State ? std::optional<double>()
                                                               : readNumber(value, layout_.decimalComma);
        if (!tag && !(tag = open(column, tagName, number.has_value()))) return;
        if (tag->kind == TagKind::State)
            tag->series.push(t, stateCode(*tag, value), q);
        else if (number)
            tag->series.push(t, *number, q);
        else
            badRow(fmt::format("`{}` for `{}` is no number", value.substr(0, 40), tag->path));
    }

    void badRow(std::string reason) override {
        out_.bad.push_back({line, std::move(reason), std::string(raw.substr(0, 300))});
    }

    std::int64_t line = 0;
    std::string_view raw;

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
    if (value.empty()) return sink.badRow("no value");
    Quality q = Quality::Good;
    if (layout_.qualityColumn >= 0) {
        const auto quality = readQuality(fields[static_cast<std::size_t>(layout_.qualityColumn)]);
        if (!quality) return sink.badRow(quality.error().message);
        q = *quality;
    }
    sink.sample(-1, tag, t, value, q);
}

ParsedRows parseRows(std::string_view text, std::int64_t firstLine, const TextLayout& layout,
                     const std::string& asset, const KnownKinds& known, TimeReader times) {
    ParsedRows out;
    GatherSink sink(out, layout, asset, known);
    RowInterpreter interpreter(layout, std::move(times));
    RowReader rows(text, layout.separator);
    while (rows.next()) {
        ++out.rows;
        sink.line = firstLine + rows.line() - 1;
        sink.raw = rows.raw();
        interpreter.read(rows.fields(), sink);
    }
    out.twice = interpreter.times().twice();
    out.last = interpreter.times().last();
    out.timesCarryZone = interpreter.times().sawOffset();
    return out;
}

}  // namespace jacinth
