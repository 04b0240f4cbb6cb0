#include "work/limits/made_from.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/base/mark.h"
#include "store/fix_body.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

/// Calls `each` with every fix that acts in a golden run, by role and run; one may come several times.
template <typename Each>
void forEachFix(const Study& study, const LimitSet& set, Each each) {
    const std::set<SpanId> golden(set.goldenRuns.begin(), set.goldenRuns.end());
    const std::vector<Span> runs = study.tracks().spans(set.track);
    for (const auto& [role, limits] : set.byRole)
        for (const Span& run : runs) {
            const Tag* tag = golden.contains(run.id) ? study.catalog().tagInRole(run.asset, role) : nullptr;
            if (!tag) continue;
            for (const Fix& fix : study.judgement().fixes(tag->id))
                if (fix.on && fix.from <= run.end && fix.to >= run.start) each(fix, *tag);
        }
}

}  // namespace

std::string madeFrom(const Study& study, const LimitSet& set, Which which) {
    Mark mark;
    mark.add(std::string(which == Which::AsLogged ? "as logged" : "mended"));
    const std::set<SpanId> golden(set.goldenRuns.begin(), set.goldenRuns.end());
    for (const Span& run : study.tracks().spans(set.track))
        if (golden.contains(run.id)) mark.add(run.start), mark.add(run.end);
    if (which == Which::Mended)
        forEachFix(study, set, [&](const Fix& fix, const Tag&) {
            mark.add(fix.from);
            mark.add(fix.to);
            mark.add(std::string(fixKindName(fix.kind())));
            mark.add(fixBodyText(fix.body));
        });
    return mark.text();
}

std::string outOfDate(const Study& study, const LimitSet& set) {
    if (set.madeFrom.empty() || set.madeFrom == madeFrom(study, set, Which::Mended) ||
        set.madeFrom == madeFrom(study, set, Which::AsLogged))
        return {};
    std::set<FixId> since;
    const Fix* first = nullptr;
    std::string path;
    forEachFix(study, set, [&](const Fix& fix, const Tag& tag) {
        if (fix.entered <= set.made || !since.insert(fix.id).second || first) return;
        first = &fix;
        path = tag.path();
    });
    if (!first) return "a fix or a golden run was changed since they were made";
    const std::string more = since.size() > 1 ? fmt::format(" and {} more", since.size() - 1) : "";
    return fmt::format("made before the fix of {} on {}{}", study.zone().shortDate(first->entered), path,
                       more);
}

}  // namespace jacinth
