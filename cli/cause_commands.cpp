// causes
#include <fmt/format.h>

#include "cli/command.h"
#include "work/causes/find_causes.h"

namespace jacinth::cli {
namespace {

struct CauseOptions {
    std::string limits;
    std::vector<int> without;
    ScreenSpec spec;
    bool ignoreGiven = false, joinGiven = false;
};

/// What is left of the list when a window or an asset was asked for.
void keepAsked(const Study& study, const Common& common, FoundCauses& found) {
    const TimeRange range = common.range(study);
    std::erase_if(found.excursions, [&](const ExplainedExcursion& e) {
        const Tag* tag = study.catalog().tag(e.tag);
        if (!tag || (!common.asset.empty() && tag->assetName != common.asset)) return true;
        return common.hasWindow() && (e.excursion.end < range.from || e.excursion.start >= range.to);
    });
    std::erase_if(found.causes, [&](const Cause& c) { return found.count(c.id) == 0; });
}

std::string assetName(const Study& study, AssetId id) {
    for (const Asset& asset : study.catalog().assets())
        if (asset.id == id) return asset.name;
    return {};
}

json causeJson(const Study& study, const FoundCauses& found, const Cause& cause) {
    json tags = json::array(), excursions = json::array();
    for (const TagId tag : cause.tags) tags.push_back(study.catalog().tag(tag)->path());
    for (const ExplainedExcursion& e : found.excursions)
        if (e.cause == cause.id)
            excursions.push_back({{"run", e.run},
                                  {"tag", study.catalog().tag(e.tag)->path()},
                                  {"outside", toSeconds(e.excursion.outside)},
                                  {"start", toIso(e.excursion.start)},
                                  {"share", e.share}});
    return {{"id", cause.id},
            {"kind", causeKindName(cause.kind)},
            {"asset", assetName(study, cause.asset)},
            {"tags", tags},
            {"from", toIso(cause.range.from)},
            {"to", toIso(cause.range.to)},
            {"excursions", excursions},
            {"hours", found.hours(cause.id)},
            {"sure", cause.sure},
            {"why", cause.why}};
}

json unexplainedJson(const Study& study, const FoundCauses& found) {
    json out = json::array();
    for (const ExplainedExcursion& e : found.excursions) {
        if (e.cause) continue;
        const Tag* tag = study.catalog().tag(e.tag);
        out.push_back({{"run", e.run},
                       {"asset", tag->assetName},
                       {"tag", tag->path()},
                       {"start", toIso(e.excursion.start)},
                       {"end", toIso(e.excursion.end)},
                       {"outside", toSeconds(e.excursion.outside)},
                       {"severity", e.excursion.severity}});
    }
    return out;
}

void print(const Study& study, const FoundCauses& found) {
    for (const Cause& c : found.causes)
        fmt::print("{:>3}  {:<8} {:<8} since {}  {:>4} excursions  {:>7.1f} h  {:>3.0f} %  {}\n", c.id,
                   causeKindName(c.kind), assetName(study, c.asset), study.zone().text(c.range.from),
                   found.count(c.id), found.hours(c.id), 100 * c.sure, c.why);
    fmt::print("     unexplained: {} of {} excursions, {:.1f} h\n", found.count(0), found.excursions.size(),
               found.hours(0));
}

void run(const Common& common, CauseOptions o) {
    const auto study = common.open();
    const LimitSet set = limitsOrRefuse(*study, o.limits);
    const ScreenSpec usual = screenSpecOf(*study);
    if (!o.ignoreGiven) o.spec.ignore = usual.ignore;
    if (!o.joinGiven) o.spec.join = usual.join;
    const Progress progress = progressOnStderr("causes");
    FoundCauses found = orRefuse(findCauses(*study, set.track, o.limits, o.spec, common.which(), progress));
    if (!o.without.empty()) {
        for (const int id : o.without)
            if (!found.cause(id))
                throw Refusal{fmt::format("cause {} is not in the list; `causes` numbers them", id)};
        found = orRefuse(
            withoutCauses(*study, found, o.without, set.track, o.limits, o.spec, common.which(), progress));
    }
    keepAsked(*study, common, found);
    if (!common.asJson) return print(*study, found);
    json causes = json::array();
    for (const Cause& cause : found.causes) causes.push_back(causeJson(*study, found, cause));
    printJson({{"causes", causes}, {"unexplained", unexplainedJson(*study, found)}});
}

}  // namespace

void addCauseCommands(CLI::App& app) {
    auto* command = app.add_subcommand("causes", "What stands behind the excursions of screened runs");
    const auto common = addCommon(*command, {.window = true, .asset = true, .asLogged = true});
    const auto o = std::make_shared<CauseOptions>();
    command->add_option("--limits", o->limits, "Name of the limits")->required();
    command->add_option("--without", o->without, "Ids of causes: screened as if they were gone");
    addDuration(*command, "--ignore", o->spec.ignore, "Shorter excursions are dropped (as screened last)");
    addDuration(*command, "--join", o->spec.join, "Shorter returns do not end one (as screened last)");
    command->callback([common, o, command] {
        o->ignoreGiven = command->get_option("--ignore")->count() > 0;
        o->joinGiven = command->get_option("--join")->count() > 0;
        run(*common, *o);
    });
}

}  // namespace jacinth::cli
