// runs find/list, golden set, limits build/show, screen
#include <fmt/format.h>

#include "cli/command.h"
#include "work/find_runs.h"
#include "work/screening.h"

namespace jacinth::cli {
namespace {

Track trackOrSayNo(const Study& study, const std::string& name) {
    if (const auto track = study.trackNamed(name)) return *track;
    std::vector<std::string> known;
    for (const Track& t : study.tracks()) known.push_back(t.name);
    throw SaysNo{fmt::format("there is no track `{}`; there {} {}", name, known.size() == 1 ? "is" : "are",
                             known.empty() ? "none yet" : fmt::format("{}", fmt::join(known, ", ")))};
}

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
    auto common = addCommon(*find, {false, true, true});
    find->add_option("--track", o->track, "Name of the track")->required();
    find->add_option("--where", o->search.where, "True while a run lasts")->required();
    addDuration(*find, "--least", o->search.least, "Shorter ones are no runs");
    addDuration(*find, "--most", o->search.most, "Longer ones are no runs");
    addDuration(*find, "--join", o->search.join, "A break shorter than this does not end a run");
    find->callback([o, common] {
        const auto study = common->open(false);
        o->search.asset = common->asset;
        const auto found = orSayNo(findRuns(*study, o->search, common->which()));
        const std::int64_t track = keepRuns(*study, o->track, o->search, found);
        printRuns(*study, study->spans(track), "", common->asJson);
    });
    auto* list = runs->add_subcommand("list", "The runs of a track");
    auto listCommon = addCommon(*list, {false, true});
    list->add_option("--track", o->track, "Name of the track")->required();
    list->callback([o, listCommon] {
        const auto study = listCommon->open();
        printRuns(*study, study->spans(trackOrSayNo(*study, o->track).id), listCommon->asset,
                  listCommon->asJson);
    });
}

void addGolden(CLI::App& app) {
    auto* golden = app.add_subcommand("golden", "Golden runs");
    golden->require_subcommand(1);
    struct Options {
        std::string track, where, why;
        std::vector<std::int64_t> runs;
    };
    auto o = std::make_shared<Options>();
    auto* set = golden->add_subcommand("set", "Choose the golden runs of a track");
    auto common = addCommon(*set, {false, false, true});
    set->add_option("--track", o->track, "Name of the track")->required();
    auto* ids = set->add_option("--run", o->runs, "Ids of runs");
    auto* where = set->add_option("--where", o->where, "An expression about a run");
    where->excludes(ids);
    set->add_option("--why", o->why, "Why these are golden");
    set->callback([o, common] {
        if (o->runs.empty() && o->where.empty()) throw CLI::RequiredError("--run or --where");
        const auto study = common->open(false);
        const Track track = trackOrSayNo(*study, o->track);
        std::vector<std::int64_t> chosen = o->runs;
        if (!o->where.empty()) chosen = orSayNo(runsWhere(*study, track.id, o->where, common->which()));
        const auto all = study->spans(track.id);
        for (const std::int64_t id : chosen)
            if (std::none_of(all.begin(), all.end(), [&](const Span& s) { return s.id == id; }))
                throw SaysNo{fmt::format("there is no run {} on {}", id, o->track)};
        if (chosen.empty()) throw SaysNo{"no run fits; nothing was changed"};
        const std::string why = !o->why.empty() ? o->why : !o->where.empty() ? o->where : "chosen by hand";
        study->change(fmt::format("{} golden runs on {}", chosen.size(), o->track), why, {{"runs", chosen}},
                      [&] { study->setGoldenRuns(track.id, chosen, why); });
        if (common->asJson)
            printJson({{"track", o->track}, {"golden", chosen}});
        else
            fmt::print("{} golden runs on {}\n", chosen.size(), o->track);
    });
}

json limitsJson(const LimitSet& set) {
    json tags = json::array();
    for (const auto& [role, limits] : set.byRole) {
        json slices = json::array();
        for (const LimitSlice& s : limits.slices)
            slices.push_back({{"offset", toSeconds(s.offset)},
                              {"n", s.n},
                              {"low", s.low},
                              {"centre", s.centre},
                              {"high", s.high}});
        tags.push_back({{"role", role},
                        {"method", limitMethodName(limits.spec.method)},
                        {"lineUp", lineUpName(limits.spec.lineUp)},
                        {"every", toSeconds(limits.spec.every)},
                        {"k", limits.spec.k},
                        {"slices", slices}});
    }
    json out{{"name", set.name}, {"golden", set.goldenRuns}, {"tags", tags}};
    if (tags.size() == 1) out["slices"] = tags[0]["slices"];
    return out;
}

void printLimits(const LimitSet& set, bool asJson) {
    if (asJson) return printJson(limitsJson(set));
    for (const auto& [role, limits] : set.byRole)
        fmt::print("{}: {} slices every {}, {} golden runs, {}\n", role, limits.slices.size(),
                   formatDuration(limits.spec.every), set.goldenRuns.size(),
                   limitMethodName(limits.spec.method));
}

void addLimits(CLI::App& app) {
    auto* limits = app.add_subcommand("limits", "Golden limits");
    limits->require_subcommand(1);
    struct Options {
        std::string name, track, method = "mean-sd", lineUp = "start";
        std::vector<std::string> roles;
        LimitSpec spec;
    };
    auto o = std::make_shared<Options>();
    auto* build = limits->add_subcommand("build", "Limits from the golden runs of a track");
    auto common = addCommon(*build, {false, false, true});
    build->add_option("--name", o->name, "Name of the limits")->required();
    build->add_option("--track", o->track, "Track of runs")->required();
    build->add_option("--tag", o->roles, "Role, one or several")->required();
    addDuration(*build, "--every", o->spec.every, "Length of a slice (2m)");
    build->add_option("--method", o->method, "How")
        ->check(CLI::IsMember({"mean-sd", "median-mad", "quantile", "envelope"}));
    build->add_option("--k", o->spec.k, "Half-width in s or scaled MAD (3)")->check(CLI::PositiveNumber);
    build->add_option("--q", o->spec.q, "Lower quantile (0.05)")->check(CLI::Range(0.0, 0.5));
    build->add_option("--line-up", o->lineUp, "By what runs are lined up")
        ->check(CLI::IsMember({"start", "end"}));
    build->callback([o, common] {
        const auto study = common->open(false);
        o->spec.method = orSayNo(limitMethodNamed(o->method));
        o->spec.lineUp = orSayNo(lineUpNamed(o->lineUp));
        const Track track = trackOrSayNo(*study, o->track);
        const LimitSet set =
            orSayNo(makeLimits(*study, o->name, track.id, o->roles, o->spec, common->which()));
        keepLimits(*study, set);
        printLimits(set, common->asJson);
    });
    auto* show = limits->add_subcommand("show", "The limits by that name");
    auto showCommon = addCommon(*show);
    show->add_option("--name", o->name, "Name of the limits")->required();
    show->callback([o, showCommon] {
        const auto study = showCommon->open();
        const auto set = study->limitSetNamed(o->name);
        if (!set) throw SaysNo{fmt::format("there are no limits `{}`", o->name)};
        printLimits(*set, showCommon->asJson);
    });
}

void addScreen(CLI::App& app) {
    auto* command = app.add_subcommand("screen", "Every run against golden limits: excursions");
    struct Options {
        std::string limits;
        ScreenSpec spec;
    };
    auto o = std::make_shared<Options>();
    auto common = addCommon(*command, {false, true, true});
    command->add_option("--limits", o->limits, "Name of the limits")->required();
    addDuration(*command, "--ignore", o->spec.ignore, "Shorter excursions are dropped (20m)");
    addDuration(*command, "--join", o->spec.join, "Shorter returns do not end one (10m)");
    command->callback([o, common] {
        const auto study = common->open(false);
        const auto set = study->limitSetNamed(o->limits);
        if (!set) throw SaysNo{fmt::format("there are no limits `{}`", o->limits)};
        const auto screened = screenRuns(*study, *set, o->spec, common->which());
        keepExcursions(*study, *set, o->spec, screened);
        json out = json::array();
        for (const KeptExcursion& e : excursionsOf(*study)) {
            const Tag* tag = study->catalog().tag(e.span.tag);
            if (!common->asset.empty() && tag->assetName != common->asset) continue;
            json j = rangeJson(e.span.range());
            j.update({{"run", e.run},
                      {"asset", tag->assetName},
                      {"tag", tag->name},
                      {"side", e.side == Side::High ? "high" : "low"},
                      {"peak", e.peak},
                      {"area", e.area},
                      {"severity", e.severity}});
            out.push_back(j);
            if (!common->asJson)
                fmt::print("{} {}  run {:>5}  {:<24} {:<13} peak {:+.4g} {}\n", e.severity,
                           toIso(e.span.start), e.run, tag->path(), sayDuration(e.span.end - e.span.start),
                           e.peak, tag->unit);
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
