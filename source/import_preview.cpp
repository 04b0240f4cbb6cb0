// What a file would give, before anything is stored.
#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/base/units.h"
#include "core/base/utf8.h"
#include "source/chunks.h"
#include "source/import_samples.h"
#include "source/parse_rows.h"

namespace jacinth {
namespace {

constexpr std::size_t kPreviewRows = 200;

class PreviewSink : public RowSink {
  public:
    PreviewSink(ImportPreview& out, const LayoutHints& hints, const Study* study)
        : out_(out), hints_(hints), study_(study) {}
    void sample(int column, std::string_view tagName, Instant t, std::string_view value, Quality) override {
        const LayoutColumn c =
            column >= 0 ? out_.layout.columns[static_cast<std::size_t>(column)]
                        : columnFromHeader(std::string(tagName), hints_.asset, out_.layout.names.get());
        if (!c.trouble.empty()) {
            out_.badRows.push_back({line, c.trouble, raw, {}});
            return;
        }
        if (column >= 0 && !c.states && !value.empty() && !readNumber(value, out_.layout)) {
            if (out_.layout.meansNoValue(value)) {
                ++out_.noValue[asUtf8(value, 60)];
            } else {
                out_.badRows.push_back(
                    {line, fmt::format("`{}` is not a number", asUtf8(value, 40)), raw, c.header});
                return;
            }
        }
        const std::string path = c.name.asset + "/" + c.name.tag;
        if (seen_.insert(c.header).second) out_.names.emplace_back(c.header, c.name);
        if (paths_.insert(path).second) {
            out_.tags.push_back(path);
            if (!c.states) compareUnit(path, c.name.unit);
        }
        if (!out_.firstTimes) out_.firstTimes = TimeRange{t, t};
        out_.firstTimes->from = std::min(out_.firstTimes->from, t);
        out_.firstTimes->to = std::max(out_.firstTimes->to, t);
    }
    void badRow(std::string reason) override { out_.badRows.push_back({line, std::move(reason), raw, {}}); }
    std::int64_t line = 0;
    std::string raw;

  private:
    void compareUnit(const std::string& path, const std::string& unit) {
        const Tag* tag = study_ ? study_->catalog().find(path) : nullptr;
        if (!tag || tag->kind == TagKind::State || tag->unit.empty() || unit.empty()) return;
        if (!isSameUnit(unit, tag->unit))
            out_.units.push_back({path, tag->unit, unit, unitConversion(unit, tag->unit).has_value()});
    }

    ImportPreview& out_;
    const LayoutHints& hints_;
    const Study* study_;
    std::set<std::string> seen_, paths_;  ///< names as written, and what they become
};

/// Rows of a small file are counted; the start of a larger one says about how many there are.
void countRows(const TextParts& parts, std::uint64_t bytes, ImportPreview& out) {
    const auto lines =
        std::count(parts.start.begin(), parts.start.end(), '\n') + (parts.start.back() != '\n');
    out.rowsEstimated = !parts.whole && !parts.coding.packed;
    out.rows = lines - 1 - parts.titleLines;
    if (out.rowsEstimated)
        out.rows = static_cast<std::int64_t>(static_cast<double>(lines) * static_cast<double>(bytes) /
                                             static_cast<double>(parts.start.size()));
}

}  // namespace

std::vector<std::string> rawNames(const ImportPreview& preview) {
    std::vector<std::string> out;
    for (const auto& [name, mapped] : preview.names) out.push_back(name);
    return out;
}

Result<ImportPreview> previewImport(const Study* study, const TextSource& source, const LayoutHints& hints) {
    const auto parts = partsOf(source, hints);
    if (!parts) return parts.error();
    auto layout = guessLayout(source.name, *parts, hints);
    if (!layout) return layout.error();
    const auto zone = zoneOfTimes(study, hints);
    if (!zone) return zone.error();
    ImportPreview out;
    out.name = source.name;
    out.packed = parts->coding.packed;
    out.bytes = static_cast<std::int64_t>(source.size());
    out.layout = *layout;
    out.zone = zone->name();
    countRows(*parts, source.size(), out);
    RowReader rows(parts->start, layout->separator);
    rows.next();
    out.header.assign(rows.fields().begin(), rows.fields().end());
    RowInterpreter interpreter(out.layout, TimeReader(layout->timeFormat, *zone));
    PreviewSink sink(out, hints, study);
    for (std::size_t i = 0; i < kPreviewRows && rows.next(); ++i) {
        sink.line = rows.line();
        sink.raw = asUtf8(rows.raw(), 300);
        if (out.firstRows.size() < 12) out.firstRows.emplace_back(rows.fields().begin(), rows.fields().end());
        interpreter.read(rows, sink);
    }
    for (auto& row : out.firstRows)
        for (std::string& cell : row) cell = asUtf8(cell, 300);
    out.timesCarryZone = interpreter.times().sawOffset();
    return out;
}

}  // namespace jacinth
