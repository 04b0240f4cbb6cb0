#include "work/limits/up_to_date.h"

#include <fmt/format.h>

#include <cstdlib>
#include <map>
#include <optional>
#include <set>

#include "core/base/mark.h"
#include "store/fix_body.h"
#include "store/history.h"
#include "store/json_body.h"
#include "work/base/reading_marks.h"
#include "work/limits/made_from.h"

namespace jacinth {
namespace {

std::vector<LimitSet> setsOf(const Study& study, TrackId runTrack) {
    std::vector<LimitSet> out = study.judgement().limitSets();
    std::erase_if(out, [&](const LimitSet& set) { return set.track != runTrack; });
    return out;
}

/// The newest version of each name.
std::vector<LimitSet> newestOf(const std::vector<LimitSet>& sets) {
    std::map<std::string, LimitSet> byName;
    for (const LimitSet& set : sets)
        if (const auto known = byName.find(set.name);
            known == byName.end() || known->second.version < set.version)
            byName.insert_or_assign(set.name, set);
    std::vector<LimitSet> out;
    for (auto& [name, set] : byName) out.push_back(std::move(set));
    return out;
}

/// Fixes that are on and act in a run on a role with limits, each once, in the order of their ids.
std::map<FixId, const Fix*> fixesInRuns(const Study& study, const std::vector<Span>& runs,
                                        const std::vector<LimitSet>& sets) {
    std::set<std::string> roles;
    for (const LimitSet& set : sets)
        for (const auto& [role, limits] : set.byRole) roles.insert(role);
    std::map<FixId, const Fix*> out;
    std::map<AssetId, std::vector<const Fix*>> byAsset;
    std::set<AssetId> known;
    for (const Span& run : runs) {
        if (known.insert(run.asset).second)
            for (const std::string& role : roles)
                if (const Tag* tag = study.catalog().tagInRole(run.asset, role))
                    for (const Fix& fix : study.judgement().fixes(tag->id))
                        if (fix.on) byAsset[run.asset].push_back(&fix);
        for (const Fix* fix : byAsset[run.asset])
            if (fix->from <= run.end && fix->to >= run.start) out[fix->id] = fix;
    }
    return out;
}

/// The parts of the mark one by one, so that it can be said which of them changed.
struct Parts {
    std::string runs, limits, fixes, samples, reading;
    /// As written by earlier versions.
    std::string firstThree() const { return runs + " " + limits + " " + fixes; }
    std::string text() const { return firstThree() + " " + samples + " " + reading; }
};

/// Of what is read in the runs of the track on the roles with limits.
ReadingMarks marksOfReading(const Study& study, const std::vector<Span>& runs,
                            const std::vector<LimitSet>& sets, Which which) {
    std::map<AssetId, std::vector<TimeRange>> byAsset;
    for (const Span& run : runs) byAsset[run.asset].push_back(run.range());
    std::set<std::string> roles;
    for (const LimitSet& set : sets)
        for (const auto& [role, limits] : set.byRole) roles.insert(role);
    ReadingMarks marks(study);
    for (const auto& [asset, stretches] : byAsset)
        for (const std::string& role : roles)
            if (const Tag* tag = study.catalog().tagInRole(asset, role))
                marks.add(Tag(*tag), stretches, which);
    return marks;
}

Parts partsOf(const Study& study, TrackId runTrack, Which which) {
    const std::vector<Span> runs = study.tracks().spans(runTrack);
    const std::vector<LimitSet> sets = setsOf(study, runTrack);
    Mark ofRuns, ofLimits, ofFixes;
    for (const Span& run : runs) ofRuns.add(run.start), ofRuns.add(run.end);
    for (const LimitSet& set : sets)
        ofLimits.add(limitsTitle(set)), ofLimits.add(set.validFrom), ofLimits.add(set.forRuns);
    ofFixes.add(std::string(which == Which::AsLogged ? "as logged" : "mended"));
    if (which == Which::Mended)
        for (const auto& [id, fix] : fixesInRuns(study, runs, sets)) {
            ofFixes.add(id.number), ofFixes.add(fix->from), ofFixes.add(fix->to);
            ofFixes.add(fixBodyText(fix->body));
        }
    const ReadingMarks reading = marksOfReading(study, runs, sets, which);
    Mark how;
    how.add(reading.ofFixes());
    how.add(reading.ofSettings());
    return {ofRuns.text(), ofLimits.text(), ofFixes.text(), reading.ofSamples(), how.text()};
}

/// “the fix of 3 May on Kiln 4/Bed ΔP and 2 more”; empty where none was entered since.
std::string fixesSince(const Study& study, TrackId runTrack, Instant made) {
    const auto fixes = fixesInRuns(study, study.tracks().spans(runTrack), setsOf(study, runTrack));
    const Fix* first = nullptr;
    std::size_t since = 0;
    for (const auto& [id, fix] : fixes)
        if (fix->entered > made) {
            ++since;
            if (!first) first = fix;
        }
    if (!first) return {};
    const Tag* tag = study.catalog().tag(first->tag);
    return fmt::format("the fix of {} on {}{}", study.zone().shortDate(first->entered),
                       tag ? tag->path() : "?", since > 1 ? fmt::format(" and {} more", since - 1) : "");
}

}  // namespace

std::string screenedFrom(const Study& study, TrackId runTrack, Which which) {
    return partsOf(study, runTrack, which).text();
}

std::vector<std::pair<std::string, std::string>> limitsOutOfDate(const Study& study, TrackId runTrack) {
    std::vector<std::pair<std::string, std::string>> out;
    for (const LimitSet& set : newestOf(setsOf(study, runTrack)))
        if (std::string words = outOfDate(study, set); !words.empty())
            out.emplace_back(set.name, std::move(words));
    return out;
}

std::string excursionsOutOfDate(const Study& study, TrackId runTrack) {
    const auto track = excursionTrackOf(study, runTrack);
    if (!track) return {};
    JsonBody body(track->definition);
    const std::string mark = body.text("madeFrom");
    if (mark.empty()) return {};
    const Parts now = partsOf(study, runTrack, Which::Mended),
                logged = partsOf(study, runTrack, Which::AsLogged);
    for (const Parts& same : {now, logged})
        if (mark == same.text() || mark == same.firstThree()) return {};
    const Instant made = body.instant("made", kNoInstant);
    if (mark.find(now.fixes) == std::string::npos && mark.find(logged.fixes) == std::string::npos) {
        const std::string fixes = fixesSince(study, runTrack, made);
        return fixes.empty() ? "a fix was changed since the runs were screened" : "screened before " + fixes;
    }
    if (mark.find(now.limits) == std::string::npos) {
        for (const LimitSet& set : setsOf(study, runTrack))
            if (set.made > made)
                return fmt::format("screened before the limits {} of {}", limitsTitle(set),
                                   study.zone().shortDate(set.made));
        return "limits were changed since the runs were screened";
    }
    if (mark.find(now.runs) == std::string::npos) return "the runs were changed since they were screened";
    if (mark.find(now.samples) == std::string::npos && mark.find(logged.samples) == std::string::npos)
        return "samples in the runs were imported, replaced or removed since they were screened";
    return "how the tags are read, or what a fix reads, was changed since the runs were screened";
}

Result<MadeAgain> makeAgain(Study& study, TrackId runTrack, Which which, const Progress& progress) {
    const std::vector<LimitSet> newest = newestOf(setsOf(study, runTrack));
    if (newest.empty()) return Error{"this track has no limits to screen by; build limits first"};
    std::vector<LimitSet> made;
    for (const LimitSet& set : newest) {
        if (outOfDate(study, set).empty()) continue;
        if (progress.stopped(0)) return Error::cancelled();
        std::vector<std::string> roles;
        for (const auto& [role, limits] : set.byRole) roles.push_back(role);
        auto again = makeLimitsFrom(study, set.name, runTrack, roles, set.byRole.begin()->second.spec,
                                    set.goldenRuns, which);
        if (!again) return again.error();
        again->validFrom = set.validFrom;
        again->forRuns = set.forRuns;
        made.push_back(std::move(*again));
    }
    const std::vector<KeptExcursion> before = excursionsOfRuns(study, runTrack);
    const ScreenSpec spec = screenSpecOf(study);
    std::optional<StepId> first;
    const auto keep = [&](const auto& work) {
        work();
        if (first) study.history().join(*first);
        first = study.history().newest();
    };
    MadeAgain out;
    for (const LimitSet& set : made) keep([&] { keepLimits(study, set); });
    for (const LimitSet& set : made)
        out.limits.push_back(limitsTitle(*study.judgement().limitSetNamed(set.name)));
    bool stopped = false;
    const auto screened = screenTrack(study, runTrack, "", spec, which, [&](double share) {
        stopped = stopped || progress.stopped(share);
        return !stopped;
    });
    if (stopped) {
        if (first) (void)study.history().undo(*first);
        return Error::cancelled();
    }
    keep([&] { keepExcursions(study, runTrack, spec, screened, which); });
    const std::vector<KeptExcursion> after = excursionsOfRuns(study, runTrack);
    out.before = before.size();
    out.after = after.size();
    out.cleared = whatCleared(study, before, after);
    return out;
}

std::string whatCleared(const Study& study, const std::vector<KeptExcursion>& before,
                        const std::vector<KeptExcursion>& after) {
    std::map<TagId, int> change;
    for (const KeptExcursion& e : before) ++change[e.span.tag];
    for (const KeptExcursion& e : after) --change[e.span.tag];
    std::string out;
    for (const bool gone : {true, false})
        for (const auto& [id, n] : change) {
            const Tag* tag = study.catalog().tag(id);
            if (!tag || n == 0 || (n > 0) != gone) continue;
            out += fmt::format("{}{} excursion{} of {} on {} {}", out.empty() ? "" : "; ", std::abs(n),
                               std::abs(n) == 1 ? "" : "s", tag->name, tag->assetName, gone ? "gone" : "new");
        }
    return out.empty() ? "the same excursions as before" : out;
}

}  // namespace jacinth
