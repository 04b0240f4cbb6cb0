#include "work/survey/kept_tags.h"

#include <fmt/format.h>

#include "store/derived_catalog.h"
#include "store/json_body.h"
#include "work/derived/derived_inputs.h"
#include "work/survey/tag_parts.h"

namespace jacinth {
namespace {

/// What the definition of a kept tag says, checked.
struct Kept {
    const Tag* source = nullptr;  ///< null where it is not there any more
    std::string from;
    TimeRange over;
    bool toTheEnd = false;
    Which which = Which::Mended;
    Instant at = kNoInstant;
    std::string mark;
    // Parts.
    std::optional<PartsSpec> parts;
    // By periods.
    std::optional<Period> period;
    Take take = Take::Mean;
    std::string trouble;
};

Kept keptFrom(const Study& study, TagId tag) {
    JsonBody body(study.derived().definition(tag));
    Kept out;
    out.from = body.text("from");
    out.source = study.catalog().find(out.from);
    out.over = {body.instant("overFrom", {}), body.instant("overTo", {})};
    out.toTheEnd = body.flag("toTheEnd", false);
    out.which = body.flag("asLogged", false) ? Which::AsLogged : Which::Mended;
    out.at = body.instant("at", kNoInstant);
    out.mark = body.text("mark");
    const auto take = takeNamed(body.text(body.has("way") ? "take" : "figure", "mean"));
    if (!take) body.remember(take.error().message);
    out.take = take ? *take : Take::Mean;
    if (body.has("way")) {
        PartsSpec& spec = out.parts.emplace();
        const auto length = [&](const char* name) {
            const auto d = parseDuration(body.text(name));
            if (!d || *d <= Duration::zero())
                body.remember(fmt::format("`{}` is not a length of time", name));
            return d ? *d : Duration(0);
        };
        spec.every = length("every");
        spec.period = length("period");
        spec.take = out.take;
        spec.loess = body.text("way") == "LOESS";
        spec.robust = body.flag("robust", false);
        spec.cycleSpan = static_cast<int>(body.integer("cycleSpan", 3, 10'001, 7));
        spec.kind = body.text("put together") == "multiplied" ? PartsKind::Multiplied : PartsKind::Added;
    } else if (const auto period = periodNamed(body.text("period"))) {
        out.period = *period;
    } else {
        body.remember("how it was made is not on record");
    }
    if (body.trouble()) out.trouble = *body.trouble();
    return out;
}

std::string cannotBeMade(const Kept& kept) {
    if (!kept.trouble.empty()) return kept.trouble;
    if (!kept.source) return fmt::format("`{}` is not there any more", kept.from);
    // Kept before studies said over what.
    if (kept.over.length() <= Duration::zero()) return "over which time it was made is not on record";
    return {};
}

/// `trend` of `Kiln 5/Air-off temp trend` made from `Kiln 5/Air-off temp`.
std::string partOf(const Tag& tag, const Tag* source) {
    if (source && tag.name.starts_with(source->name + " ")) return tag.name.substr(source->name.size() + 1);
    return "part";
}

std::string howOf(const Tag& tag, const Kept& kept) {
    if (kept.parts)
        return fmt::format("{} by {}, {} of every {}, cycle {}, {}", partOf(tag, kept.source),
                           kept.parts->loess ? "LOESS" : "the classical way", takeName(kept.take),
                           formatDuration(kept.parts->every), formatDuration(kept.parts->period),
                           kept.parts->kind == PartsKind::Multiplied ? "multiplied" : "added");
    if (kept.period) return fmt::format("{} of every {}", takeName(kept.take), periodName(*kept.period));
    return "kept";
}

/// Without the series whose tags the user has removed since.
SamplesToKeep ofTagsThatAreThere(const Study& study, SamplesToKeep samples) {
    const Asset* asset = study.catalog().asset(samples.asset);
    std::erase_if(samples.series, [&](const DerivedSeries& d) {
        return !asset || !study.catalog().find(asset->name + "/" + d.name);
    });
    return samples;
}

}  // namespace

std::vector<KeptTag> keptTags(const Study& study) {
    std::vector<KeptTag> out;
    StudyMarks marks(study);
    for (const TagId id : study.derived().tags()) {
        const Tag* tag = study.catalog().tag(id);
        if (!tag || study.derived().definition(id).contains(kExpression)) continue;
        const Kept kept = keptFrom(study, id);
        KeptTag& k = out.emplace_back(KeptTag{*tag, kept.from, howOf(*tag, kept), kept.at});
        k.behind =
            kept.source && !kept.mark.empty() && kept.mark != marks.ofSamples(*kept.source, kept.which);
        k.cannotBeMade = cannotBeMade(kept);
    }
    return out;
}

Result<SamplesToKeep> makeAgain(Study& study, TagId id, const Progress& progress) {
    const Tag* tag = study.catalog().tag(id);
    if (!tag || study.derived().definition(id).is_null() ||
        study.derived().definition(id).contains(kExpression))
        return Error{"only a kept tag can be made again"};
    const Kept kept = keptFrom(study, id);
    if (const std::string why = cannotBeMade(kept); !why.empty())
        return Error{fmt::format("{} cannot be made again: {}", tag->path(), why)};
    TimeRange over = kept.over;
    if (kept.toTheEnd) over.to = std::max(over.to, study.record().to);
    if (kept.parts) {
        const auto parts = partsOf(study, *kept.source, over, *kept.parts, kept.which, progress);
        if (!parts) return parts.error();
        return ofTagsThatAreThere(study, partsToKeep(*kept.source, *parts, *kept.parts));
    }
    const auto grid = gridOf(study, *kept.source, over, *kept.period, kept.take, kept.which, progress);
    if (!grid) return grid.error();
    return gridToKeep(*kept.source, *grid, *kept.period, kept.take, tag->name);
}

}  // namespace jacinth
