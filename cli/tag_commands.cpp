// tags, tag set: what the tags of a study are.
#include <fmt/format.h>

#include <iostream>

#include "cli/command.h"
#include "work/settings/tag_settings.h"

namespace jacinth::cli {
namespace {

json tagJson(Study& study, const Tag& t) {
    const Summary s = study.reader(t.id).whole(t.id);
    json out{{"asset", t.assetName},
             {"tag", t.name},
             {"role", t.role},
             {"unit", t.unit},
             {"kind", tagKindName(t.kind)},
             {"count", s.count},
             {"first", s.count ? json(toIso(s.firstTime)) : json()},
             {"last", s.count ? json(toIso(s.lastTime)) : json()},
             {"longestGap", t.longestGap ? json(toSeconds(*t.longestGap)) : json()}};
    if (t.kind == TagKind::State) out["states"] = t.states;
    return out;
}

void addList(CLI::App& app) {
    auto* tags = app.add_subcommand("tags", "The tags of a study");
    auto common = addCommon(*tags, {false, true});
    tags->callback([common] {
        const auto study = common->open();
        json out = json::array();
        for (const Tag& t : study->catalog().tags())
            if (common->asset.empty() || t.assetName == common->asset) out.push_back(tagJson(*study, t));
        if (common->asJson) return printJson(out);
        for (const json& t : out)
            fmt::print("{:<12} {:<18} @{:<22} {:<6} {:<11} {:>9}\n", t["asset"].get<std::string>(),
                       t["tag"].get<std::string>(), t["role"].get<std::string>(),
                       t["unit"].get<std::string>(), t["kind"].get<std::string>(),
                       t["count"].get<std::uint32_t>());
    });
}

void addSet(CLI::App& tag) {
    auto* set = tag.add_subcommand("set", "Set role, unit, kind, states or longest gap of a tag");
    struct Options {
        std::string tag, gap, kind, role, unit;
        std::vector<std::string> states;
    };
    auto o = std::make_shared<Options>();
    auto target = addCommon(*set);
    set->add_option("--tag", o->tag, "Asset/Tag")->required();
    auto* role = set->add_option("--role", o->role, "What it is for on its asset");
    auto* unit = set->add_option("--unit", o->unit, "Unit of measure");
    set->add_option(
           "--kind", o->kind,
           "continuous, stepped or state; numbers become names of states, and back, and nothing is lost")
        ->check(CLI::IsMember({"continuous", "stepped", "state"}));
    set->add_option("--states", o->states,
                    "Names of states that it can have, also such as have not occurred yet");
    set->add_option("--longest-gap", o->gap,
                    "Longest stretch to bridge, like 20m; `default` for ten spacings");
    set->callback([o, target, role, unit] {
        const auto study = target->open(false);
        const Tag t = orRefuse(study->catalog().tagAt(o->tag));
        TagSettings settings;
        if (role->count()) settings.role = o->role;
        if (unit->count()) settings.unit = o->unit;
        if (!o->kind.empty()) settings.kind = orRefuse(tagKindNamed(o->kind));
        if (o->gap == "default")
            settings.longestGap = std::optional<Duration>();
        else if (!o->gap.empty())
            settings.longestGap = std::optional<Duration>(orRefuse(parseDuration(o->gap)));
        settings.states = o->states;
        orRefuse(changeTags(*study, {t.id}, settings));
        if (target->asJson) printJson(tagJson(*study, *study->catalog().tag(t.id)));
    });
}

}  // namespace

void addTagCommands(CLI::App& app) {
    addList(app);
    auto* tag = app.add_subcommand("tag", "What a tag is");
    tag->require_subcommand(1);
    addDerivedCommands(*tag);
    addSet(*tag);
}

}  // namespace jacinth::cli
