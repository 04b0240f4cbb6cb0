#include "source/import_samples.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <unordered_map>

namespace jacinth {
namespace {

constexpr std::size_t kBatchSamples = 2'000'000;  // held in memory between two commits: about 32 MB
constexpr std::size_t kPreviewRows = 200;
constexpr std::size_t kListedBadRows = 100;

std::string zoneName(const Study* study, const LayoutHints& hints) {
    if (!hints.zone.empty()) return hints.zone;
    return study ? study->setting("zone", "UTC") : "UTC";
}

Result<Quality> readQuality(std::string_view text) {
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

/// Where a row's fields go. Shared by preview (which stores nothing) and import.
class RowSink {
  public:
    virtual ~RowSink() = default;
    virtual void sample(int column, std::string_view tagName, Instant t, std::string_view value,
                        Quality q) = 0;
    virtual void badRow(std::string reason) = 0;
};

/// Reads the rows of a file in its layout and hands on what they say.
class RowInterpreter {
  public:
    RowInterpreter(const TextLayout& layout, TimeReader times) : layout_(layout), times_(std::move(times)) {}

    void read(const std::vector<std::string_view>& fields, RowSink& sink) {
        if (fields.size() != layout_.columns.size())
            return sink.badRow(
                fmt::format("{} fields where the header has {}", fields.size(), layout_.columns.size()));
        const auto t = times_.read(fields[layout_.timeColumn]);
        if (!t) return sink.badRow(t.error().message);
        if (layout_.longForm) return readLong(fields, *t, sink);
        for (std::size_t i = 0; i < fields.size(); ++i) {
            if (static_cast<int>(i) == layout_.timeColumn) continue;
            const std::string_view value = trimmed(fields[i]);
            if (!value.empty()) sink.sample(static_cast<int>(i), {}, *t, value, Quality::Good);
        }
    }
    const TimeReader& times() const { return times_; }

  private:
    void readLong(const std::vector<std::string_view>& fields, Instant t, RowSink& sink) {
        const std::string_view tag = trimmed(fields[layout_.tagColumn]),
                               value = trimmed(fields[layout_.valueColumn]);
        if (tag.empty()) return sink.badRow("no tag");
        if (value.empty()) return sink.badRow("no value");
        Quality q = Quality::Good;
        if (layout_.qualityColumn >= 0) {
            const auto quality = readQuality(fields[layout_.qualityColumn]);
            if (!quality) return sink.badRow(quality.error().message);
            q = *quality;
        }
        sink.sample(-1, tag, t, value, q);
    }
    const TextLayout& layout_;
    TimeReader times_;
};

class PreviewSink : public RowSink {
  public:
    PreviewSink(ImportPreview& out, const LayoutHints& hints) : out_(out), hints_(hints) {}
    void sample(int column, std::string_view tagName, Instant t, std::string_view value, Quality) override {
        const LayoutColumn c =
            column >= 0 ? out_.layout.columns[column] : columnFromHeader(std::string(tagName), hints_.asset);
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

/// Gathers samples by tag and stores them batch by batch.
class StudySink : public RowSink {
  public:
    StudySink(Study& study, const TextSource& source, const TextLayout& layout, const LayoutHints& hints,
              ImportResult& result)
        : study_(study),
          layout_(layout),
          hints_(hints),
          result_(result),
          byColumn_(layout.columns.size(), nullptr) {
        record_.file = source.name;
        record_.kind = layout.longForm ? "long" : "wide";
        record_.bytes = static_cast<std::int64_t>(source.text.size());
    }

    void sample(int column, std::string_view tagName, Instant t, std::string_view value, Quality q) override {
        Target* target = column >= 0 ? byColumn_[column] : find(tagName);
        const auto number = readNumber(value, layout_.decimalComma);
        if (!target) {
            const LayoutColumn c =
                column >= 0 ? layout_.columns[column] : columnFromHeader(std::string(tagName), hints_.asset);
            if (c.asset.empty() || c.tag.empty())
                return badRow(fmt::format("tag `{}` names no asset; write it like `Kiln 3/Air-off temp`",
                                          tagName.substr(0, 60)));
            target = open(c, column >= 0 ? c.states : !number.has_value());
            if (column >= 0)
                byColumn_[column] = target;
            else
                byName_[std::string(tagName)] = target;
        }
        if (target->kind == TagKind::State) {
            target->series.push(t, stateCode(*target, value), q);
        } else if (number) {
            target->series.push(t, *number, q);
        } else {
            return badRow(fmt::format("`{}` for `{}` is no number", value.substr(0, 40), target->path));
        }
        ++waiting_;
    }

    void badRow(std::string reason) override {
        ++result_.badRowCount;
        BadRow row{line, std::move(reason), std::string(raw.substr(0, 300))};
        if (result_.badRows.size() < kListedBadRows) result_.badRows.push_back(row);
        bad_.push_back(std::move(row));
    }

    bool full() const { return waiting_ >= kBatchSamples; }

    void commit(bool complete) {
        Transaction transaction(study_.database());
        if (record_.id == 0) result_.import = record_.id = study_.beginImport(record_);
        for (Target* target : order_) store(*target);
        for (const BadRow& row : bad_) study_.keepBadRow(record_.id, row);
        bad_.clear();
        record_.rows = result_.rows;
        record_.samples = result_.samples;
        record_.badRows = result_.badRowCount;
        record_.complete = complete;
        study_.updateImport(record_);
        if (complete)
            study_.enterInLedger("import " + record_.file, "",
                                 {{"rows", result_.rows},
                                  {"samples", result_.samples},
                                  {"replaced", result_.replaced},
                                  {"badRows", result_.badRowCount}});
        transaction.commit();
        waiting_ = 0;
    }

    void listTags() {
        for (const Target* target : order_) result_.tags.push_back(target->path);
    }
    std::int64_t line = 0;
    std::string_view raw;

  private:
    struct Target {
        std::string path;
        LayoutColumn column;
        std::int64_t tag = 0;  ///< 0 until it is first stored
        TagKind kind = TagKind::Continuous;
        Series series;
        std::vector<std::string> states;  ///< in order of first sight, this import
        std::vector<int> codes;           ///< the study's code of each
    };

    Target* find(std::string_view name) {
        if (lastTarget_ && name == lastName_) return lastTarget_;
        const auto found = byName_.find(std::string(name));
        if (found == byName_.end()) return nullptr;
        lastName_ = found->first;
        return lastTarget_ = found->second;
    }

    Target* open(const LayoutColumn& c, bool states) {
        const std::string path = c.asset + "/" + c.tag;
        auto& slot = targets_[path];
        if (!slot) {
            slot = std::make_unique<Target>();
            order_.push_back(slot.get());
            slot->path = path;
            slot->column = c;
            slot->kind = states ? TagKind::State : TagKind::Continuous;
            if (const auto known = study_.catalog().tagAt(path)) slot->kind = known->kind;
        }
        return slot.get();
    }

    static double stateCode(Target& target, std::string_view name) {
        const auto found = std::find(target.states.begin(), target.states.end(), name);
        if (found != target.states.end()) return static_cast<double>(found - target.states.begin());
        target.states.emplace_back(name);
        return static_cast<double>(target.states.size() - 1);
    }

    void store(Target& target) {
        if (target.series.empty()) return;
        Catalog& catalog = study_.catalog();
        if (target.tag == 0) {
            const auto known = catalog.tagAt(target.path);
            target.tag = known ? known->id
                               : catalog.addTag(catalog.addAsset(target.column.asset), target.column.tag,
                                                target.column.unit, target.kind);
            // A unit that an earlier file did not say is taken from this one.
            if (known && known->unit.empty() && !target.column.unit.empty()) {
                Tag tag = *known;
                tag.unit = target.column.unit;
                catalog.updateTag(tag);
            }
        }
        if (target.kind == TagKind::State) {
            while (target.codes.size() < target.states.size())
                target.codes.push_back(catalog.addState(target.tag, target.states[target.codes.size()]));
            for (double& v : target.series.values) v = target.codes[static_cast<std::size_t>(v)];
        }
        const WriteCount count = study_.samples().write(target.tag, std::move(target.series));
        target.series = {};
        result_.samples += count.added;
        result_.replaced += count.replaced;
        result_.unchanged += count.unchanged;
        catalog.setSpacing(target.tag, study_.samples().spacing(target.tag));
    }

    Study& study_;
    const TextLayout& layout_;
    const LayoutHints& hints_;
    ImportResult& result_;
    ImportRecord record_;
    std::map<std::string, std::unique_ptr<Target>> targets_;
    std::vector<Target*> order_;  ///< of first sight, so that new tags stand in the order of the file
    std::vector<Target*> byColumn_;
    std::unordered_map<std::string, Target*> byName_;
    std::string_view lastName_;
    Target* lastTarget_ = nullptr;
    std::vector<BadRow> bad_;
    std::size_t waiting_ = 0;
};

}  // namespace

Result<ImportPreview> previewImport(const Study* study, const TextSource& source, const LayoutHints& hints) {
    auto layout = guessLayout(source, hints);
    if (!layout) return layout.error();
    const auto zone = Zone::named(zoneName(study, hints));
    if (!zone) return zone.error();
    ImportPreview out;
    out.name = source.name;
    out.bytes = static_cast<std::int64_t>(source.text.size());
    out.layout = *layout;
    out.zone = zone->name();
    const std::string_view body = withoutMark(source.text);
    out.rows = std::count(body.begin(), body.end(), '\n') - (body.back() == '\n' ? 1 : 0);
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

Result<ImportResult> importSamples(Study& study, const TextSource& source, const LayoutHints& hints,
                                   const Progress& progress) {
    const auto layout = guessLayout(source, hints);
    if (!layout) return layout.error();
    const auto zone = Zone::named(zoneName(&study, hints));
    if (!zone) return zone.error();
    ImportResult result;
    try {
        StudySink sink(study, source, *layout, hints, result);
        RowInterpreter interpreter(*layout, TimeReader(layout->dateOrder, *zone));
        const std::string_view body = withoutMark(source.text);
        RowReader rows(body, layout->separator);
        rows.next();
        while (rows.next()) {
            ++result.rows;
            sink.line = rows.line();
            sink.raw = rows.raw();
            interpreter.read(rows.fields(), sink);
            if (!sink.full()) continue;
            sink.commit(false);
            if (progress &&
                !progress(static_cast<double>(rows.position()) / static_cast<double>(body.size()))) {
                result.cancelled = true;
                break;
            }
        }
        if (!result.cancelled) sink.commit(true);
        sink.listTags();
        if (!hints.zone.empty() && study.setting("zone").empty()) study.setSetting("zone", hints.zone);
        if (interpreter.times().twice() > 0)
            result.notes.push_back(
                fmt::format("{} rows have a wall time that happened twice in {} (clocks put back); they were "
                            "taken in the order of the file",
                            interpreter.times().twice(), zone->name()));
        if (progress) progress(1.0);
    } catch (const StoreError& e) {
        study.reload();
        return Error{e.what()};
    }
    return result;
}

}  // namespace jacinth
