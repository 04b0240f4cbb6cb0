// parts, peaks, by-state, fleet, cycles: what Survey shows, as figures.
#include <fmt/format.h>

#include <cmath>
#include <iostream>

#include "cli/command.h"
#include "cli/group_options.h"
#include "core/series/by_state.h"
#include "core/stats/stats.h"
#include "work/survey/cycles.h"
#include "work/survey/fleet.h"
#include "work/survey/tag_by_state.h"
#include "work/survey/tag_parts.h"
#include "work/survey/tag_peaks.h"

namespace jacinth::cli {
namespace {

json number(double v) {
    return std::isfinite(v) ? json(v) : json();
}

std::string cell(double v) {
    return std::isfinite(v) ? fmt::format("{}", v) : "";
}

void addParts(CLI::App& app) {
    auto* command = app.add_subcommand("parts", "Trend, cycle and remainder of a tag");
    struct Options {
        std::string tag, take = "mean", way = "loess", kind = "propose";
        PartsSpec spec;
        bool keep = false;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {.window = true, .asLogged = true});
    command->add_option("--tag", o->tag, "Asset/Tag")->required();
    addDuration(*command, "--every", o->spec.every, "Step of the grid");
    addDuration(*command, "--period", o->spec.period, "Length of the cycle; proposed where not given");
    command->add_option("--take", o->take, "Figure of each step: mean, min, max, first, last, …");
    command->add_option("--way", o->way, "loess or classical")->check(CLI::IsMember({"loess", "classical"}));
    command->add_option("--kind", o->kind, "propose, added or multiplied")
        ->check(CLI::IsMember({"propose", "added", "multiplied"}));
    command->add_option("--cycle-span", o->spec.cycleSpan, "Periods that smooth the cycle (odd)");
    command->add_flag("--robust", o->spec.robust, "Let outliers count for less");
    command->add_flag("--keep", o->keep, "Keep the parts as derived tags");
    command->callback([o, common] {
        const auto study = common->open(!o->keep);
        const Tag tag = orRefuse(study->catalog().tagAt(o->tag));
        o->spec.take = orRefuse(takeNamed(o->take));
        o->spec.loess = o->way == "loess";
        o->spec.kind = o->kind == "added"        ? PartsKind::Added
                       : o->kind == "multiplied" ? PartsKind::Multiplied
                                                 : PartsKind::Propose;
        const TagParts p = orRefuse(partsOf(*study, tag, common->range(*study), o->spec, common->which()));
        if (o->keep) orRefuse(keepDerived(*study, partsToKeep(tag, p, o->spec)));
        if (common->asJson)
            return printJson({{"period", toSeconds(o->spec.every * p.period)},
                              {"proposedPeriod", toSeconds(o->spec.every * p.proposed.period)},
                              {"strength", p.proposed.strength},
                              {"multiplied", p.parts.multiplied},
                              {"reason", p.kindReason},
                              {"steps", p.grid.values.size()},
                              {"bridged", p.bridged}});
        std::cout << "time,value,trend,cycle,remainder\n";
        for (std::size_t i = 0; i < p.grid.values.size(); ++i)
            std::cout << toIso(p.grid.edges[i]) << ',' << cell(p.grid.values[i]) << ','
                      << cell(p.parts.trend[i]) << ',' << cell(p.parts.cycle[i]) << ','
                      << cell(p.parts.remainder[i]) << '\n';
    });
}

void addPeaks(CLI::App& app) {
    auto* command = app.add_subcommand("peaks", "Peaks of a tag by height, prominence, width and distance");
    struct Options {
        std::string tag, track;
        PeakSearch search;
        bool propose = false;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {.window = true, .asLogged = true});
    command->add_option("--tag", o->tag, "Asset/Tag")->required();
    command->add_option("--height", o->search.leastHeight, "Least height");
    command->add_option("--most-height", o->search.greatestHeight, "Greatest height");
    command->add_option("--prominence", o->search.leastProminence, "Least prominence");
    addDuration(*command, "--width", o->search.leastWidth, "Least width");
    addDuration(*command, "--most-width", o->search.greatestWidth, "Greatest width");
    addDuration(*command, "--distance", o->search.leastDistance, "Least distance of two peaks");
    command
        ->add_option("--relative-height", o->search.relativeHeight,
                     "Where the width is taken, 0 top to 1 base")
        ->check(CLI::Range(0.0, 1.0));
    command->add_flag("--troughs", o->search.troughs, "Low points instead");
    command->add_option("--keep", o->track, "Keep them as spans on this track");
    command->add_flag("--propose", o->propose, "Propose the narrow ones for mending");
    command->callback([o, common] {
        const auto study = common->open(o->track.empty() && !o->propose);
        const Tag tag = orRefuse(study->catalog().tagAt(o->tag));
        if (tag.kind == TagKind::State) throw Refusal{"states have no peaks"};
        const TimeRange range = common->range(*study);
        const Series read = orRefuse(allSamples(*study, tag, range, common->which()));
        const auto peaks = findPeaks(read.view().within(range), o->search);
        const Duration narrow = narrowBelow(peaks);
        if (!o->track.empty()) keepPeaks(*study, o->track, tag, peaks, narrow);
        if (o->propose) proposeHiding(*study, tag, peaks, narrow);
        json list = json::array();
        for (const Peak& p : peaks)
            list.push_back({{"time", toIso(p.time)},
                            {"height", p.height},
                            {"prominence", p.prominence},
                            {"start", toIso(p.left)},
                            {"end", toIso(p.right)},
                            {"width", toSeconds(p.width())},
                            {"narrow", p.width() < narrow}});
        if (common->asJson) return printJson({{"narrowBelow", toSeconds(narrow)}, {"peaks", list}});
        std::cout << "time,height,prominence,width\n";
        for (const Peak& p : peaks)
            std::cout << toIso(p.time) << ',' << p.height << ',' << p.prominence << ','
                      << toSeconds(p.width()) << '\n';
    });
}

void addByState(CLI::App& app) {
    auto* command = app.add_subcommand("by-state", "Values of a tag split by the states of another");
    struct Options {
        std::string tag, by;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {.window = true, .asLogged = true});
    command->add_option("--tag", o->tag, "Asset/Tag with numbers")->required();
    command->add_option("--by", o->by, "Asset/Tag with states")->required();
    command->callback([o, common] {
        const auto study = common->open();
        const Tag tag = orRefuse(study->catalog().tagAt(o->tag)),
                  by = orRefuse(study->catalog().tagAt(o->by));
        if (tag.kind == TagKind::State)
            throw Refusal{fmt::format("{} holds states, not numbers", tag.path())};
        if (by.kind != TagKind::State) throw Refusal{fmt::format("{} holds no states", by.path())};
        const TimeRange range = common->range(*study);
        const auto split = orRefuse(tagByState(*study, tag, by, range, common->which()));
        json out = json::array();
        for (const StateValues& s : split) {
            json quantiles;
            for (const double q : {0.05, 0.25, 0.5, 0.75, 0.95})
                quantiles.push_back(number(quantileOfSorted(s.sorted, q)));
            out.push_back({{"state", by.states[static_cast<std::size_t>(s.state)]},
                           {"seconds", toSeconds(s.time)},
                           {"count", s.sorted.size()},
                           {"least", s.sorted.empty() ? json() : json(s.sorted.front())},
                           {"greatest", s.sorted.empty() ? json() : json(s.sorted.back())},
                           {"quantiles", quantiles}});
        }
        if (common->asJson) return printJson(out);
        std::cout << "state,hours,count,q05,q25,q50,q75,q95\n";
        for (const StateValues& s : split) {
            std::cout << csvField(by.states[static_cast<std::size_t>(s.state)]) << ',' << toHours(s.time)
                      << ',' << s.sorted.size();
            for (const double q : {0.05, 0.25, 0.5, 0.75, 0.95})
                std::cout << ',' << cell(quantileOfSorted(s.sorted, q));
            std::cout << '\n';
        }
    });
}

void addFleet(CLI::App& app) {
    auto* command =
        app.add_subcommand("fleet", "One role over all assets, from most to least unlike the others");
    struct Options {
        std::string role, profile = "run";
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {.window = true, .asLogged = true});
    auto group = addGroupOptions(*command);
    command->add_option("--role", o->role, "Role")->required();
    command->add_option("--profile", o->profile, "run, day or time")
        ->check(CLI::IsMember({"run", "day", "time"}));
    command->callback([o, common, group] {
        const auto study = common->open();
        const Grouping grouping = groupingFrom(*group, *study);
        const AssetGroups groups(*study, grouping.fact);
        FleetSpec spec;
        if (grouping.only) spec.assets = assetsIn(*study, grouping);
        spec.role = o->role.starts_with('@') ? o->role.substr(1) : o->role;
        spec.range = common->range(*study);
        spec.which = common->which();
        spec.profile = o->profile == "run"   ? ProfileBy::Run
                       : o->profile == "day" ? ProfileBy::Day
                                             : ProfileBy::Time;
        const FleetPicture p = orRefuse(fleetOf(*study, spec));
        json rows = json::array();
        for (const FleetRow& r : p.rows)
            rows.push_back({{"asset", study->catalog().asset(r.asset)->name},
                            {"group", grouping.fact.empty() ? json() : json(groups.nameOf(r.asset))},
                            {"oddness", number(r.odd.score)},
                            {"samples", r.samples},
                            {"least", number(r.least)},
                            {"q05", number(r.low)},
                            {"q25", number(r.lowerQuartile)},
                            {"q50", number(r.middle)},
                            {"q75", number(r.upperQuartile)},
                            {"q95", number(r.high)},
                            {"greatest", number(r.greatest)}});
        if (common->asJson)
            return printJson({{"role", p.spec.role},
                              {"unit", p.unit},
                              {"profile", p.spec.profile == ProfileBy::Run   ? "run"
                                          : p.spec.profile == ProfileBy::Day ? "day"
                                                                             : "time"},
                              {"rows", rows}});
        std::cout << "asset,oddness,q05,q50,q95,samples\n";
        for (const FleetRow& r : p.rows)
            std::cout << csvField(study->catalog().asset(r.asset)->name) << ',' << cell(r.odd.score) << ','
                      << cell(r.low) << ',' << cell(r.middle) << ',' << cell(r.high) << ',' << r.samples
                      << '\n';
    });
}

void addCycles(CLI::App& app) {
    auto* command = app.add_subcommand("cycles", "A tag over every stretch between stops, lined up");
    struct Options {
        std::string tag, every = "1d";
        CycleSpec spec;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {.asLogged = true});
    command->add_option("--tag", o->tag, "Asset/Tag")->required();
    command->add_option("--between", o->spec.kind, "stops, work-orders, failures or labels");
    command->add_option("--say", o->spec.words, "Only those whose text holds this");
    command->add_option("--every", o->every, "One figure each, like 12h");
    command->add_option("--only", o->spec.only, "Only samples while this condition is true");
    command->callback([o, common] {
        const auto study = common->open();
        const Tag tag = orRefuse(study->catalog().tagAt(o->tag));
        o->spec.asset = tag.asset;
        o->spec.tag = tag.id;
        o->spec.which = common->which();
        o->spec.every = orRefuse(periodNamed(o->every));
        const CyclePicture p = orRefuse(cyclesOf(*study, o->spec));
        json cycles = json::array();
        for (std::size_t i = 0; i < p.cycles.size(); ++i) {
            json c = rangeJson(p.cycles[i].range);
            c["figures"] = p.cycles[i].days.x.size();
            c["open"] = p.cycles[i].open;
            if (p.slopes && p.slopes->own[i].n > 0) c["slopePerDay"] = p.slopes->own[i].slope;
            cycles.push_back(std::move(c));
        }
        json out{{"cycles", cycles}, {"says", p.says}, {"unit", p.unit}};
        if (p.slopes)
            out["common"] = {{"slopePerDay", p.slopes->slope},
                             {"low", number(p.slopes->slopeLow)},
                             {"high", number(p.slopes->slopeHigh)},
                             {"pSame", number(p.slopes->p)},
                             {"pNone", number(p.slopes->pNone)}};
        if (common->asJson) return printJson(out);
        std::cout << p.says << '\n';
    });
}

}  // namespace

void addSurveyCommands(CLI::App& app) {
    addParts(app);
    addPeaks(app);
    addByState(app);
    addFleet(app);
    addCycles(app);
}

}  // namespace jacinth::cli
