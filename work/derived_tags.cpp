#include "work/derived_tags.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

namespace jacinth {
namespace {

Series withoutGaps(const Series& s) {
    Series out;
    for (std::size_t i = 0; i < s.size(); ++i)
        if (std::isfinite(s.values[i])) out.push(s.times[i], s.values[i], s.view().qualityAt(i));
    return out;
}

}  // namespace

Result<std::vector<std::int64_t>> keepDerived(Study& study, std::int64_t asset,
                                              const std::vector<DerivedSeries>& all,
                                              const std::string& stepName, const nlohmann::json& definition) {
    const Asset* owner = study.catalog().asset(asset);
    if (!owner) return Error{"there is no such asset"};
    for (const DerivedSeries& d : all) {
        if (d.name.empty()) return Error{"a derived tag needs a name"};
        const auto known = study.catalog().tagAt(owner->name + "/" + d.name);
        if (!known) continue;
        const nlohmann::json made = study.derivedDefinition(known->id);
        if (made.is_null())
            return Error{fmt::format("`{}` is a logged tag; choose another name", known->path())};
        if (made.contains(kExpression))
            return Error{fmt::format("`{}` is given by an expression; choose another name", known->path())};
    }
    std::vector<std::int64_t> ids;
    study.changeWithSamples(stepName, "", definition, [&] {
        Catalog& catalog = study.catalog();
        for (const DerivedSeries& d : all) {
            const auto known = catalog.tagAt(owner->name + "/" + d.name);
            const std::int64_t id = known ? known->id : catalog.addTag(asset, d.name, d.unit, d.kind);
            if (known)
                study.samples().rewrite(id, {kNoInstant, std::numeric_limits<Instant>::max()},
                                        [](Series& s) { s = {}; });
            const Series kept = withoutGaps(d.series);
            study.samples().write(id, kept);
            Tag tag = *catalog.tag(id);
            tag.unit = d.unit;
            if (d.longestGap > 0) tag.longestGap = d.longestGap;
            catalog.updateTag(tag);
            catalog.setSpacing(id, medianSpacing(kept.times));
            study.putDerivedDefinition(id, definition);
            ids.push_back(id);
        }
    });
    return ids;
}

}  // namespace jacinth
