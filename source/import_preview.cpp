// What a file would give, before anything is stored.
#include <fmt/format.h>
#include <algorithm>

#include "source/chunks.h"
#include "source/import_samples.h"
#include "source/parse_rows.h"

namespace jacinth {
namespace {

constexpr std::size_t kPreviewRows = 200;
constexpr std::size_t kHeadBytes = 4 << 20;
constexpr std::size_t kCountedBytes = 16 << 20;

class PreviewSink : public RowSink {
  public:
    PreviewSink(ImportPreview& out, const LayoutHints& hints) : out_(out), hints_(hints) {}
    void sample(int column, std::string_view tagName, Instant t, std::string_view value, Quality) override {
        const LayoutColumn c = column >= 0 ? out_.layout.columns[static_cast<std::size_t>(column)]
                                           : columnFromHeader(std::string(tagName), hints_.asset);
        if (column >= 0 && !c.states && !readNumber(value, out_.layout.decimalComma))
            return badRow(fmt::format("`{}` in `{}` is no number", value.substr(0, 40), c.header));
        const std::string path = c.asset + "/" + c.tag;
        if (std::find(out_.tags.begin(), out_.tags.end(), path) == out_.tags.end()) out_.tags.push_back(path);
        if (!out_.firstTimes) out_.firstTimes = TimeRange{t, t};
        out_.firstTimes->from = std::min(out_.firstTimes->from, t);
        out_.firstTimes->to = std::max(out_.firstTimes->to, t);
    }
    void badRow(std::string reason) override { out_.badRows.push_back({line, std::move(reason), raw}); }
    std::int64_t line = 0;
    std::string raw;

  private:
    ImportPreview& out_;
    const LayoutHints& hints_;
};

/// Counting the line ends of a very large file would take seconds: its first rows say about how many there
/// are.
void countRows(std::string_view body, ImportPreview& out) {
    const std::string_view part = body.substr(0, kCountedBytes);
    const auto lines = std::count(part.begin(), part.end(), '\n');
    out.rowsEstimated = body.size() > part.size();
    if (out.rowsEstimated)
        out.rows = static_cast<std::int64_t>(static_cast<double>(lines) * static_cast<double>(body.size()) /
                                             static_cast<double>(part.size()));
    else
        out.rows = lines - (body.back() == '\n' ? 1 : 0);
}

}  // namespace

Result<TextHeadSource> headOf(const TextSource& source) {
    TextHeadSource out;
    if (!isGzip(source.text)) {
        out.text = withoutMark(source.text);
        return out;
    }
    out.packed = true;
    Gunzip in(source.text);
    out.held = std::make_shared<std::string>();
    const auto got = in.read(*out.held, kHeadBytes);
    if (!got) return Error{fmt::format("{}: {}", source.name, got.error().message)};
    out.text = withoutMark(*out.held);
    // All but the last row, which may go on beyond what was unpacked.
    if (*got == kHeadBytes) out.text = out.text.substr(0, out.text.rfind('\n') + 1);
    return out;
}

Result<ImportPreview> previewImport(const Study* study, const TextSource& source, const LayoutHints& hints) {
    const auto head = headOf(source);
    if (!head) return head.error();
    auto layout = guessLayout({source.name, head->text}, hints);
    if (!layout) return layout.error();
    const auto zone = zoneOfTimes(study, hints);
    if (!zone) return zone.error();
    ImportPreview out;
    out.name = source.name;
    out.packed = head->packed;
    out.bytes = static_cast<std::int64_t>(source.text.size());
    out.layout = *layout;
    out.zone = zone->name();
    const std::string_view body = head->text;
    countRows(body, out);
    RowReader rows(body, layout->separator);
    rows.next();
    out.header.assign(rows.fields().begin(), rows.fields().end());
    RowInterpreter interpreter(out.layout, TimeReader(layout->dateOrder, *zone));
    PreviewSink sink(out, hints);
    for (std::size_t i = 0; i < kPreviewRows && rows.next(); ++i) {
        sink.line = rows.line();
        sink.raw = rows.raw();
        if (out.firstRows.size() < 12) out.firstRows.emplace_back(rows.fields().begin(), rows.fields().end());
        interpreter.read(rows.fields(), sink);
    }
    out.timesCarryZone = interpreter.times().sawOffset();
    return out;
}

}  // namespace jacinth
