#include "work/limits/made_from.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/base/mark.h"
#include "store/fix_body.h"
#include "store/tracks.h"
#include "work/base/reading_marks.h"
#include "work/limits/golden_samples.h"

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

namespace {

/// Of the golden runs and the fixes in them.
std::string markOfRunsAndFixes(const Study& study, const LimitSet& set, Which which) {
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

/// Of what is read in the golden runs: the tags in the roles, and those that line the runs up.
ReadingMarks marksOfReading(const Study& study, const LimitSet& set, Which which) {
    const std::set<SpanId> golden(set.goldenRuns.begin(), set.goldenRuns.end());
    std::map<AssetId, std::vector<TimeRange>> byAsset;
    for (const Span& run : study.tracks().spans(set.track))
        if (golden.contains(run.id)) byAsset[run.asset].push_back(run.range());
    std::set<std::string> roles;
    for (const auto& [role, limits] : set.byRole) {
        roles.insert(role);
        if (limits.spec.lineUp == LineUp::Indicator) roles.insert(limits.spec.indicator);
    }
    ReadingMarks marks(study);
    for (const auto& [asset, runs] : byAsset)
        for (const std::string& role : roles)
            if (const Tag* tag = study.catalog().tagInRole(asset, role)) marks.add(Tag(*tag), runs, which);
    return marks;
}

/// Of what is left out of the golden runs; the same for all limits that leave out nothing.
std::string markOfAbnormal(const Study& study, const LimitSet& set, Which which) {
    Mark mark;
    const AbnormalTime abnormal(study);
    const std::set<SpanId> golden(set.goldenRuns.begin(), set.goldenRuns.end());
    for (const Span& run : study.tracks().spans(set.track)) {
        if (!golden.contains(run.id)) continue;
        for (const auto& [role, limits] : set.byRole) {
            const Tag* tag =
                limits.spec.leaveOutAbnormal ? study.catalog().tagInRole(run.asset, role) : nullptr;
            if (!tag) continue;
            for (const TimeRange& r : abnormal.of(*tag, run.range(), which)) mark.add(r.from), mark.add(r.to);
        }
    }
    return mark.text();
}

/// The marks one by one, so that it can be said which of them changed.
struct Marks {
    std::string runs, samples, fixes, settings, abnormal;
    std::string text() const {
        return fmt::format("{} {} {} {} {}", runs, samples, fixes, settings, abnormal);
    }
};

Marks marksOf(const Study& study, const LimitSet& set, Which which) {
    const ReadingMarks reading = marksOfReading(study, set, which);
    return {markOfRunsAndFixes(study, set, which), reading.ofSamples(), reading.ofFixes(),
            reading.ofSettings(), markOfAbnormal(study, set, which)};
}

/// What of the marks on record differs from those now; empty for none. Limits of earlier versions have the
/// first alone.
std::string whatDiffers(const std::string& known, const Marks& now) {
    if (known == now.text() || known == now.runs) return {};
    if (!known.starts_with(now.runs)) return "a fix or a golden run was changed since they were made";
    if (known.find(now.samples) == std::string::npos)
        return "samples in their golden runs were imported, replaced or removed since they were made";
    if (known.find(now.settings) == std::string::npos)
        return "how their tags are read was changed since they were made: the kind, the longest gap, or what "
               "counts as sound data";
    if (known.find(now.abnormal) == std::string::npos)
        return "labels, stops or trust in their golden runs were changed since they were made";
    return "a fix was changed since they were made";
}

}  // namespace

std::string madeFrom(const Study& study, const LimitSet& set, Which which) {
    return marksOf(study, set, which).text();
}

std::string outOfDate(const Study& study, const LimitSet& set) {
    if (set.madeFrom.empty()) return {};
    const std::string logged = whatDiffers(set.madeFrom, marksOf(study, set, Which::AsLogged)),
                      mended = whatDiffers(set.madeFrom, marksOf(study, set, Which::Mended));
    if (logged.empty() || mended.empty()) return {};
    const bool asLogged = set.madeFrom.starts_with(markOfRunsAndFixes(study, set, Which::AsLogged));
    const std::string& words = asLogged ? logged : mended;
    if (asLogged || !words.starts_with("a fix")) return words;
    std::set<FixId> since;
    const Fix* first = nullptr;
    std::string path;
    forEachFix(study, set, [&](const Fix& fix, const Tag& tag) {
        if (fix.entered <= set.made || !since.insert(fix.id).second || first) return;
        first = &fix;
        path = tag.path();
    });
    if (!first) return words;
    const std::string more = since.size() > 1 ? fmt::format(" and {} more", since.size() - 1) : "";
    return fmt::format("made before the fix of {} on {}{}", study.zone().shortDate(first->entered), path,
                       more);
}

}  // namespace jacinth
