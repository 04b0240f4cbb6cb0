// demo, import, import-events, tag set, tags, read, eval, check
#include <fmt/format.h>

#include <filesystem>
#include <fstream>
#include <iostream>

#include "cli/command.h"
#include "core/series/quality.h"
#include "core/series/value_at.h"
#include "demo/demo.h"
#include "source/recipe.h"
#include "work/study_inputs.h"
#include "work/tag_parts.h"

namespace jacinth::cli {
namespace {

namespace fs = std::filesystem;

void writeFile(const fs::path& path, const std::string& text) {
    std::ofstream file(path, std::ios::binary);
    file << text;
    file.close();
    if (!file) throw SaysNo{fmt::format("{} cannot be written", path.string())};
}

Progress progressOnStderr(const std::string& what) {
    if (!::isatty(2)) return {};
    return [what](double share) {
        std::fprintf(stderr, "\r%s %3.0f %%%s", what.c_str(), share * 100, share >= 1 ? "\n" : "");
        return true;
    };
}

void addDemo(CLI::App& app) {
    auto* command = app.add_subcommand("demo", "Make the demo study, or its open files");
    struct Options {
        demo::PlantSpec spec;
        std::string truth, csv;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command);
    command->add_option("--days", o->spec.days, "Length of the record")->check(CLI::Range(1, 730));
    command->add_option("--seed", o->spec.seed, "Another seed, another plant");
    command->add_option("--truth", o->truth, "Write what really happened to this file");
    command->add_option("--csv", o->csv, "Write the open files into this folder instead of making the study");
    command->callback([o, common] {
        const demo::Truth truth = demo::drawTruth(o->spec);
        if (!o->truth.empty()) writeFile(o->truth, demo::truthToJson(truth).dump(1) + "\n");
        json files = json::array();
        if (!o->csv.empty()) {
            fs::create_directories(o->csv);
            demo::makeFiles(truth, [&](const demo::DemoFile& f) {
                writeFile(fs::path(o->csv) / f.name, f.text);
                files.push_back({{"file", f.name},
                                 {"as", f.eventKind.empty() ? "samples" : f.eventKind},
                                 {"bytes", f.text.size()}});
            });
        }
        if (fs::exists(common->study)) {
            if (o->csv.empty()) throw SaysNo{fmt::format("{} exists already", common->study)};
        } else {
            const auto study =
                orSayNo(demo::makeStudy(truth, common->study, progressOnStderr("making the demo study")));
        }
        if (common->asJson) printJson({{"study", common->study}, {"files", files}});
    });
}

void addLayoutOptions(CLI::App& command, LayoutHints& hints, bool& isLong, bool& isWide) {
    command.add_flag("--long", isLong, "A row a sample");
    command.add_flag("--wide", isWide, "A column a tag");
    command.add_option("--time", hints.timeColumn, "Header of the time column");
    command.add_option("--tag", hints.tagColumn, "Header of the tag column (long)");
    command.add_option("--value", hints.valueColumn, "Header of the value column (long)");
    command.add_option("--quality", hints.qualityColumn, "Header of the quality column (long)");
    command.add_option("--zone", hints.zone, "Zone of times that carry none, like Europe/Oslo");
    command.add_option("--asset", hints.asset, "Asset of headers or tags that name none");
}

json badRowJson(const std::string& file, const BadRow& row) {
    return {{"file", file}, {"line", row.line}, {"reason", row.reason}};
}

json previewJson(const ImportPreview& p) {
    json out{{"file", p.name},
             {"bytes", p.bytes},
             {"rows", p.rows},
             {"columns", p.header},
             {"form", p.layout.longForm ? "long" : "wide"},
             {"separator", std::string(1, p.layout.separator)},
             {"decimalComma", p.layout.decimalComma},
             {"timeFormat", dateOrderName(p.layout.dateOrder)},
             {"zone", p.timesCarryZone ? "in the times" : p.zone},
             {"tags", p.tags},
             {"firstRows", p.firstRows},
             {"badRows", json::array()}};
    for (const BadRow& row : p.badRows) out["badRows"].push_back(badRowJson(p.name, row));
    return out;
}

/// Opens the study, or makes it; a study made for an import that fails is taken away again.
class StudyForImport {
  public:
    explicit StudyForImport(const std::string& path) : path_(path), made_(!fs::exists(path)) {
        study_ = made_ ? orSayNo(Study::create(path)) : orSayNo(Study::open(path));
    }
    ~StudyForImport() {
        study_.reset();
        if (made_ && !kept_)
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
    json files = json::array(), badRows = json::array(), notes = json::array();
    std::set<std::string> tags;
    std::int64_t rows = 0, samples = 0, replaced = 0, unchanged = 0, badRowCount = 0;

    void add(const std::string& name, const ImportResult& r) {
        files.push_back(name);
        tags.insert(r.tags.begin(), r.tags.end());
        rows += r.rows, samples += r.samples, replaced += r.replaced, unchanged += r.unchanged,
            badRowCount += r.badRowCount;
        for (const BadRow& row : r.badRows)
            if (badRows.size() < 100) badRows.push_back(badRowJson(name, row));
        for (const std::string& note : r.notes) notes.push_back(note);
    }
    void print(bool asJson) const {
        if (asJson) {
            printJson({{"files", files},
                       {"rows", rows},
                       {"samples", samples},
                       {"replaced", replaced},
                       {"unchanged", unchanged},
                       {"tags", tags},
                       {"badRowCount", badRowCount},
                       {"badRows", badRows},
                       {"notes", notes}});
            return;
        }
        fmt::print("{} files, {} rows, {} samples, {} tags, {} bad rows kept aside\n", files.size(), rows,
                   samples, tags.size(), badRowCount);
        for (const json& row : badRows)
            fmt::print(stderr, "{} line {}: {}. Row kept aside.\n", row["file"].get<std::string>(),
                       row["line"].get<std::int64_t>(), row["reason"].get<std::string>());
        for (const json& note : notes) fmt::print(stderr, "{}\n", note.get<std::string>());
    }
};

void addImport(CLI::App& app) {
    auto* command = app.add_subcommand(
        "import", "Samples from text files, wide or long; creates the study if there is none");
    struct Options {
        std::vector<std::string> files;
        LayoutHints hints;
        std::string plant;
        std::string recipe, saveAs;
        bool isLong = false, isWide = false, preview = false;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command);
    command->add_option("files", o->files, "Text files, or folders of them; gzip is unpacked")->required();
    command->add_option("--recipe", o->recipe, "A saved recipe for the layout");
    command->add_option("--save-recipe", o->saveAs, "Save what is said here under this name");
    addLayoutOptions(*command, o->hints, o->isLong, o->isWide);
    command->add_option("--plant", o->plant, "Name of the plant, for titles");
    command->add_flag("--preview", o->preview, "Say what it would do and store nothing");
    command->callback([o, common] {
        if (o->isLong && o->isWide) throw CLI::ValidationError("a file is long or wide, not both");
        if (o->isLong || o->isWide) o->hints.longForm = o->isLong;
        std::vector<std::pair<std::string, MappedFile>> files;
        for (const std::string& path : o->files)
            for (const std::string& f : orSayNo(filesAt(path)))
                files.emplace_back(fs::path(f).filename().string(), orSayNo(MappedFile::open(f)));
        if (!o->recipe.empty()) {
            if (!fs::exists(common->study)) throw SaysNo{fmt::format("there is no file {}", common->study)};
            o->hints = orSayNo(recipeNamed(*common->open(), o->recipe));
        }
        if (o->preview) {
            std::unique_ptr<Study> study = fs::exists(common->study) ? common->open() : nullptr;
            json all = json::array();
            for (const auto& [name, file] : files)
                all.push_back(
                    previewJson(orSayNo(previewImport(study.get(), {name, file.text()}, o->hints))));
            printJson({{"files", all}});
            return;
        }
        // Every file is looked at before the first is stored: one that cannot be read changes nothing.
        for (const auto& [name, file] : files) {
            const auto head = orSayNo(headOf({name, file.text()}));
            orSayNo(guessLayout({name, head.text}, o->hints));
        }
        StudyForImport study(common->study);
        ImportTotal total;
        for (const auto& [name, file] : files) {
            total.add(name,
                      orSayNo(importSamples(*study, {name, file.text()}, o->hints, progressOnStderr(name))));
            study.keep();
        }
        if (!o->saveAs.empty()) saveRecipe(*study, o->saveAs, o->hints);
        if (!o->plant.empty()) (*study).setSetting("plant", o->plant);
        total.print(common->asJson);
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
    command->add_option("--zone", o->hints.zone, "Zone of times that carry none");
    command->callback([o, common] {
        const MappedFile file = orSayNo(MappedFile::open(o->file));
        const std::string name = fs::path(o->file).filename().string();
        const auto study = common->open(false);
        ImportTotal total;
        total.add(name, orSayNo(importEvents(*study, {name, file.text()}, o->kind, o->hints)));
        total.print(common->asJson);
    });
}

void addTags(CLI::App& app) {
    auto* tags = app.add_subcommand("tags", "The tags of a study");
    auto common = addCommon(*tags, {false, true});
    tags->callback([common] {
        const auto study = common->open();
        json out = json::array();
        for (const Tag& t : study->catalog().tags()) {
            if (!common->asset.empty() && t.assetName != common->asset) continue;
            const Summary s = study->samples().whole(t.id);
            out.push_back({{"asset", t.assetName},
                           {"tag", t.name},
                           {"role", t.role},
                           {"unit", t.unit},
                           {"kind", tagKindName(t.kind)},
                           {"count", s.count},
                           {"first", s.count ? json(toIso(s.firstTime)) : json()},
                           {"last", s.count ? json(toIso(s.lastTime)) : json()}});
        }
        if (common->asJson) return printJson(out);
        for (const json& t : out)
            fmt::print("{:<12} {:<18} @{:<22} {:<6} {:<11} {:>9}\n", t["asset"].get<std::string>(),
                       t["tag"].get<std::string>(), t["role"].get<std::string>(),
                       t["unit"].get<std::string>(), t["kind"].get<std::string>(),
                       t["count"].get<std::uint32_t>());
    });

    auto* tag = app.add_subcommand("tag", "What a tag is");
    tag->require_subcommand(1);
    addDerivedCommands(*tag);
    auto* set = tag->add_subcommand("set", "Set role, unit, kind or longest gap of a tag");
    struct Options {
        std::string tag, role, unit, kind, gap;
    };
    auto o = std::make_shared<Options>();
    auto target = addCommon(*set);
    set->add_option("--tag", o->tag, "Asset/Tag")->required();
    set->add_option("--role", o->role, "What it is for on its asset");
    auto* unit = set->add_option("--unit", o->unit, "Unit of measure");
    set->add_option("--kind", o->kind, "continuous, stepped or state")
        ->check(CLI::IsMember({"continuous", "stepped", "state"}));
    set->add_option("--longest-gap", o->gap, "Longest stretch to bridge, like 20m");
    set->callback([o, target, unit] {
        const auto study = target->open(false);
        Tag t = orSayNo(study->catalog().tagAt(o->tag));
        if (!o->role.empty()) {
            const Tag* other = study->catalog().tagInRole(t.asset, o->role);
            if (other && other->id != t.id)
                throw SaysNo{fmt::format("{} has the role `{}` already", other->path(), o->role)};
            t.role = o->role;
        }
        if (unit->count()) t.unit = o->unit;
        if (!o->kind.empty()) {
            const TagKind kind = orSayNo(tagKindNamed(o->kind));
            if ((kind == TagKind::State) != (t.kind == TagKind::State))
                throw SaysNo{"a tag of numbers cannot become one of states, nor the other way"};
            t.kind = kind;
        }
        if (!o->gap.empty()) t.longestGap = orSayNo(parseDuration(o->gap));
        study->change("settings of " + t.path(), "",
                      {{"role", t.role}, {"unit", t.unit}, {"kind", tagKindName(t.kind)}},
                      [&] { study->catalog().updateTag(t); });
    });
}

std::string valueText(const Tag& tag, double v) {
    if (std::isnan(v)) return "";
    if (tag.kind == TagKind::State && v >= 0 && v < static_cast<double>(tag.states.size()))
        return csvField(tag.states[static_cast<std::size_t>(v)]);
    return fmt::format("{}", v);
}

void addRead(CLI::App& app) {
    auto* command = app.add_subcommand("read", "Samples of a tag as CSV, or one value a period");
    struct Options {
        std::string tag, take = "mean", every;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {true, false, true});
    command->add_option("--tag", o->tag, "Asset/Tag")->required();
    command->add_option("--every", o->every,
                        "One value a period: 1h, day, week or month of the plant's calendar");
    command->add_option("--take", o->take, "mean, sample-mean, min, max, first, last, count or sum")
        ->check(CLI::IsMember({"mean", "sample-mean", "min", "max", "first", "last", "count", "sum"}));
    command->callback([o, common] {
        const auto study = common->open();
        const Tag tag = orSayNo(study->catalog().tagAt(o->tag));
        const TimeRange range = common->range(*study);
        const Series s = study->read(tag, range, common->which());
        std::string out = "time,value,quality\n";
        const Period period = o->every.empty() ? Period() : orSayNo(periodNamed(o->every));
        if (!o->every.empty()) {
            if (tag.kind == TagKind::State && o->take == "mean")
                throw SaysNo{"states have no mean; take last or first"};
            std::vector<Instant> edges;
            if (period.unit == Period::Unit::Length)
                for (Instant t = range.from; t < range.to; t += period.length) edges.push_back(t);
            else
                edges = orSayNo(periodsIn(range, period, study->zone()));
            if (edges.empty() || edges.back() < range.to) edges.push_back(range.to);
            const auto values = resample(s, tag.bridging(), edges, orSayNo(takeNamed(o->take)));
            for (std::size_t i = 0; i < values.size(); ++i)
                out += fmt::format("{},{},\n", toIso(edges[i]), valueText(tag, values[i]));
        } else {
            const SeriesView view = s.view().within(range);
            for (std::size_t i = 0; i < view.size(); ++i) {
                out += fmt::format("{},{},{}\n", toIso(view.times[i]), valueText(tag, view.values[i]),
                                   qualityName(view.qualityAt(i)));
                if (out.size() > 1 << 20) {
                    std::cout << out;
                    out.clear();
                }
            }
        }
        std::cout << out;
    });
}

void printSignal(const Signal& s, TimeRange range, Duration every, bool asJson) {
    json all = json::array();
    if (!asJson) std::cout << "time,value\n";
    const auto named = [&](double v) -> json {
        const bool state = v >= 0 && v < static_cast<double>(s.states.size());
        return state ? json(s.states[static_cast<std::size_t>(v)]) : json(v);
    };
    const auto one = [&](Instant t, double v) {
        const json value = named(v);
        if (asJson)
            all.push_back({{"time", toIso(t)}, {"value", value}});
        else if (value.is_string())
            std::cout << toIso(t) << "," << csvField(value) << "\n";
        else
            std::cout << toIso(t) << "," << (std::isnan(v) ? "" : fmt::format("{}", v)) << "\n";
    };
    const Duration step = every > 0 ? every : std::max<Duration>(1, range.length());
    if (every > 0 || s.constant) {
        for (Instant t = range.from; t < range.to; t += step) one(t, signalAt(s, t));
    } else {
        for (std::size_t i = 0; i < s.times.size(); ++i)
            if (range.contains(s.times[i])) one(s.times[i], s.values[i]);
    }
    if (asJson) printJson(all);
}

void addEval(CLI::App& app) {
    auto* command = app.add_subcommand("eval", "The value of an expression over time");
    struct Options {
        std::string expression;
        Duration every = 0;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {true, true, true});
    command->add_option("expression", o->expression, "In the expression language")->required();
    addDuration(*command, "--every", o->every, "One value a period");
    command->callback([o, common] {
        const auto study = common->open();
        const auto fleet = orSayNo(compileForFleet(*study, o->expression, common->asset));
        const TimeRange range = common->range(*study);
        if (fleet.byAsset.size() > 1 && !fleet.byAsset[0].second.roles.empty() &&
            fleet.byAsset[0].second.type != ValueType::Condition)
            throw SaysNo{"the expression has a value on each asset; choose one with --asset"};
        json all = json::array();
        bool header = false;
        for (const auto& [asset, expression] : fleet.byAsset) {
            StudyInputs inputs(*study, asset.id, range, expression.lookBack, common->which());
            const Value value = orSayNo(evaluate(expression, inputs, range));
            if (const Signal* s = std::get_if<Signal>(&value))
                return printSignal(*s, range, o->every, common->asJson);
            const bool several = fleet.byAsset.size() > 1;
            if (!common->asJson && !header) std::cout << (several ? "asset,start,end\n" : "start,end\n");
            header = true;
            for (const TimeRange& r : stretches(std::get<Condition>(value), range)) {
                json j = rangeJson(r);
                if (several) j["asset"] = asset.name;
                all.push_back(j);
                if (!common->asJson)
                    std::cout << (several ? asset.name + "," : "") << toIso(r.from) << "," << toIso(r.to)
                              << "\n";
            }
        }
        if (common->asJson) printJson(all);
    });
}

void addCheck(CLI::App& app) {
    auto* command = app.add_subcommand("check", "Read everything and verify checksums");
    auto common = addCommon(*command);
    command->callback([common] {
        const auto study = common->open();
        const auto faults = study->check();
        std::int64_t samples = 0;
        for (const Tag& t : study->catalog().tags()) samples += study->samples().whole(t.id).count;
        if (common->asJson)
            printJson({{"clean", faults.empty()},
                       {"faults", faults},
                       {"samples", samples},
                       {"tags", study->catalog().tags().size()}});
        else if (faults.empty())
            fmt::print("clean: {} samples in {} tags\n", samples, study->catalog().tags().size());
        for (const std::string& f : faults) fmt::print(stderr, "{}\n", f);
        if (!faults.empty()) throw SaysNo{fmt::format("{} faults found", faults.size())};
    });
}

}  // namespace

void addRecordCommands(CLI::App& app) {
    addDemo(app);
    addImport(app);
    addImportEvents(app);
    addTags(app);
    addRead(app);
    addEval(app);
    addCheck(app);
}

}  // namespace jacinth::cli
