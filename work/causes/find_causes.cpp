#include "work/causes/find_causes.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <set>

#include "core/base/missing.h"
#include "store/tracks.h"
#include "work/base/side_by_side.h"
#include "work/causes/recorded_events.h"
#include "work/causes/role_causes.h"
#include "work/causes/sensor_causes.h"

namespace jacinth {
namespace {

/// Explains the excursions of one run in one role.
class RunExplainer {
  public:
    RunExplainer(Study& study, const std::vector<Cause>& causes, const ScreenedRun& screened,
                 const RunScale& scale, const GoldenLimits& limits, const ChangeValues& change, Which which)
        : causes_(causes), screened_(screened), scale_(scale), limits_(limits) {
        const Tag& tag = *study.catalog().tag(screened.tag);
        bridging_ = tag.bridging();
        series_ = study.readForFigures(tag, {screened.run.start, screened.run.end + kNanosecond}, which);
        if (change) change(series_, tag.id, scale);
        for (const Excursion& e : screened.excursions) stretches_.push_back({e.start, e.end});
    }

    std::vector<ExplainedExcursion> explain() const {
        std::vector<std::vector<Explained>> by(stretches_.size());
        for (std::size_t c = 0; c < causes_.size(); ++c) {
            if (causes_[c].kind == CauseKind::Event)
                addEvent(c, by);
            else
                addEffects(c, by);
        }
        std::vector<ExplainedExcursion> out;
        for (std::size_t i = 0; i < stretches_.size(); ++i) {
            ExplainedExcursion e{screened_.run.id, screened_.role, screened_.tag, screened_.excursions[i]};
            if (const auto best = bestExplained(by[i]))
                e.cause = causes_[best->cause].id, e.share = best->share;
            out.push_back(std::move(e));
        }
        return out;
    }

  private:
    std::vector<double> areas(const Series& series, std::span<const TimeRange> stretches) const {
        return areaOutside(series, bridging_, scale_, limits_, stretches);
    }

    /// What of each excursion lies in the windows of an event.
    void addEvent(std::size_t place, std::vector<std::vector<Explained>>& by) const {
        const Cause& event = causes_[place];
        if (event.asset != screened_.run.asset) return;
        const std::vector<TimeRange> windows = intersect(windowsIn(event, scale_), {screened_.run.range()});
        if (windows.empty()) return;
        for (std::size_t i = 0; i < stretches_.size(); ++i) {
            double inside = 0;
            for (const double a : areas(series_, intersect(windows, {stretches_[i]}))) inside += a;
            if (inside > 0)
                by[i].push_back({place, event.kind, inside / screened_.excursions[i].area, kMissing});
        }
    }

    /// What of each excursion is gone when the effects are taken away, of those that push to its side.
    void addEffects(std::size_t place, std::vector<std::vector<Explained>>& by) const {
        const std::vector<CauseEffect> effects =
            effectsOn(screened_.tag, {&causes_[place], 1}, screened_.run.range());
        if (effects.empty()) return;
        Series without = series_;
        takeAway(without, effects, scale_);
        const std::vector<double> left = areas(without, stretches_);
        for (std::size_t i = 0; i < left.size(); ++i) {
            const Excursion& e = screened_.excursions[i];
            double push = 0;
            for (const CauseEffect& effect : effects)
                push += effect.at(e.peakTime, scale_.placeOf(e.peakTime));
            if (push * static_cast<double>(static_cast<int>(e.side)) > 0 && e.area > 0)
                by[i].push_back({place, causes_[place].kind, 1 - left[i] / e.area, push});
        }
    }

    const std::vector<Cause>& causes_;
    const ScreenedRun& screened_;
    const RunScale& scale_;
    const GoldenLimits& limits_;
    Bridging bridging_;
    Series series_;
    std::vector<TimeRange> stretches_;
};

/// Dismissed before: same run, role and side, overlapping.
bool isDismissed(const std::vector<KeptExcursion>& kept, const ScreenedRun& run, const Excursion& e) {
    return std::any_of(kept.begin(), kept.end(), [&](const KeptExcursion& k) {
        return !k.dismissed.empty() && k.run == run.run.id && k.role == run.role && k.side == e.side &&
               k.span.start < e.end && k.span.end > e.start;
    });
}

/// Screens and explains, limits by limits and role by role.
class Explanation {
  public:
    Explanation(Study& study, TrackId track, const std::string& limits, const ScreenSpec& spec, Which which)
        : study_(study), spec_(spec), which_(which) {
        judged_ = runsByLimits(study, track, limits, which);
        kept_ = excursionsOfRuns(study, track);
    }

    std::vector<JudgedRuns>& judged() { return judged_; }

    std::vector<ExplainedExcursion> explain(const std::vector<Cause>& causes, const ChangeValues& change,
                                            const Progress& progress) {
        std::vector<ExplainedExcursion> out;
        for (std::size_t i = 0; i < judged_.size(); ++i) {
            const double from = static_cast<double>(i) / static_cast<double>(judged_.size());
            const double to = static_cast<double>(i + 1) / static_cast<double>(judged_.size());
            const Progress share = progress.part(from, from + (to - from) / 2);
            std::vector<ScreenedRun> screened =
                screenBy(study_, judged_[i].set, judged_[i].runs, spec_, which_, share, change);
            explainScreened(judged_[i].set, screened, causes, change,
                            progress.part(from + (to - from) / 2, to), out);
        }
        return out;
    }

  private:
    void explainScreened(const LimitSet& set, std::vector<ScreenedRun>& screened,
                         const std::vector<Cause>& causes, const ChangeValues& change,
                         const Progress& progress, std::vector<ExplainedExcursion>& out) {
        std::map<std::string, std::vector<ScreenedRun*>> byRole;
        for (ScreenedRun& s : screened) {
            std::erase_if(s.excursions, [&](const Excursion& e) { return isDismissed(kept_, s, e); });
            if (!s.excursions.empty()) byRole[s.role].push_back(&s);
        }
        std::vector<std::string> roles;
        double total = 0, done = 0;
        for (const auto& [role, list] : byRole)
            roles.push_back(role), total += static_cast<double>(list.size());
        std::vector<std::vector<ExplainedExcursion>> found(roles.size());
        std::mutex mutex;
        bool stopped = false;
        forEachSideBySide(study_, roles.size(), [&](Study& mine, std::size_t r) {
            const LimitsOfRuns limits(mine, set, roles[r], which_);
            for (const ScreenedRun* s : byRole.at(roles[r])) {
                {
                    const std::lock_guard lock(mutex);
                    stopped = stopped || progress.stopped(done++ / total);
                    if (stopped) return;
                }
                const RunScale scale = limits.scaleOf(s->run);
                const GoldenLimits own = limits.of(s->run.id);
                for (ExplainedExcursion& e :
                     RunExplainer(mine, causes, *s, scale, own, change, which_).explain())
                    found[r].push_back(std::move(e));
            }
        });
        for (auto& list : found) out.insert(out.end(), list.begin(), list.end());
    }

    Study& study_;
    ScreenSpec spec_;
    Which which_;
    std::vector<JudgedRuns> judged_;
    std::vector<KeptExcursion> kept_;
};

std::string changeSentence(const Study& study, const ProcessChange& change) {
    std::string names;
    for (const TagId tag : change.tags) {
        const Tag* t = study.catalog().tag(tag);
        if (t) names += (names.empty() ? "" : ", ") + t->name;
    }
    return fmt::format(
        "{} moved at the same time: the process changed. The runs after it lie on the side to "
        "which their tags moved.",
        names);
}

/// The causes of all kinds; which of them explain anything is not known yet.
class CauseGatherer {
  public:
    CauseGatherer(Study& study, Which which) : study_(study), which_(which) {}

    Result<std::vector<Cause>> gather(const std::vector<JudgedRuns>& judged, const Progress& progress) {
        const auto steps = findSteps(study_, {}, progress.part(0, 0.7));
        if (!steps) return steps.error();
        std::vector<Cause> causes = stepCauses(study_, steps->steps);
        addDrifts(judged, steps->steps, causes);
        if (progress.stopped(0.75)) return Error::cancelled();
        std::vector<ProcessChange> changes = processChanges(study_, steps->steps);
        std::vector<Cause> byRuns, ofChanges;
        for (const JudgedRuns& j : judged) {
            std::vector<RoleRuns> roles = rolesOf(j, causes);
            addRunChanges(study_, roles, steps->steps, causes, changes);
            ofChanges.resize(changes.size());
            addByRole(roles, changes, judged.size() > 1 ? &j : nullptr, ofChanges, byRuns);
        }
        for (std::size_t i = 0; i < changes.size(); ++i)
            if (!ofChanges[i].effects.empty()) causes.push_back(causeOf(changes[i], std::move(ofChanges[i])));
        for (Cause& cause : byRuns) causes.push_back(std::move(cause));
        if (progress.stopped(1)) return Error::cancelled();
        for (Cause& event : eventCauses(study_)) causes.push_back(std::move(event));
        return causes;
    }

  private:
    void addDrifts(const std::vector<JudgedRuns>& judged, const std::vector<SuspectedStep>& steps,
                   std::vector<Cause>& causes) {
        std::set<TagId> tags;
        std::vector<Span> runs;
        for (const JudgedRuns& j : judged) {
            runs.insert(runs.end(), j.runs.begin(), j.runs.end());
            for (const auto& [role, limits] : j.set.byRole)
                for (const Span& run : j.runs)
                    if (const Tag* tag = study_.catalog().tagInRole(run.asset, role)) tags.insert(tag->id);
        }
        std::sort(runs.begin(), runs.end(), [](const Span& a, const Span& b) { return a.start < b.start; });
        const std::vector<TagId> list(tags.begin(), tags.end());
        std::vector<std::vector<Cause>> found(list.size());
        forEachSideBySide(study_, list.size(), [&](Study& mine, std::size_t i) {
            found[i] = sensorDoubts(mine, *mine.catalog().tag(list[i]), steps, causes, runs, which_);
        });
        for (auto& of : found)
            for (Cause& cause : of) causes.push_back(std::move(cause));
    }

    std::vector<RoleRuns> rolesOf(const JudgedRuns& judged, const std::vector<Cause>& known) {
        std::vector<std::string> names;
        for (const auto& [role, limits] : judged.set.byRole) names.push_back(role);
        std::vector<RoleRuns> out(names.size());
        forEachSideBySide(study_, names.size(), [&](Study& mine, std::size_t r) {
            out[r] = roleRuns(mine, judged, names[r], known, which_);
        });
        return out;
    }

    /// `among`: the runs on whose scale the shapes are, where there are several scales.
    void addByRole(std::vector<RoleRuns>& roles, const std::vector<ProcessChange>& changes,
                   const JudgedRuns* among, std::vector<Cause>& ofChanges, std::vector<Cause>& byRuns) {
        const auto confine = [&](CauseEffect& effect) {
            if (!among) return;
            const Tag* tag = study_.catalog().tag(effect.tag);
            for (const Span& run : among->runs)
                if (tag && run.asset == tag->asset)
                    effect.onlyIn.push_back({run.start, run.end + kNanosecond});
            effect.onlyIn = joined(std::move(effect.onlyIn));
        };
        for (RoleRuns& role : roles) {
            RoleCauses found = causesInRole(study_, role, changes);
            for (auto& c : found.changes) {
                confine(c.effect);
                Cause& change = ofChanges[c.change];
                if (std::find(change.tags.begin(), change.tags.end(), c.effect.tag) == change.tags.end())
                    change.tags.push_back(c.effect.tag);
                change.effects.push_back(std::move(c.effect));
            }
            for (auto* list : {&role.gradual, &found.assets})
                for (Cause& c : *list) {
                    for (CauseEffect& effect : c.effects) confine(effect);
                    byRuns.push_back(std::move(c));
                }
        }
    }

    Cause causeOf(const ProcessChange& change, Cause cause) const {
        cause.kind = CauseKind::Process;
        cause.asset = change.asset;
        cause.range = cause.effects.front().range;
        cause.why = changeSentence(study_, change);
        return cause;
    }

    Study& study_;
    Which which_;
};

/// An asset or a change over runs is not known from a single run.
void dropLonely(FoundCauses& found) {
    std::map<int, std::set<SpanId>> runs;
    for (const ExplainedExcursion& e : found.excursions) runs[e.cause].insert(e.run);
    for (ExplainedExcursion& e : found.excursions) {
        const Cause* cause = found.cause(e.cause);
        if (cause && (cause->kind == CauseKind::Asset || cause->kind == CauseKind::Gradual) &&
            runs[e.cause].size() < 2)
            e.cause = 0, e.share = 0;
    }
    std::erase_if(found.causes, [&](const Cause& c) { return found.count(c.id) == 0; });
}

/// Ids by hours, the most first; sure from the areas.
void number(FoundCauses& found) {
    std::stable_sort(found.causes.begin(), found.causes.end(),
                     [&](const Cause& a, const Cause& b) { return found.hours(a.id) > found.hours(b.id); });
    std::map<int, int> newId;
    for (std::size_t i = 0; i < found.causes.size(); ++i) newId[found.causes[i].id] = static_cast<int>(i + 1);
    for (ExplainedExcursion& e : found.excursions)
        if (e.cause) e.cause = newId.at(e.cause);
    for (Cause& c : found.causes) {
        c.id = newId.at(c.id);
        double area = 0, explained = 0;
        for (const ExplainedExcursion& e : found.excursions)
            if (e.cause == c.id) area += e.excursion.area, explained += e.share * e.excursion.area;
        c.sure = area > 0 ? std::min(1.0, explained / area) : 0;
    }
}

}  // namespace

double FoundCauses::hours(int cause) const {
    double out = 0;
    for (const ExplainedExcursion& e : excursions)
        if (e.cause == cause) out += toHours(e.excursion.outside);
    return out;
}

std::size_t FoundCauses::count(int cause) const {
    return static_cast<std::size_t>(std::count_if(
        excursions.begin(), excursions.end(), [&](const ExplainedExcursion& e) { return e.cause == cause; }));
}

const Cause* FoundCauses::cause(int id) const {
    const auto at = std::find_if(causes.begin(), causes.end(), [&](const Cause& c) { return c.id == id; });
    return at == causes.end() ? nullptr : &*at;
}

Result<FoundCauses> findCauses(Study& study, TrackId track, const std::string& limits, const ScreenSpec& spec,
                               Which which, const Progress& progress) {
    Explanation explanation(study, track, limits, spec, which);
    FoundCauses out;
    if (explanation.judged().empty()) return out;
    auto causes = CauseGatherer(study, which).gather(explanation.judged(), progress.part(0, 0.7));
    if (!causes) return causes.error();
    out.causes = std::move(*causes);
    for (std::size_t i = 0; i < out.causes.size(); ++i) out.causes[i].id = static_cast<int>(i + 1);
    out.excursions = explanation.explain(out.causes, {}, progress.part(0.7, 1));
    if (progress.stopped(1)) return Error::cancelled();
    dropLonely(out);
    number(out);
    return out;
}

Result<FoundCauses> withoutCauses(Study& study, const FoundCauses& found, const std::vector<int>& without,
                                  TrackId track, const std::string& limits, const ScreenSpec& spec,
                                  Which which, const Progress& progress) {
    // An event has nothing to take away: it still explains, and what it explains does not count.
    std::vector<Cause> gone, explaining;
    FoundCauses out;
    for (const Cause& c : found.causes) {
        const bool left = std::find(without.begin(), without.end(), c.id) == without.end();
        (left ? out.causes : gone).push_back(c);
        if (left || c.kind == CauseKind::Event) explaining.push_back(c);
    }
    const ChangeValues change = [&](Series& series, TagId tag, const RunScale& scale) {
        if (series.times.empty()) return;
        const TimeRange in{series.times.front(), series.times.back() + kNanosecond};
        takeAway(series, effectsOn(tag, gone, in), scale);
    };
    out.excursions = Explanation(study, track, limits, spec, which).explain(explaining, change, progress);
    if (progress.stopped(1)) return Error::cancelled();
    std::erase_if(out.excursions, [&](const ExplainedExcursion& e) {
        const Cause* cause = found.cause(e.cause);
        return cause && cause->kind == CauseKind::Event && !out.cause(e.cause);
    });
    std::erase_if(out.causes, [&](const Cause& c) { return out.count(c.id) == 0; });
    return out;
}

}  // namespace jacinth
