#include "work/derived/derived_tags.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "store/derived_catalog.h"
#include "store/sample_store.h"
#include "store/wall_time.h"
#include "work/derived/derived_inputs.h"

namespace jacinth {
namespace {

Series withoutGaps(const Series& s) {
    Series out;
    for (std::size_t i = 0; i < s.size(); ++i)
        if (std::isfinite(s.values[i])) out.push(s.times[i], s.values[i], s.view().qualityAt(i));
    return out;
}

/// How, and from what: enough to do the same again, and to see whether it would give something else now.
nlohmann::json definitionOf(const Tag& source, const KeptOrigin& origin, nlohmann::json how) {
    how["from"] = source.path();
    how["overFrom"] = epochNanoseconds(origin.over.from);
    how["overTo"] = epochNanoseconds(origin.over.to);
    how["toTheEnd"] = origin.toTheEnd;
    how["asLogged"] = origin.which == Which::AsLogged;
    how["at"] = epochNanoseconds(timeNow());
    how["mark"] = origin.mark;
    return how;
}

}  // namespace

KeptOrigin originOf(const Study& study, const Tag& tag, TimeRange over, Which which) {
    return {tag.id, over, which, over.to >= study.record().to, StudyMarks(study).ofSamples(tag, which)};
}

Result<std::vector<TagId>> keepDerived(Study& study, const SamplesToKeep& samples) {
    const std::vector<DerivedSeries>& all = samples.series;
    const Asset* owner = study.catalog().asset(samples.asset);
    if (!owner) return Error{"there is no such asset"};
    const Tag* source = study.catalog().tag(samples.origin.tag);
    if (!source) return Error{"the tag it was made from was removed"};
    const nlohmann::json definition = definitionOf(*source, samples.origin, samples.how);
    for (const DerivedSeries& d : all) {
        if (d.name.empty()) return Error{"a derived tag needs a name"};
        const auto known = study.catalog().tagAt(owner->name + "/" + d.name);
        if (!known) continue;
        const nlohmann::json made = study.derived().definition(known->id);
        if (made.is_null())
            return Error{fmt::format("`{}` is a logged tag; choose another name", known->path())};
        if (made.contains(kExpression))
            return Error{fmt::format("`{}` is given by an expression; choose another name", known->path())};
    }
    std::vector<TagId> ids;
    study.changeWithSamples(samples.stepName, "", definition, [&] {
        Catalog& catalog = study.catalog();
        for (const DerivedSeries& d : all) {
            const auto known = catalog.tagAt(owner->name + "/" + d.name);
            const TagId id = known ? known->id : catalog.addTag(samples.asset, d.name, d.unit, d.kind);
            if (known) study.samples().rewrite(id, {kNoInstant, Instant::max()}, [](Series& s) { s = {}; });
            const Series kept = withoutGaps(d.series);
            study.samples().write(id, kept);
            Tag tag = *catalog.tag(id);
            tag.unit = d.unit;
            if (d.longestGap > Duration::zero()) tag.longestGap = d.longestGap;
            catalog.updateTag(tag);
            catalog.setSpacing(id, medianSpacing(kept.times));
            study.derived().putDefinition(id, definition);
            ids.push_back(id);
        }
    });
    return ids;
}

}  // namespace jacinth
