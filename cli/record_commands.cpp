// demo, read, eval, check
#include <fmt/format.h>

#include <filesystem>
#include <iostream>

#include "cli/command.h"
#include "cli/output_file.h"
#include "core/series/quality.h"
#include "core/series/value_at.h"
#include "demo/demo.h"
#include "demo/sight_glass.h"
#include "store/write_file.h"
#include "work/base/expression_over_time.h"
#include "work/survey/tag_parts.h"

namespace jacinth::cli {
namespace {

namespace fs = std::filesystem;

void writeFile(const fs::path& path, const std::string& text) {
    orRefuse(writeWhole(path.string(), text));
}

void addDemo(CLI::App& app) {
    auto* command = app.add_subcommand("demo", "Make the demo study, or its open files");
    struct Options {
        demo::PlantSpec spec;
        std::string csv;
        OutputFile truth;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {.studyOptional = true});
    command->add_option("--days", o->spec.days, "Length of the record")->check(CLI::Range(1, 730));
    command->add_option("--seed", o->spec.seed, "Another seed, another plant");
    command->add_option("--truth", o->truth.path, "Write what really happened to this file");
    command->add_option("--csv", o->csv, "Write the open files into this folder instead of making the study");
    command->add_flag("--force", o->truth.force, "Replace files where there are some");
    command->callback([o, common] {
        checkOutputFile(o->truth);
        if (o->csv.empty() && common->study.empty()) throw CLI::RequiredError("STUDY, or --csv");
        if (o->csv.empty() && fs::exists(common->study))
            throw Refusal{fmt::format("{} exists already", common->study)};
        const demo::Truth truth = demo::drawTruth(o->spec);
        if (!o->truth.path.empty()) writeFile(o->truth.path, demo::truthToJson(truth).dump(1) + "\n");
        json files = json::array();
        if (!o->csv.empty()) {
            fs::create_directories(o->csv);
            demo::makeFiles(truth, [&](const demo::DemoFile& f) {
                const OutputFile file{(fs::path(o->csv) / f.name).string(), o->truth.force};
                checkOutputFile(file);
                writeFile(file.path, f.text);
                files.push_back({{"file", f.name},
                                 {"as", f.eventKind.empty() ? "samples" : f.eventKind},
                                 {"bytes", f.text.size()}});
            });
        }
        if (!o->csv.empty())
            orRefuse(demo::writeSightGlass(truth, (fs::path(o->csv) / "sight-glass").string()));
        const bool makes = !common->study.empty() && !fs::exists(common->study);
        if (makes) orRefuse(demo::makeStudy(truth, common->study, progressOnStderr("making the demo study")));
        if (common->asJson) printJson({{"study", makes ? json(common->study) : json()}, {"files", files}});
    });
}

/// One value for each period; what there is more of than fits in memory is refused before it is made.
std::vector<Instant> periodEdges(const Study& study, TimeRange range, const std::string& every) {
    constexpr double kMostPeriods = 50e6;
    const Period period = orRefuse(periodNamed(every));
    std::vector<Instant> edges;
    if (period.unit == Period::Unit::Length) {
        if (period.length <= Duration::zero()) throw Refusal{"--every has to be a length of time above 0"};
        const double periods = toNanoseconds(range.length()) / toNanoseconds(period.length);
        if (periods > kMostPeriods)
            throw Refusal{
                fmt::format("--every {} would give {:.3g} values ({:.3g} GB); take a longer one or a shorter "
                            "stretch",
                            every, periods, periods * 40 / 1e9)};
        for (Instant t = range.from; t < range.to; t += period.length) edges.push_back(t);
    } else {
        edges = orRefuse(periodsIn(range, period, study.zone()));
    }
    if (edges.empty() || edges.back() < range.to) edges.push_back(range.to);
    return edges;
}

/// Samples, or figures of periods, of several tags one after the other.
class ReadOutput {
  public:
    ReadOutput(bool asJson, bool severalTags) : asJson_(asJson), several_(severalTags) {
        if (!asJson) text_ = several_ ? "time,tag,value,quality\n" : "time,value,quality\n";
    }
    /// `asState`: the value is the code of one of the tag's states.
    void add(const Tag& tag, Instant t, double v, bool asState, const char* quality) {
        if (asJson_) return addJson(tag, t, v, asState, quality);
        times_.append(t, text_);
        text_ += ',';
        if (several_) {
            text_ += csvField(tag.path());
            text_ += ',';
        }
        if (std::isfinite(v)) {
            if (asState)
                text_ += csvField(stateName(tag, v));
            else
                fmt::format_to(std::back_inserter(text_), "{}", v);
        }
        text_ += ',';
        text_ += quality;
        text_ += '\n';
        if (text_.size() > 1 << 20) flush();
    }
    void finish() {
        if (asJson_) return printJson(all_);
        flush();
    }

  private:
    void addJson(const Tag& tag, Instant t, double v, bool asState, const char* quality) {
        json one{{"time", toIso(t)},
                 {"value", !std::isfinite(v) ? json()
                           : asState         ? json(stateName(tag, v))
                                             : json(v)},
                 {"quality", *quality ? json(quality) : json()}};
        if (several_) one["tag"] = tag.path();
        all_.push_back(std::move(one));
    }
    void flush() {
        std::cout << text_;
        text_.clear();
    }
    IsoTimes times_;
    bool asJson_, several_;
    std::string text_;
    json all_ = json::array();
};

void addRead(CLI::App& app) {
    auto* command = app.add_subcommand("read", "Samples of tags as CSV, or one value per period");
    struct Options {
        std::vector<std::string> tags;
        std::string take = "mean", every;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {true, false, true});
    command->add_option("--tag", o->tags, "Asset/Tag, one or several")->required();
    command->add_option("--every", o->every,
                        "One value per period: 1h, day, week or month of the plant's calendar");
    command->add_option("--take", o->take, "mean, sample-mean, min, max, first, last, count or sum")
        ->check(CLI::IsMember({"mean", "sample-mean", "min", "max", "first", "last", "count", "sum"}));
    command->callback([o, common] {
        const auto study = common->open();
        const TimeRange range = common->range(*study);
        std::vector<Tag> tags;
        for (const std::string& path : o->tags) tags.push_back(orRefuse(study->catalog().tagAt(path)));
        ReadOutput out(common->asJson, tags.size() > 1);
        for (const Tag& tag : tags) {
            const bool names = tag.kind == TagKind::State && o->take != "count";
            const Series s = o->every.empty() ? study->read(tag, range, common->which())
                                              : study->readForFigures(tag, range, common->which());
            if (o->every.empty()) {
                const SeriesView view = s.view().within(range);
                for (std::size_t i = 0; i < view.size(); ++i)
                    out.add(tag, view.times[i], view.values[i], tag.kind == TagKind::State,
                            qualityName(view.qualityAt(i)));
                continue;
            }
            if (names && o->take != "first" && o->take != "last")
                throw Refusal{fmt::format("{} has states, and states have no {}; take first, last or count",
                                          tag.path(), o->take)};
            const std::vector<Instant> edges = periodEdges(*study, range, o->every);
            const auto values = resample(s, tag.bridging(), edges, orRefuse(takeNamed(o->take)));
            for (std::size_t i = 0; i < values.size(); ++i) out.add(tag, edges[i], values[i], names, "");
        }
        out.finish();
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
    const Duration step = every > Duration::zero() ? every : std::max(kNanosecond, range.length());
    if (every > Duration::zero() || s.constant) {
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
        Duration every{};
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {true, true, true});
    command->add_option("expression", o->expression, "In the expression language")->required();
    addDuration(*command, "--every", o->every, "One value per period");
    command->callback([o, common] {
        const auto study = common->open();
        const auto fleet = orRefuse(compileForFleet(*study, o->expression, common->asset));
        for (const std::string& warning : fleet.warnings()) std::cerr << "jacinth-cli: " << warning << "\n";
        const TimeRange range = common->range(*study);
        if (o->every > Duration::zero()) (void)periodEdges(*study, range, formatDuration(o->every));
        if (fleet.byAsset.size() > 1 && !fleet.byAsset[0].second.roles.empty() &&
            fleet.byAsset[0].second.type != ValueType::Condition)
            throw Refusal{"the expression has a value on each asset; choose one with --asset"};
        json all = json::array();
        bool header = false;
        ExpressionOverTime evaluator(*study, common->which());
        for (const auto& [asset, expression] : fleet.byAsset) {
            const Value value = orRefuse(evaluator.evaluate(asset.id, expression, range)).value;
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
                    std::cout << (several ? csvField(asset.name) + "," : "") << toIso(r.from) << ","
                              << toIso(r.to) << "\n";
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
        for (const Tag& t : study->catalog().tags()) samples += study->reader(t.id).whole(t.id).count;
        if (common->asJson)
            printJson({{"clean", faults.empty()},
                       {"faults", faults},
                       {"samples", samples},
                       {"tags", study->catalog().tags().size()}});
        else if (faults.empty())
            fmt::print("clean: {} samples in {} tags\n", samples, study->catalog().tags().size());
        for (const std::string& f : faults) fmt::print(stderr, "{}\n", f);
        if (!faults.empty()) throw Refusal{fmt::format("{} faults found", faults.size())};
    });
}

}  // namespace

void addRecordCommands(CLI::App& app) {
    addDemo(app);
    addRead(app);
    addEval(app);
    addCheck(app);
}

}  // namespace jacinth::cli
