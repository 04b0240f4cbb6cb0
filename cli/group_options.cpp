#include "cli/group_options.h"

#include <fmt/format.h>

#include "cli/command.h"

namespace jacinth::cli {

std::shared_ptr<GroupOptions> addGroupOptions(CLI::App& command) {
    auto o = std::make_shared<GroupOptions>();
    command.add_option("--group-by", o->by, "A fact that assets are gathered by: area, line, type, kind");
    command.add_option("--only", o->only, "One group alone: area=North");
    return o;
}

Grouping groupingFrom(const GroupOptions& o, const Study& study) {
    Grouping out;
    if (!o.only.empty()) out = orRefuse(groupingNamed(study, o.only));
    if (o.by.empty()) return out;
    if (out.only && out.fact != o.by)
        throw CLI::ValidationError("--only",
                                   fmt::format("is about {}, but assets are gathered by {}", out.fact, o.by));
    const auto facts = factsToGroupBy(study);
    if (std::find(facts.begin(), facts.end(), o.by) == facts.end())
        throw Refusal{
            fmt::format("no two assets share a value of the fact `{}`{}", o.by, sayNearest(o.by, facts))};
    out.fact = o.by;
    return out;
}

}  // namespace jacinth::cli
