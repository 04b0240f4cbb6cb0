// runs find/list, golden set, limits build/show, screen
#include <fmt/format.h>

#include <cmath>
#include <iostream>
#include <set>

#include "cli/command.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/made_from.h"
#include "work/limits/screening.h"
#include "work/limits/up_to_date.h"
#include "work/runs/edit_runs.h"
#include "work/runs/run_figures.h"

namespace jacinth::cli {
namespace {

void printRuns(const Study& study, const std::vector<Span>& runs, const std::string& asset, bool asJson) {
    json out = json::array();
    for (const Span& r : runs) {
        const Asset* a = study.catalog().asset(r.asset);
        if (!a || (!asset.empty() && a->name != asset)) continue;
        json j = rangeJson(r.range());
        j["id"] = r.id;
        j["asset"] = a->name;
        j["facts"] = factsJson(r.facts);
        out.push_back(j);
        if (!asJson)
            fmt::print("{:>6}  {:<10} {}  {}  {}\n", r.id, a->name, toIso(r.start), toIso(r.end),
                       sayDuration(r.end - r.start));
    }
    if (asJson) printJson(out);
}

json cellJson(const SpanValue& cell) {
    if (const double* number = std::get_if<double>(&cell))
        return std::isfinite(*number) ? json(*number) : json();
    if (const Truth* truth = std::get_if<Truth>(&cell))
        return *truth == Truth::Unknown ? json() : json(*truth == Truth::True);
    return std::get<std::string>(cell);
}

json runTableJson(const Study& study, const RunTable& table) {
    json out = json::array();
    for (const RunTable::Row& row : table.rows) {
        const Asset* asset = study.catalog().asset(row.run.asset);
        json one = rangeJson(row.run.range());
        one.update({{"id", row.run.id}, {"asset", asset ? asset->name : ""}, {"figures", json::object()}});
        for (std::size_t i = 0; i < row.cells.size(); ++i) {
            const RunColumn& c = table.columns[i].column;
            one["figures"][c.name.empty() ? c.text : c.name] = cellJson(row.cells[i]);
        }
        out.push_back(std::move(one));
    }
    return out;
}

void addTable(CLI::App& parent) {
    struct Options {
        std::string track = "Runs", where;
        std::vector<std::string> columns;
        bool guarded = false;
    };
    auto o = std::make_shared<Options>();
    auto* table =
        parent.add_subcommand("table", "Figures of runs as CSV: each column an expression about a run");
    auto common = addCommon(*table, {true, true, true});
    table->add_option("--track", o->track, "Name of the track")->required();
    table->add_option("--column", o->columns, "`mean(@gas_flow)`, `product`; several; else those kept");
    table->add_option("--where", o->where, "Only runs for which this is true");
    table->add_flag("--guard", o->guarded,
                    "Texts that a spreadsheet would run get an apostrophe before them");
    table->callback([o, common] {
        const auto study = common->open();
        const Track track = trackOrRefuse(*study, o->track);
        std::vector<RunColumn> columns;
        for (const std::string& text : o->columns) columns.push_back({"", text});
        if (columns.empty()) columns = columnsOf(*study, track);
        std::vector<Span> runs = study->tracks().spans(track.id);
        if (!o->where.empty()) {
            const auto fit = orRefuse(runsWhere(*study, track.id, o->where, common->which()));
            const std::set<SpanId> fitting(fit.begin(), fit.end());
            std::erase_if(runs, [&](const Span& s) { return !fitting.contains(s.id); });
        }
        std::erase_if(runs, [&](const Span& s) {
            return !common->asset.empty() && study->catalog().asset(s.asset)->name != common->asset;
        });
        common->keepInWindow(*study, runs);
        const RunTable made = orRefuse(runFigures(*study, runs, columns, common->which()));
        for (const RunTable::Column& c : made.columns)
            if (c.error) throw Refusal{fmt::format("column `{}`: {}", c.column.text, c.error->message)};
        if (common->asJson) return printJson(runTableJson(*study, made));
        std::cout << runTableCsv(*study, made, o->guarded);
    });
}

void addRuns(CLI::App& app) {
    auto* runs = app.add_subcommand("runs", "Runs: found by an expression, listed");
    runs->require_subcommand(1);
    struct Options {
        std::string track = "Runs";
        RunSearch search;
    };
    auto o = std::make_shared<Options>();
    auto* find =
        runs->add_subcommand("find", "Find runs where an expression is true, and keep them on a track");
    auto common = addCommon(*find, {true, true, true});
    find->add_option("--track", o->track, "Name of the track")->required();
    auto* where = find->add_option("--where", o->search.where, "True while a run lasts");
    find->add_option("--list", o->search.list, "In place of --where: each span of this track is a run")
        ->excludes(where);
    addDuration(*find, "--least", o->search.least, "Shorter ones are not runs");
    addDuration(*find, "--most", o->search.most, "Longer ones are not runs");
    addDuration(*find, "--join", o->search.join, "A break shorter than this does not end a run");
    addDuration(*find, "--trim-start", o->search.trimStart, "Cut off each run's start");
    addDuration(*find, "--trim-end", o->search.trimEnd, "Cut off each run's end");
    auto* phases = find->add_option("--phases", o->search.phases,
                                    "Phases: a state (`@kiln_step`), or `Name: condition; Name: condition`; "
                                    "the state that --where names unless said; `none` for none");
    find->callback([o, common, phases] {
        if (o->search.where.empty() && o->search.list.empty()) throw CLI::RequiredError("--where or --list");
        const auto study = common->open(false);
        o->search.asset = common->asset;
        if (common->hasWindow()) o->search.within = common->range(*study);
        if (phases->count() == 0) o->search.phases = phasesSuggestedBy(*study, o->search.where);
        if (o->search.phases == "none") o->search.phases.clear();
        const auto found = orRefuse(findRuns(*study, o->search, common->which()));
        const TrackId track = keepRuns(*study, o->track, o->search, found);
        printRuns(*study, study->tracks().spans(track), "", common->asJson);
    });
    auto* list = runs->add_subcommand("list", "The runs of a track");
    auto listCommon = addCommon(*list, {true, true});
    list->add_option("--track", o->track, "Name of the track")->required();
    list->callback([o, listCommon] {
        const auto study = listCommon->open();
        std::vector<Span> all = study->tracks().spans(trackOrRefuse(*study, o->track).id);
        listCommon->keepInWindow(*study, all);
        printRuns(*study, all, listCommon->asset, listCommon->asJson);
    });
    addTable(*runs);
}

void addGolden(CLI::App& app) {
    auto* golden = app.add_subcommand("golden", "Golden runs");
    golden->require_subcommand(1);
    struct Options {
        std::string track, where, why;
        std::vector<SpanId> runs;
    };
    auto o = std::make_shared<Options>();
    auto* set = golden->add_subcommand("set", "Choose the golden runs of a track");
    auto common = addCommon(*set, {true, true, true});
    set->add_option("--track", o->track, "Name of the track")->required();
    auto* ids = set->add_option("--run", o->runs, "Ids of runs");
    auto* where = set->add_option("--where", o->where, "An expression about a run");
    where->excludes(ids);
    set->add_option("--why", o->why, "Why these are golden");
    set->callback([o, common] {
        if (o->runs.empty() && o->where.empty()) throw CLI::RequiredError("--run or --where");
        const auto study = common->open(false);
        const Track track = trackOrRefuse(*study, o->track);
        std::vector<SpanId> chosen = o->runs;
        if (!o->where.empty()) chosen = orRefuse(runsWhere(*study, track.id, o->where, common->which()));
        if (!o->where.empty()) {
            // With --asset or a window: only runs of it, and the marks of the others stay.
            std::vector<Span> searched = study->tracks().spans(track.id);
            common->keepInWindow(*study, searched);
            std::set<SpanId> in;
            for (const Span& s : searched) in.insert(s.id);
            std::erase_if(chosen, [&](SpanId id) { return !in.contains(id); });
            for (const SpanId id : study->judgement().goldenRuns(track.id))
                if (!in.contains(id)) chosen.push_back(id);
        }
        if (chosen.empty()) throw Refusal{"no run fits; nothing was changed"};
        orRefuse(markGolden(*study, track.id, chosen, Golden::Only, o->why.empty() ? o->where : o->why));
        if (common->asJson)
            printJson({{"track", o->track}, {"golden", chosen}});
        else
            fmt::print("{} golden runs on {}\n", chosen.size(), o->track);
    });
}

/// Seconds since the start, before the end (above 0), into the phases; or the indicator's own unit.
double offsetOf(const LimitSpec& spec, Place place) {
    const double seconds = toSeconds(place.time_since_epoch());
    return spec.lineUp == LineUp::End ? -seconds : seconds;
}

json phasesJson(const GoldenLimits& limits) {
    json out = json::array();
    for (const PhaseSlot& p : limits.phases)
        out.push_back({{"name", p.name}, {"length", toSeconds(p.length)}});
    return out;
}

json limitsJson(const LimitSet& set) {
    json tags = json::array();
    for (const auto& [role, limits] : set.byRole) {
        json slices = json::array();
        for (const LimitSlice& s : limits.slices)
            slices.push_back({{"offset", offsetOf(limits.spec, s.offset)},
                              {"n", s.n},
                              {"low", s.low},
                              {"centre", s.centre},
                              {"high", s.high}});
        const auto flagged = set.flagged.find(role);
        tags.push_back(
            {{"role", role},
             {"goldenFlagged", flagged == set.flagged.end() ? json() : json(flagged->second.flagged)},
             {"widened", limits.widened},
             {"goldenJudged", flagged == set.flagged.end() ? json() : json(flagged->second.of)},
             {"leaveOutAbnormal", limits.spec.leaveOutAbnormal},
             {"slicesWithLimits", slicesWithLimits(limits)},
             {"method", limitMethodName(limits.spec.method)},
             {"lineUp", lineUpName(limits.spec.lineUp)},
             {"every", toSeconds(limits.spec.every)},
             {"k", limits.spec.k},
             {"phases", phasesJson(limits)},
             {"slices", slices}});
    }
    json out{{"name", set.name}, {"version", set.version}, {"golden", set.goldenRuns}, {"tags", tags}};
    if (!set.forRuns.empty()) out["forRuns"] = set.forRuns;
    if (set.validFrom != kNoInstant) out["validFrom"] = toIso(set.validFrom);
    if (tags.size() == 1) out["slices"] = tags[0]["slices"];
    return out;
}

void printLimits(const LimitSet& set, bool asJson) {
    if (asJson) return printJson(limitsJson(set));
    for (const auto& [role, limits] : set.byRole) {
        const auto flagged = set.flagged.find(role);
        fmt::print("{}: {} of {} slices of {} have limits, {} golden runs, {}{}\n", role,
                   slicesWithLimits(limits), limits.slices.size(), formatDuration(limits.spec.every),
                   set.goldenRuns.size(), limitMethodName(limits.spec.method),
                   flagged == set.flagged.end() ? ""
                                                : "; each judged without itself, they flag " +
                                                      flaggedWords(flagged->second, limits.widened));
    }
}

/// A figure that the chosen method or way to line up does not use is a misunderstanding, not something to
/// pass over.
void refuseUnusedFigures(const CLI::App& build, const LimitSpec& spec) {
    struct Use {
        const char* option;
        bool used;
    };
    const LimitMethod m = spec.method;
    const bool indicator = spec.lineUp == LineUp::Indicator;
    for (const Use& use :
         {Use{"--k", m == LimitMethod::MeanSd || m == LimitMethod::MedianMad},
          Use{"--q", m == LimitMethod::Quantile}, Use{"--coverage", m == LimitMethod::Tolerance},
          Use{"--confidence", m == LimitMethod::Tolerance}, Use{"--indicator", indicator},
          Use{"--indicator-step", indicator}, Use{"--slack", !indicator}})
        if (build.get_option(use.option)->count() > 0 && !use.used)
            throw Refusal{fmt::format("{} means nothing with method {} lined up by {}", use.option,
                                      limitMethodName(m), lineUpName(spec.lineUp))};
}

void addLimitLists(CLI::App& limits) {
    auto* list = limits.add_subcommand("list", "Every version of all limits");
    auto common = addCommon(*list);
    list->callback([common] {
        const auto study = common->open();
        json all = json::array();
        for (const LimitSet& set : study->judgement().limitSets()) {
            json roles = json::array();
            for (const auto& [role, made] : set.byRole) roles.push_back(role);
            all.push_back({{"name", set.name},
                           {"version", set.version},
                           {"roles", roles},
                           {"golden", set.goldenRuns.size()},
                           {"made", toIso(set.made)},
                           {"outOfDate", outOfDate(*study, set)},
                           {"who", set.who}});
            if (!common->asJson)
                fmt::print("{:<24} {:>3}  {} tags, {} golden runs, {} {}  {}\n", set.name, set.version,
                           set.byRole.size(), set.goldenRuns.size(), toIso(set.made), set.who,
                           outOfDate(*study, set));
        }
        if (common->asJson) printJson(all);
    });
    auto* again = limits.add_subcommand(
        "again", "Limits that are out of date made again from the same golden runs, and every run screened");
    auto againCommon = addCommon(*again, {.asLogged = true});
    auto track = std::make_shared<std::string>();
    again->add_option("--track", *track, "Track of runs; the first unless said");
    again->callback([againCommon, track] {
        const auto study = againCommon->open(false);
        TrackId runs;
        if (!track->empty())
            runs = trackOrRefuse(*study, *track).id;
        else if (const auto first = study->tracks().firstOf(track_kind::kRuns))
            runs = first->id;
        const std::string old = excursionsOutOfDate(*study, runs);
        const MadeAgain made =
            orRefuse(makeAgain(*study, runs, againCommon->which(), progressOnStderr("limits")));
        if (againCommon->asJson)
            return printJson({{"outOfDate", old},
                              {"limits", made.limits},
                              {"excursionsBefore", made.before},
                              {"excursions", made.after},
                              {"changed", made.cleared}});
        for (const std::string& title : made.limits) fmt::print("limits {} made\n", title);
        fmt::print("{} excursions, {} before: {}\n", made.after, made.before, made.cleared);
    });
    auto* remove = limits.add_subcommand("remove", "Remove limits: one version, or all of a name");
    auto name = std::make_shared<std::string>();
    auto version = std::make_shared<int>(0);
    auto removeCommon = addCommon(*remove);
    remove->add_option("--name", *name, "Name of the limits")->required();
    remove->add_option("--version", *version, "Only this version");
    remove->callback([removeCommon, name, version] {
        const auto study = removeCommon->open(false);
        limitsOrRefuse(*study, *name, *version);
        orRefuse(removeLimits(*study, *name, *version));
        if (removeCommon->asJson) printJson({{"removed", *name}});
    });
}

struct LimitOptions {
    std::string name, track, method = "mean-sd", lineUp = "start", forRuns, validFrom;
    double indicatorStep = 1;
    bool keepAbnormal = false;
    int version = 0;
    std::vector<std::string> roles;
    LimitSpec spec;
};

/// The options that say how limits are made; the one for the method.
CLI::Option* addLimitOptions(CLI::App& command, LimitOptions& o) {
    command.add_option("--name", o.name, "Name of the limits")->required();
    command.add_option("--track", o.track, "Track of runs")->required();
    command.add_option("--tag", o.roles, "Role, one or several")->required();
    addDuration(command, "--every", o.spec.every, "Length of a slice (2m)");
    auto* method = command
                       .add_option("--method", o.method,
                                   "How; unless said, what the window proposes (tolerance, phases, smoothed)")
                       ->check(CLI::IsMember({"mean-sd", "tolerance", "median-mad", "quantile", "envelope"}));
    command.add_option("--k", o.spec.k, "Half-width in s or scaled MAD (3)")->check(CLI::PositiveNumber);
    command.add_option("--q", o.spec.q, "Lower quantile (0.05)")->check(CLI::Range(0.0, 0.5));
    command.add_option("--coverage", o.spec.coverage, "tolerance: share of good runs inside (0.99)")
        ->check(CLI::Range(0.5, 0.9999));
    command.add_option("--confidence", o.spec.confidence, "tolerance: how sure (0.95)")
        ->check(CLI::Range(0.5, 0.9999));
    command.add_option("--least-runs", o.spec.leastRuns, "Fewer golden runs at a slice: no limit there (3)")
        ->check(CLI::Range(1, 1'000'000));
    command.add_option("--smooth", o.spec.smooth, "Slices averaged afterwards, odd (1)");
    addDuration(command, "--slack", o.spec.slack, "How far a run may be early or late (0s)");
    command.add_flag("--keep-abnormal", o.keepAbnormal,
                     "Labelled abnormal events, stops and unsound stretches inside golden runs count too");
    command.add_option("--line-up", o.lineUp, "By what runs are lined up")
        ->check(CLI::IsMember({"start", "end", "phases", "indicator"}));
    command.add_option("--indicator", o.spec.indicator, "indicator: role of a tag that rises through a run");
    command.add_option("--indicator-step", o.indicatorStep, "indicator: length of a slice in its unit (1)")
        ->check(CLI::PositiveNumber);
    command.add_option("--for", o.forRuns, "Only for runs for which this is true: product = \"Pale\"");
    command.add_option("--valid-from", o.validFrom, "Only for runs that start then or later, ISO 8601");
    return method;
}

void addLimits(CLI::App& app) {
    auto* limits = app.add_subcommand("limits", "Golden limits");
    limits->require_subcommand(1);
    auto o = std::make_shared<LimitOptions>();
    auto* build = limits->add_subcommand("build", "Limits from the golden runs of a track");
    auto common = addCommon(*build, {false, false, true});
    auto* method = addLimitOptions(*build, *o);
    build->callback([o, common, method, build] {
        const auto study = common->open(false);
        const Track track = trackOrRefuse(*study, o->track);
        const auto said = [&](const char* option) { return build->get_option(option)->count() > 0; };
        if (o->spec.every <= Duration::zero()) throw Refusal{"--every has to be a length of time above 0"};
        o->spec.method = orRefuse(limitMethodNamed(o->method));
        o->spec.lineUp = orRefuse(lineUpNamed(o->lineUp));
        o->spec.leaveOutAbnormal = !o->keepAbnormal;
        if (method->count() == 0) {
            const LimitSpec proposed = proposedLimits(*study, track.id);
            o->spec.method = proposed.method;
            if (!said("--every")) o->spec.every = proposed.every;
            if (!said("--line-up")) o->spec.lineUp = proposed.lineUp;
            if (!said("--smooth")) o->spec.smooth = proposed.smooth;
            if (!said("--slack")) o->spec.slack = proposed.slack;
        }
        refuseUnusedFigures(*build, o->spec);
        if (o->spec.lineUp == LineUp::Indicator) {
            o->spec.slack = {};  // a time is not a place on its scale
            o->spec.every = indicatorStep(o->indicatorStep);
        }
        LimitSet set =
            orRefuse(makeLimits(*study, o->name, track.id, o->roles, o->spec, common->which(), o->forRuns));
        if (!o->validFrom.empty()) set.validFrom = orRefuse(fromIso(o->validFrom));
        keepLimits(*study, set);
        for (const auto& [role, made] : set.byRole)
            if (const std::size_t with = slicesWithLimits(made); with < made.slices.size())
                std::cerr << fmt::format(
                    "jacinth-cli: {}: {} of {} slices have fewer than {} golden runs and no limits\n", role,
                    made.slices.size() - with, made.slices.size(), made.spec.leastRuns);
        printLimits(*study->judgement().limitSetNamed(o->name), common->asJson);
    });
    auto* show = limits->add_subcommand("show", "The limits by that name");
    auto showCommon = addCommon(*show);
    show->add_option("--name", o->name, "Name of the limits")->required();
    show->add_option("--version", o->version, "An older version; the newest unless said");
    show->callback([o, showCommon] {
        const auto study = showCommon->open();
        printLimits(limitsOrRefuse(*study, o->name, o->version), showCommon->asJson);
    });
    addLimitLists(*limits);
}

void addScreen(CLI::App& app) {
    auto* command = app.add_subcommand("screen", "Every run against golden limits: excursions");
    struct Options {
        std::string limits;
        int version = 0;
        ScreenSpec spec;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {true, true, true});
    command->add_option("--limits", o->limits, "Name of the limits")->required();
    command
        ->add_option("--version", o->version, "This version judges all runs (else those that apply to each)")
        ->check(CLI::PositiveNumber);
    addDuration(*command, "--ignore", o->spec.ignore, "Shorter excursions are dropped (20m)");
    addDuration(*command, "--join", o->spec.join, "Shorter returns do not end one (10m)");
    command->callback([o, common] {
        const auto study = common->open(false);
        const LimitSet set = limitsOrRefuse(*study, o->limits, o->version);
        const auto screened = o->version ? screenBy(*study, set, study->tracks().spans(set.track), o->spec,
                                                    common->which(), progressOnStderr("screening"))
                                         : screenTrack(*study, set.track, o->limits, o->spec, common->which(),
                                                       progressOnStderr("screening"));
        keepExcursions(*study, set.track, o->spec, screened, common->which());
        json out = json::array();
        const TimeRange range = common->range(*study);
        for (const KeptExcursion& e : excursionsOfRuns(*study, set.track)) {
            const Tag* tag = study->catalog().tag(e.span.tag);
            if (!tag || (common->hasWindow() && (e.span.end < range.from || e.span.start >= range.to)))
                continue;
            if (!common->asset.empty() && tag->assetName != common->asset) continue;
            json j = rangeJson(e.span.range());
            j.update({{"run", e.run},
                      {"asset", tag->assetName},
                      {"tag", tag->name},
                      {"side", e.side == Side::High ? "high" : "low"},
                      {"outside", toSeconds(e.outside)},
                      {"peak", e.peak},
                      {"area", e.area},
                      {"severity", e.severity},
                      {"dismissed", e.dismissed.empty() ? json() : json(e.dismissed)}});
            out.push_back(j);
            if (!common->asJson)
                fmt::print("{} {}  run {:>5}  {:<24} {:<13} peak {:+.4g} {}{}\n", e.severity,
                           toIso(e.span.start), e.run, tag->path(), sayDuration(e.outside), e.peak, tag->unit,
                           e.dismissed.empty() ? "" : "  dismissed: " + e.dismissed);
        }
        if (common->asJson) printJson(out);
    });
}

}  // namespace

void addRunCommands(CLI::App& app) {
    addRuns(app);
    addGolden(app);
    addLimits(app);
    addScreen(app);
}

}  // namespace jacinth::cli
