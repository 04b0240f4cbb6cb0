#include "work/limits/line_up_picture.h"

#include <algorithm>

#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/limit_choice.h"

namespace jacinth {
namespace {

LimitSet limitsFor(Study& study, const LineUpRequest& request) {
    LimitSet set = request.otherwise;
    const LimitChoice choice(study, set.track, "", request.which, request.run.id);
    const int applies = choice.of(request.run);
    if (applies >= 0 && choice.sets()[static_cast<std::size_t>(applies)].byRole.contains(request.role))
        set = choice.sets()[static_cast<std::size_t>(applies)];
    for (const LimitSet& each : choice.sets())
        if (request.wanted && each.id == request.wanted && each.byRole.contains(request.role)) set = each;
    return set;
}

std::shared_ptr<const std::vector<AlignedRun>> everyRun(Study& study, const LimitSet& set,
                                                        const RunScales& scales,
                                                        const LineUpRequest& request) {
    auto all = std::make_shared<std::vector<AlignedRun>>();
    const Duration every = set.byRole.at(request.role).spec.every;
    for (const Span& s : study.tracks().spans(set.track))
        if (const Tag* t = study.catalog().tagInRole(s.asset, request.role))
            all->push_back(alignRun(study.readForFigures(*t, {s.start, s.end + kNanosecond}, request.which),
                                    t->bridging(), s.id, scales.of(s), every));
    return all;
}

/// A golden run is judged by limits that were made without it.
GoldenLimits withoutItself(const GoldenLimits& limits, const AlignedRole& aligned, SpanId run) {
    for (const AlignedRun& g : *aligned.golden)
        if (g.run == run) {
            GoldenLimits out = aligned.stack->without(g);
            out.phases = limits.phases;
            return out;
        }
    return limits;
}

void addRun(Study& study, const Tag& tag, const Span& run, Which which, LineUpPicture& picture) {
    picture.run = study.readForFigures(tag, {run.start, run.end + kNanosecond}, which);
    const TimeRange range{run.start, run.end + kNanosecond};
    const auto& fixes = study.judgement().fixes(tag.id);
    if (std::any_of(fixes.begin(), fixes.end(), [&](const Fix& fix) { return fix.on && fix.touches(range); }))
        picture.otherData =
            study.readForFigures(tag, range, which == Which::Mended ? Which::AsLogged : Which::Mended);
    picture.runSpan = run;
    picture.bridging = tag.bridging();
    picture.unit = tag.unit;
}

}  // namespace

LinedUp lineUpRun(Study& study, const LineUpRequest& request, const std::optional<AlignedRole>& known) {
    LimitSet set = limitsFor(study, request);
    GoldenLimits& limits = set.byRole.at(request.role);
    if (!set.id) {
        const auto phases = slotsFor(study, set.track, limits.spec, set.goldenRuns);
        if (phases)
            limits.phases = *phases;
        else
            limits.spec.lineUp = LineUp::Start;
    }
    const bool usable =
        known && known->role == request.role && known->set == set.id && known->spec == limits.spec;
    const RunScales scales(study, set.track, limits.spec, limits.phases, request.which);
    LinedUp out;
    AlignedRole& aligned = out.aligned;
    aligned = usable ? *known : AlignedRole{request.role, set.id, limits.spec, {}, {}, {}};
    if (!usable) {
        const LimitsOfRuns judged(study, set, request.role, request.which);
        aligned.golden = std::make_shared<const std::vector<AlignedRun>>(judged.golden());
        aligned.stack = std::make_shared<const GoldenStack>(judged.stack());
    }
    if (request.withAll && !aligned.all) aligned.all = everyRun(study, set, scales, request);
    LineUpPicture& picture = out.picture;
    picture.limits = withoutItself(limits, aligned, request.run.id);
    if (const auto flagged = set.flagged.find(request.role); flagged != set.flagged.end())
        picture.flagged = flagged->second;
    picture.golden = aligned.golden;
    picture.stack = aligned.stack;
    if (request.withAll) picture.all = aligned.all;
    picture.scale = scales.of(request.run);
    if (const Tag* tag = study.catalog().tagInRole(request.run.asset, request.role))
        addRun(study, *tag, request.run, request.which, picture);
    if (const Tag* indicator = study.catalog().tagInRole(request.run.asset, limits.spec.indicator))
        picture.indicatorUnit = indicator->unit;
    return out;
}

LineUpPicture lineUpOfComparison(Study& study, const LimitComparison& comparison, SpanId id, Which which) {
    const LimitsOfRuns first(study, comparison.a, comparison.role, which),
        second(study, comparison.b, comparison.role, which);
    LineUpPicture picture;
    picture.limits = first.of(id);
    const GoldenLimits other = second.of(id);
    if (other.spec.lineUp == picture.limits.spec.lineUp) picture.other = other;
    picture.golden = std::make_shared<const std::vector<AlignedRun>>(first.golden());
    picture.stack = std::make_shared<const GoldenStack>(first.stack());
    const auto run = id ? study.tracks().span(id) : std::nullopt;
    const Tag* tag = run ? study.catalog().tagInRole(run->asset, comparison.role) : nullptr;
    if (!tag) return picture;
    addRun(study, *tag, *run, which, picture);
    picture.scale = first.scaleOf(*run);
    picture.excursions =
        findExcursions(picture.run, picture.bridging, picture.scale, picture.limits, screenSpecOf(study));
    return picture;
}

}  // namespace jacinth
