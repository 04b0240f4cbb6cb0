// import, import-events, imports: samples and tables in, what they replaced, and their removal.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>
#include <iostream>

#include "cli/command.h"
#include "core/base/parse_json.h"
#include "core/series/quality.h"
#include "source/import_events.h"
#include "source/import_plan.h"
#include "source/recipe.h"
#include "store/imports.h"
#include "store/write_file.h"
#include "work/label/kinds.h"

namespace jacinth::cli {
namespace {

namespace fs = std::filesystem;

/// How the text of a file is written, whatever is in it.
void addTextOptions(CLI::App& command, LayoutHints& hints) {
    command.add_option(
        "--time-format", hints.timeFormat,
        "year-first, day-first, month-first, epoch-s, epoch-ms, epoch-us, epoch-ns, or a pattern like "
        "%d/%m/%y %I:%M %p");
    command.add_option("--separator", hints.separator, "Between columns: one character, or tab");
    command.add_option("--decimal", hints.decimal, "Decimal mark: . or ,");
    command.add_option("--title-lines", hints.titleLines,
                       "Lines above the header that are not part of the table (found where not said)");
    command.add_option("--encoding", hints.encoding, "utf-8, latin-1, utf-16le or utf-16be");
    command.add_option("--zone", hints.zone, "Zone of times that carry none, like Europe/Oslo");
    static const std::map<std::string, OtherUnits> kUnits{
        {"refuse", OtherUnits::Refuse}, {"convert", OtherUnits::Convert}, {"keep", OtherUnits::Keep}};
    command
        .add_option("--units", hints.units,
                    "Values in another unit than their tag's: refuse, convert, or keep the numbers (refuse)")
        ->transform(CLI::CheckedTransformer(kUnits, CLI::ignore_case));
}

void addLayoutOptions(CLI::App& command, LayoutHints& hints, bool& isLong, bool& isWide) {
    command.add_flag("--long", isLong, "Form: one row per sample");
    command.add_flag("--wide", isWide, "Form: one column per tag");
    command.add_option(
        "--time", hints.timeColumn,
        "Header of the time column; `Date+Clock` for two columns, `Year+Month+Day+Hour` and so on for the "
        "parts of a date");
    command.add_option("--tag", hints.tagColumn, "Header of the tag column (long)");
    command.add_option("--value", hints.valueColumn, "Header of the value column (long)");
    command.add_option("--quality", hints.qualityColumn, "Header of the quality column (long)");
    command.add_option("--asset", hints.asset, "Asset of headers or tags that name none");
    addTextOptions(command, hints);
    command.add_option(
        "--no-value", hints.noValue,
        fmt::format("Texts among numbers that mean “no value”, separated by | ({})", kNoValueTexts));
}

json badRowJson(const std::string& file, const BadRow& row) {
    json out{{"file", file}, {"line", row.line}, {"reason", row.reason}};
    out["column"] = row.cell.empty() ? json() : json(row.cell);
    return out;
}

json previewJson(const ImportPreview& p) {
    json out{
        {"file", p.name},
        {"bytes", p.bytes},
        {"rows", p.rows},
        {"columns", p.header},
        {"form", p.layout.longForm ? "long" : "wide"},
        {"separator", std::string(1, p.layout.separator)},
        {"decimalComma", p.layout.decimalComma},
        {"timeFormat", p.layout.timeQuestion.empty() ? json(timeFormatName(p.layout.timeFormat)) : json()},
        {"encoding", encodingName(p.layout.coding.encoding)},
        {"noValue", p.noValue},
        {"questions", json::array()},
        {"zone", p.timesCarryZone ? "in the times" : p.zone},
        {"tags", p.tags},
        {"otherUnits", json::array()},
        {"names", json::array()},
        {"proposedNames", proposedPattern(rawNames(p))},
        {"clashes", clashesOf(p.names)},
        {"firstRows", p.firstRows},
        {"badRows", json::array()}};
    for (const std::string& question : {p.layout.timeQuestion, p.layout.numberQuestion})
        if (!question.empty()) out["questions"].push_back(question);
    NameSettings names;
    names.table = p.names;
    out["names"] = parseJson(nameSettingsText(names))["table"];
    for (const UnitDifference& u : p.units)
        out["otherUnits"].push_back(
            {{"tag", u.path}, {"study", u.ofStudy}, {"file", u.ofFile}, {"convertible", u.convertible}});
    for (const BadRow& row : p.badRows) out["badRows"].push_back(badRowJson(p.name, row));
    return out;
}

/// Opens the study, or makes it; a study made for an import that fails is deleted, unless another program
/// has written to it meanwhile.
class StudyForImport {
  public:
    explicit StudyForImport(const std::string& path) : path_(path), made_(!fs::exists(path)) {
        auto made = made_ ? Study::create(path) : Study::open(path);
        // Another program may make it at the same moment.
        if (!made && made_ && fs::exists(path)) {
            made_ = false;
            made = Study::open(path);
        }
        study_ = orRefuse(std::move(made));
        if (study_->readOnly()) throw Refusal{fmt::format("{} cannot be written", path)};
        if (!made_) return;
        if (const Status book = beginWithSiteBook(*study_); !book)
            fmt::print(stderr, "jacinth-cli: {}\n", book.error().message);
    }
    ~StudyForImport() {
        const bool gone = made_ && !kept_ && study_ && study_->isUntouched();
        study_.reset();
        if (gone)
            for (const char* end : {"", "-wal", "-shm"}) fs::remove(path_ + end);
    }
    Study& operator*() { return *study_; }
    void keep() { kept_ = true; }

  private:
    std::string path_;
    bool made_, kept_ = false;
    std::unique_ptr<Study> study_;
};

struct ImportTotal {
    json files = json::array(), badRows = json::array();
    ImportResult sum;

    void add(const std::string& name, const ImportResult& r) {
        files.push_back(name);
        for (const BadRow& row : r.badRows)
            if (badRows.size() < kBadRowsShown) badRows.push_back(badRowJson(name, row));
        sum.add(r);
    }
    void print(bool asJson) const {
        if (asJson) {
            printJson({{"files", files},
                       {"rows", sum.rows},
                       {"samples", sum.samples},
                       {"replaced", sum.replaced},
                       {"unchanged", sum.unchanged},
                       {"tags", sum.tags},
                       {"rowsRead", sum.rows - sum.badRowCount},
                       {"sameTime", sum.sameTime},
                       {"noValue", sum.noValue},
                       {"badRowCount", sum.badRowCount},
                       {"badCellCount", sum.badCellCount},
                       {"badRows", badRows},
                       {"notes", sum.notes}});
            return;
        }
        fmt::print("{} files, {} rows, {} samples, {} tags; kept aside: {} rows, {} cells\n", files.size(),
                   sum.rows, sum.samples, sum.tags.size(), sum.badRowCount, sum.badCellCount);
        for (const json& row : badRows)
            fmt::print(stderr, "{} line {}: {}. {} kept aside.\n", row["file"].get<std::string>(),
                       row["line"].get<std::int64_t>(), row["reason"].get<std::string>(),
                       row["column"].is_null() ? "Row" : "Cell of " + row["column"].get<std::string>());
        const std::int64_t aside = sum.badRowCount + sum.badCellCount;
        if (const auto shown = static_cast<std::int64_t>(badRows.size()); aside > shown)
            fmt::print(stderr, "… and {} more\n", aside - shown);
        for (const std::string& note : sum.notes) fmt::print(stderr, "{}\n", note);
    }
};

/// Files that are named are samples; in a folder tables of events are known by their names.
std::vector<PlannedFile> plannedFiles(const std::vector<std::string>& paths) {
    std::vector<PlannedFile> out;
    for (const std::string& path : paths) {
        if (fs::is_directory(path))
            for (PlannedFile& f : orRefuse(planImport({path}))) out.push_back(std::move(f));
        else
            out.push_back({path, {}});
    }
    std::ranges::stable_sort(out, {}, [](const PlannedFile& f) { return !f.eventKind.empty(); });
    return out;
}

/// As said here, or else as at the last import into the study.
NameSettings namesAsked(bool said, const std::string& pattern, const std::string& assetNames,
                        const std::string& table, bool onlyTable, const std::string& kept) {
    NameSettings out;
    if (!said && table.empty() && assetNames.empty() && !kept.empty()) return nameSettingsFrom(kept);
    if (pattern != "first-slash") out.pattern = pattern;
    out.assetName = assetNames;
    out.onlyTable = onlyTable;
    if (!table.empty()) out.table = orRefuse(readNameTable(orRefuse(readWhole(table))));
    orRefuse(NameMapping::from(out));
    return out;
}

struct ImportOptions {
    std::vector<std::string> files;
    LayoutHints hints;
    std::string plant;
    std::string recipe, saveAs, names, assetNames, nameTable;
    bool isLong = false, isWide = false, preview = false, onlyTable = false;
};

using EventFiles = std::vector<std::pair<TextSource, std::string>>;

/// What each file would give, as JSON.
void previewFiles(const Common& common, const ImportOptions& o, const std::vector<TextSource>& files,
                  const EventFiles& events) {
    std::unique_ptr<Study> study = fs::exists(common.study) ? common.open() : nullptr;
    json all = json::array();
    for (const TextSource& file : files)
        all.push_back(previewJson(orRefuse(previewImport(study.get(), file, o.hints))));
    for (const auto& [file, kind] : events)
        all.push_back({{"file", file.name}, {"as", kind}, {"bytes", file.size()}});
    printJson({{"files", all}});
}

/// Every file is looked at before the first is stored: one that cannot be read, or names that would be one
/// thing, change nothing.
void lookAtFiles(const ImportOptions& o, const std::vector<TextSource>& files) {
    for (const TextSource& file : files) {
        const ImportPreview preview = orRefuse(previewImport(nullptr, file, o.hints));
        if (const auto clashes = clashesOf(preview.names); !clashes.empty())
            throw Refusal{fmt::format("{}: {}", file.name, fmt::join(clashes, "\n"))};
        const std::string proposed = o.hints.names.isEmpty() ? proposedPattern(rawNames(preview)) : "";
        if (!proposed.empty())
            fmt::print(stderr, "{}: its names look like {}; --names '{}' makes assets and groups of them\n",
                       file.name, preview.names.front().first, proposed);
    }
}

ImportTotal storeFiles(const Common& common, const ImportOptions& o, const std::vector<TextSource>& files,
                       const EventFiles& events) {
    StudyForImport study(common.study);
    ImportTotal total;
    const auto take = [&](const std::string& name, const Result<ImportResult>& one) {
        if (!one && !total.files.empty())
            throw Refusal{fmt::format("{}. What came before it is in: {}", one.error().message,
                                      fmt::join(total.files.get<std::vector<std::string>>(), ", "))};
        total.add(name, orRefuse(one));
        study.keep();
    };
    for (const TextSource& file : files)
        take(file.name, importSamples(*study, file, o.hints, progressOnStderr(file.name)));
    for (const auto& [file, kind] : events) take(file.name, importEvents(*study, file, kind, o.hints));
    if (!o.saveAs.empty()) saveRecipe(*study, o.saveAs, o.hints);
    if (!o.plant.empty()) (*study).setSetting("plant", o.plant);
    return total;
}

void addImport(CLI::App& app) {
    auto* command = app.add_subcommand(
        "import", "Samples from text files, wide or long; creates the study if there is none");
    auto o = std::make_shared<ImportOptions>();
    auto common = addCommon(*command);
    command->add_option("files", o->files, "Text files, or folders of them; gzip is unpacked")->required();
    command->add_option("--recipe", o->recipe, "A saved recipe for the layout");
    command->add_option("--save-recipe", o->saveAs, "Save what is said here under this name");
    addLayoutOptions(*command, o->hints, o->isLong, o->isWide);
    auto* names = command->add_option("--names", o->names,
                                      "What names become: {area}/{line}/{asset}/{tag}, {asset}-{tag}, "
                                      "{asset}.{tag} …; `first-slash` for the "
                                      "usual cut. Kept with the study for its next import");
    command->add_option("--asset-names", o->assetNames,
                        "What assets are called, from the fields of --names: \"{line} {asset}\"");
    command
        ->add_option("--name-table", o->nameTable,
                     "CSV with columns name, asset, tag, role, unit and facts of assets (area, line …)")
        ->check(CLI::ExistingFile);
    command->add_flag("--only-table", o->onlyTable, "Names that are not in the table are rejected");
    command->add_option("--plant", o->plant, "Name of the plant, for titles");
    command->add_flag("--preview", o->preview, "Say what it would do and store nothing");
    command->callback([o, common, names] {
        if (o->isLong && o->isWide) throw CLI::ValidationError("a file is long or wide, not both");
        if (o->isLong || o->isWide) o->hints.longForm = o->isLong;
        std::vector<TextSource> files;
        std::vector<std::pair<TextSource, std::string>> events;
        for (const PlannedFile& f : plannedFiles(o->files)) {
            if (f.eventKind.empty())
                files.push_back(orRefuse(TextSource::at(f.path)));
            else
                events.emplace_back(orRefuse(TextSource::at(f.path)), f.eventKind);
        }
        if (!o->recipe.empty()) {
            if (!fs::exists(common->study)) throw Refusal{fmt::format("no such file: {}", common->study)};
            o->hints = orRefuse(recipeNamed(*common->open(), o->recipe));
        }
        const bool isThere = fs::exists(common->study);
        o->hints.names = namesAsked(names->count() > 0, o->names, o->assetNames, o->nameTable, o->onlyTable,
                                    isThere ? common->open()->setting(kNamesSetting) : "");
        if (o->preview) return previewFiles(*common, *o, files, events);
        lookAtFiles(*o, files);
        storeFiles(*common, *o, files, events).print(common->asJson);
    });
}

void addImportEvents(CLI::App& app) {
    auto* command = app.add_subcommand(
        "import-events",
        "What was written down: failures, work orders, readings, log, alarms, stops, batches");
    struct Options {
        std::string file, kind;
        LayoutHints hints;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command);
    command->add_option("file", o->file, "Text file")->required();
    command->add_option("--as", o->kind, "What the rows are")->required()->check(CLI::IsMember(eventKinds()));
    addTextOptions(*command, o->hints);
    command->callback([o, common] {
        const TextSource file = orRefuse(TextSource::at(o->file));
        const auto study = common->open(false);
        ImportTotal total;
        total.add(file.name, orRefuse(importEvents(*study, file, o->kind, o->hints)));
        total.print(common->asJson);
    });
}

json importJson(const ImportRecord& r) {
    return {{"id", r.id},
            {"at", toIso(r.at)},
            {"file", r.file},
            {"kind", r.kind},
            {"bytes", r.bytes},
            {"rows", r.rows},
            {"samples", r.samples},
            {"replaced", r.replaced},
            {"badRows", r.badRows},
            {"badCells", r.badCells},
            {"complete", r.complete},
            {"removable", r.removable},
            {"removedAt", r.removedAt ? json(toIso(*r.removedAt)) : json()}};
}

void addList(CLI::App& imports) {
    auto* command = imports.add_subcommand("list", "What was imported");
    auto common = addCommon(*command);
    command->callback([common] {
        const auto study = common->open();
        json out = json::array();
        for (const ImportRecord& r : study->imports().all()) out.push_back(importJson(r));
        if (common->asJson) return printJson(out);
        for (const ImportRecord& r : study->imports().all())
            fmt::print("{:>4}  {}  {:<32} {:>11} samples {:>9} replaced {:>6} bad rows{}\n", r.id,
                       toIso(r.at), r.file, r.samples, r.replaced, r.badRows,
                       r.removedAt   ? "  removed"
                       : !r.complete ? "  not complete"
                                     : "");
    });
}

void addImportRemove(CLI::App& imports) {
    auto* command = imports.add_subcommand(
        "remove",
        "Remove what an import brought: samples (older ones that it replaced come back) or recorded events");
    struct Options {
        ImportId id;
        std::string why;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command);
    command->add_option("id", o->id, "Number of the import (see imports list)")->required();
    command->add_option("--why", o->why, "For the ledger");
    command->callback([o, common] {
        const auto study = common->open(false);
        const ImportRemoval done = orRefuse(study->imports().remove(o->id, o->why));
        if (common->asJson)
            return printJson({{"samples", done.samples},
                              {"restored", done.restored},
                              {"tags", done.tags},
                              {"spans", done.spans}});
        if (done.spans > 0)
            fmt::print("{} recorded events removed\n", done.spans);
        else
            fmt::print("{} samples of {} tags removed, {} older ones back in their place\n", done.samples,
                       done.tags, done.restored);
    });
}

void addReplaced(CLI::App& imports) {
    auto* command = imports.add_subcommand("replaced", "The older samples that an import replaced, as CSV");
    auto o = std::make_shared<ImportId>();
    auto common = addCommon(*command);
    command->add_option("id", *o, "Number of the import (see imports list)")->required();
    command->callback([o, common] {
        const auto study = common->open();
        const auto all = study->imports().all();
        if (std::none_of(all.begin(), all.end(), [&](const ImportRecord& r) { return r.id == *o; }))
            throw Refusal{fmt::format("{} is not an import of this study", *o)};
        std::cout << "time,tag,value,quality\n";
        for (const auto& [id, s] : study->imports().replacedSamples(*o)) {
            const Tag* tag = study->catalog().tag(id);
            for (std::size_t i = 0; i < s.size(); ++i)
                std::cout << toIso(s.times[i]) << ',' << csvField(tag->path()) << ','
                          << valueText(*tag, s.values[i]) << ',' << qualityName(s.view().qualityAt(i))
                          << '\n';
        }
    });
}

}  // namespace

void addImportCommands(CLI::App& app) {
    addImport(app);
    addImportEvents(app);
    auto* imports = app.add_subcommand("imports", "What came into a study");
    imports->require_subcommand(1);
    addList(*imports);
    addImportRemove(*imports);
    addReplaced(*imports);
}

}  // namespace jacinth::cli
