#include "work/limits/screening.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <mutex>
#include <nlohmann/json.hpp>
#include <set>

#include "core/golden/whole_runs.h"
#include "core/stats/stats.h"
#include "store/json_body.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "store/wall_time.h"
#include "work/base/side_by_side.h"
#include "work/base/whole_fact.h"
#include "work/limits/golden_samples.h"
#include "work/limits/made_from.h"
#include "work/limits/up_to_date.h"
#include "work/runs/find_runs.h"

namespace jacinth {
namespace {

std::vector<AlignedRun> alignGolden(Study& study, TrackId track, const std::vector<SpanId>& golden,
                                    const std::string& role, const LimitSpec& spec, const RunScales& scales,
                                    Which which) {
    std::vector<AlignedRun> out;
    const AbnormalTime abnormal(study);
    const std::set<SpanId> chosen(golden.begin(), golden.end());
    for (const Span& run : study.tracks().spans(track)) {
        if (!chosen.contains(run.id)) continue;
        const Tag* tag = study.catalog().tagInRole(run.asset, role);
        if (!tag) continue;
        out.push_back(alignRun(goldenSamples(study, *tag, run.range(), spec, abnormal, which),
                               tag->bridging(), run.id, scales.of(run), spec.every));
    }
    return out;
}

Result<GoldenLimits> limitsOfRole(Study& study, TrackId track, const std::vector<SpanId>& golden,
                                  const std::string& role, const LimitSpec& spec, const RunScales& scales,
                                  Which which) {
    const auto aligned = alignGolden(study, track, golden, role, spec, scales, which);
    if (aligned.empty())
        return Error{fmt::format("no golden run has a tag in the role `{}`{}", role,
                                 sayNearest(role, study.catalog().roles()))};
    GoldenLimits limits = buildLimits(spec, aligned);
    if (limits.slices.empty())
        return Error{fmt::format("the golden runs have no values of `{}` on this scale{}", role,
                                 spec.lineUp == LineUp::Indicator
                                     ? fmt::format("; `{}` must rise through the run", spec.indicator)
                                     : "")};
    return limits;
}

/// Those golden runs that a condition about runs leaves.
Result<std::vector<SpanId>> goldenFor(Study& study, TrackId track, const std::string& forRuns, Which which) {
    std::vector<SpanId> golden = study.judgement().goldenRuns(track);
    if (golden.empty()) return Error{"no golden runs are chosen; choose some first"};
    if (forRuns.empty()) return golden;
    const auto fit = runsWhere(study, track, forRuns, which);
    if (!fit) return fit.error();
    const std::set<SpanId> fitting(fit->begin(), fit->end());
    std::erase_if(golden, [&](SpanId id) { return !fitting.contains(id); });
    if (golden.empty()) return Error{fmt::format("no golden run fits `{}`", forRuns)};
    return golden;
}

/// Slices are kept for every run and tag: a step that is far too small would fill the memory.
Status checkSliceCount(const Study& study, TrackId track, const LimitSpec& spec) {
    constexpr double kMostSlices = 200'000;
    if (spec.lineUp == LineUp::Indicator) return Done{};
    Duration longest{};
    for (const auto& [asset, range] : study.tracks().extents(track))
        longest = std::max(longest, range.length());
    const double slices = toNanoseconds(longest) / toNanoseconds(spec.every);
    if (slices <= kMostSlices) return Done{};
    return Error{fmt::format(
        "slices of {} would make {:.0f} of the longest run; at most {:.0f} are made: take longer slices",
        formatDuration(spec.every), slices, kMostSlices)};
}

/// Widens each role's limits until they hold their share of golden runs as a whole, each judged without
/// itself.
void holdWholeRuns(Study& study, LimitSet& set, const ScreenSpec& spec, Which which) {
    const std::set<SpanId> golden(set.goldenRuns.begin(), set.goldenRuns.end());
    std::vector<Span> runs = study.tracks().spans(set.track);
    std::erase_if(runs, [&](const Span& run) { return !golden.contains(run.id); });
    std::vector<GoldenLimits*> limits;
    std::vector<std::string> roles;
    for (auto& [role, one] : set.byRole) limits.push_back(&one), roles.push_back(role);
    forEachSideBySide(study, roles.size(), [&](Study& mine, std::size_t i) {
        const LimitsOfRuns judged(mine, set, roles[i], which);
        std::vector<double> factors;
        for (const Span& run : runs) {
            const Tag* tag = mine.catalog().tagInRole(run.asset, roles[i]);
            if (!tag) continue;
            const Series series = mine.readForFigures(*tag, {run.start, run.end + kNanosecond}, which);
            factors.push_back(
                factorToHold(series, tag->bridging(), judged.scaleOf(run), judged.of(run.id), spec));
        }
        *limits[i] =
            widenedBy(std::move(*limits[i]), factorForRuns(std::move(factors), limits[i]->spec.coverage));
    });
}

void screenRole(Study& study, const LimitSet& set, const std::string& role, const std::vector<Span>& runs,
                const ScreenSpec& spec, Which which, const ChangeValues& change,
                const std::function<bool()>& more, std::vector<ScreenedRun>& out) {
    const LimitsOfRuns judged(study, set, role, which);
    const std::set<SpanId> golden(set.goldenRuns.begin(), set.goldenRuns.end());
    const GoldenLimits& whole = set.byRole.at(role);
    for (const Span& run : runs) {
        if (!more()) return;
        const Tag* tag = study.catalog().tagInRole(run.asset, role);
        if (!tag) continue;
        Series series = study.readForFigures(*tag, {run.start, run.end + kNanosecond}, which);
        const RunScale scale = judged.scaleOf(run);
        if (change) change(series, tag->id, scale);
        const auto find = [&](const GoldenLimits& limits) {
            return findExcursions(series, tag->bridging(), scale, limits, spec);
        };
        out.push_back({run, role, tag->id, golden.contains(run.id) ? find(judged.of(run.id)) : find(whole),
                       limitsTitle(set)});
    }
}

std::optional<std::string> dismissedBefore(const std::vector<KeptExcursion>& before, SpanId run,
                                           const std::string& role, const Excursion& e) {
    for (const KeptExcursion& old : before) {
        if (old.dismissed.empty() || old.run != run || old.role != role || old.side != e.side) continue;
        const Duration common = std::min(old.span.end, e.end) - std::max(old.span.start, e.start);
        if (common * 2 >= std::max(e.end - e.start, old.span.end - old.span.start)) return old.dismissed;
    }
    return {};
}

std::vector<KeptExcursion> read(const std::vector<Span>& spans) {
    std::vector<KeptExcursion> out;
    for (const Span& s : spans) {
        KeptExcursion e{s, runOfSpan(s.facts), factText(s.facts, "role")};
        e.side = factText(s.facts, "side") == "low" ? Side::Low : Side::High;
        e.peak = factNumber(s.facts, "peak");
        e.area = factNumber(s.facts, "area");
        e.halfWidths = factNumber(s.facts, "half-widths");
        e.severity = static_cast<int>(wholeFact(s.facts, "severity", 1, 4, 1));
        const double after = factNumber(s.facts, "peak after s") * 1e9,
                     whole = toNanoseconds(s.end - s.start);
        e.peakTime = after >= 0 && after <= whole ? s.start + Duration(std::llround(after)) : s.start;
        // Screened by an earlier version: all of it counted.
        const double outside = factNumber(s.facts, "outside s", -1) * 1e9;
        e.outside = outside >= 0 && outside <= whole ? Duration(std::llround(outside)) : s.end - s.start;
        e.dismissed = factText(s.facts, "dismissed");
        e.limits = factText(s.facts, "limits");
        out.push_back(std::move(e));
    }
    return out;
}

/// `Excursions` for the first track of runs, and with the runs' name for any other.
std::string nameForExcursions(const Study& study, TrackId runTrack) {
    if (!study.tracks().named("Excursions")) return "Excursions";
    for (const Track& t : study.tracks().all())
        if (t.id == runTrack) return "Excursions of " + t.name;
    return "Excursions of runs";
}

}  // namespace

std::size_t slicesWithLimits(const GoldenLimits& limits) {
    return static_cast<std::size_t>(
        std::count_if(limits.slices.begin(), limits.slices.end(),
                      [](const LimitSlice& s) { return std::isfinite(s.low) || std::isfinite(s.high); }));
}

std::string limitsTitle(const LimitSet& set) {
    return set.version > 0 ? fmt::format("{} {}", set.name, set.version) : set.name;
}

LimitSpec proposedLimits(const Study& study, TrackId track) {
    constexpr std::array<Duration, 14> kSteps{
        kSecond,     2 * kSecond, 5 * kSecond,  10 * kSecond, 15 * kSecond, 30 * kSecond, kMinute,
        2 * kMinute, 5 * kMinute, 10 * kMinute, 15 * kMinute, 30 * kMinute, kHour,        2 * kHour};
    constexpr double kSlices = 660;
    LimitSpec spec;
    std::vector<double> lengths;
    for (const auto& [asset, range] : study.tracks().extents(track))
        lengths.push_back(toNanoseconds(range.length()));
    if (!lengths.empty()) {
        const double wanted = median(lengths) / kSlices;
        spec.every = *std::min_element(kSteps.begin(), kSteps.end(), [&](Duration a, Duration b) {
            return std::abs(std::log(toNanoseconds(a) / wanted)) <
                   std::abs(std::log(toNanoseconds(b) / wanted));
        });
    }
    spec.method = LimitMethod::Tolerance;
    spec.lineUp = phasesOf(study, track).empty() ? LineUp::Start : LineUp::Phases;
    spec.smooth = 5;
    spec.slack = 3 * spec.every;
    return spec;
}

Result<LimitSet> makeLimits(Study& study, const std::string& name, TrackId track,
                            const std::vector<std::string>& roles, const LimitSpec& spec, Which which,
                            const std::string& forRuns) {
    const auto golden = goldenFor(study, track, forRuns, which);
    if (!golden) return golden.error();
    auto set = makeLimitsFrom(study, name, track, roles, spec, *golden, which);
    if (set) set->forRuns = forRuns;
    return set;
}

Result<LimitSet> makeLimitsFrom(Study& study, const std::string& name, TrackId track,
                                const std::vector<std::string>& roles, const LimitSpec& spec,
                                const std::vector<SpanId>& golden, Which which) {
    LimitSet set{{}, name, track, golden, {}};
    set.who = study.who();
    if (spec.every <= Duration::zero()) return Error{"the slice has no length"};
    if (const Status few = checkSliceCount(study, track, spec); !few) return few.error();
    if (spec.smooth < 1 || spec.smooth % 2 == 0)
        return Error{"smoothing takes an odd number of slices, as many before as after; 1 is none"};
    const auto slots = slotsFor(study, track, spec, golden);
    if (!slots) return slots.error();
    std::vector<Result<GoldenLimits>> made(roles.size(), Error::cancelled());
    forEachSideBySide(study, roles.size(), [&](Study& mine, std::size_t i) {
        const RunScales scales(mine, track, spec, *slots, which);
        made[i] = limitsOfRole(mine, track, golden, roles[i], spec, scales, which);
    });
    for (std::size_t i = 0; i < roles.size(); ++i) {
        if (!made[i]) return made[i].error();
        made[i]->phases = *slots;
        set.byRole[roles[i]] = std::move(*made[i]);
    }
    set.madeFrom = madeFrom(study, set, which);
    bool any = false;
    for (const auto& [role, limits] : set.byRole) any = any || slicesWithLimits(limits) > 0;
    if (!any)
        return Error{fmt::format(
            "no slice has {} golden runs with a value, and fewer make no limit: {} runs are golden",
            spec.leastRuns, golden.size())};
    if (spec.method == LimitMethod::Tolerance) holdWholeRuns(study, set, screenSpecOf(study), which);
    set.flagged = flaggedAmongGolden(study, set, screenSpecOf(study), which);
    return set;
}

std::map<std::string, FlaggedRuns> flaggedAmongGolden(Study& study, const LimitSet& set,
                                                      const ScreenSpec& spec, Which which) {
    const std::set<SpanId> golden(set.goldenRuns.begin(), set.goldenRuns.end());
    std::vector<Span> runs = study.tracks().spans(set.track);
    std::erase_if(runs, [&](const Span& run) { return !golden.contains(run.id); });
    std::map<std::string, FlaggedRuns> out;
    for (const ScreenedRun& s : screenBy(study, set, runs, spec, which)) {
        FlaggedRuns& count = out[s.role];
        ++count.of;
        count.flagged += !s.excursions.empty();
    }
    return out;
}

std::string flaggedWords(const FlaggedRuns& count, double widened) {
    if (count.of == 0) return "no golden run";
    const Proportion share =
        wilson(static_cast<std::size_t>(count.flagged), static_cast<std::size_t>(count.of));
    return fmt::format(
        "{} of {} golden runs ({:.0f} %, {:.0f} to {:.0f} %){}", count.flagged, count.of, 100 * share.value,
        100 * share.low, 100 * share.high,
        widened > 1 ? fmt::format("; widened by {:.2g} % for whole runs", 100 * (widened - 1)) : "");
}

Status removeLimits(Study& study, const std::string& name, int version) {
    if (!study.judgement().limitSetNamed(name, version))
        return Error{fmt::format("`{}` is not a set of golden limits", name)};
    study.change(version ? fmt::format("remove limits {} {}", name, version) : "remove limits " + name, "",
                 {{"name", name}, {"version", version}},
                 [&] { study.judgement().removeLimitSet(name, version); });
    return Done{};
}

Status renameLimits(Study& study, const std::string& name, const std::string& newName) {
    if (const Status good = checkName(newName, "limits"); !good) return good;
    if (!study.judgement().limitSetNamed(name))
        return Error{fmt::format("`{}` is not a set of golden limits", name)};
    if (study.judgement().limitSetNamed(newName))
        return Error{fmt::format("there are limits `{}` already", newName)};
    study.change(fmt::format("rename limits {} to {}", name, newName), "", {{"name", name}, {"new", newName}},
                 [&] { study.judgement().renameLimitSet(name, newName); });
    return Done{};
}

void keepLimits(Study& study, const LimitSet& set) {
    std::vector<std::string> roles;
    for (const auto& [role, limits] : set.byRole) roles.push_back(role);
    LimitSet kept = set;
    if (kept.made == Instant{}) kept.made = timeNow();
    study.change(fmt::format("limits {}", set.name), "", {{"golden", set.goldenRuns}, {"roles", roles}},
                 [&] { study.judgement().putLimitSet(kept); });
}

LimitsOfRuns::LimitsOfRuns(Study& study, const LimitSet& set, const std::string& role, Which which)
    : limits_(set.byRole.contains(role) ? set.byRole.at(role) : GoldenLimits{}),
      scales_(study, set.track, limits_.spec, limits_.phases, which) {
    golden_ = alignGolden(study, set.track, set.goldenRuns, role, limits_.spec, scales_, which);
    stack_ = GoldenStack(limits_.spec, golden_, limits_.widened);
    for (std::size_t i = 0; i < golden_.size(); ++i) placeOf_[golden_[i].run] = i;
}

GoldenLimits LimitsOfRuns::of(SpanId run) const {
    const auto own = placeOf_.find(run);
    if (own == placeOf_.end()) return limits_;
    GoldenLimits without = stack_.without(golden_[own->second]);
    without.phases = limits_.phases;
    return without;
}

std::vector<ScreenedRun> screenBy(Study& study, const LimitSet& set, const std::vector<Span>& runs,
                                  const ScreenSpec& spec, Which which, const Progress& progress,
                                  const ChangeValues& change) {
    std::vector<std::string> roles;
    for (const auto& [role, limits] : set.byRole) roles.push_back(role);
    std::vector<std::vector<ScreenedRun>> byRole(roles.size());
    const double total = static_cast<double>(runs.size() * roles.size());
    std::mutex telling;  // progress comes from several threads, one at a time
    double done = 0;
    bool stopped = false;
    forEachSideBySide(study, roles.size(), [&](Study& mine, std::size_t i) {
        const auto more = [&] {
            const std::lock_guard lock(telling);
            stopped = stopped || progress.stopped(done / total);
            ++done;
            return !stopped;
        };
        screenRole(mine, set, roles[i], runs, spec, which, change, more, byRole[i]);
    });
    std::vector<ScreenedRun> out;
    for (auto& list : byRole)
        for (ScreenedRun& s : list) out.push_back(std::move(s));
    return out;
}

std::vector<JudgedRuns> runsByLimits(Study& study, TrackId track, const std::string& name, Which which) {
    const LimitChoice choice(study, track, name, which);
    std::vector<JudgedRuns> out;
    for (const LimitSet& set : choice.sets()) out.push_back({set, {}});
    for (const Span& run : study.tracks().spans(track))
        if (const int set = choice.of(run); set >= 0) out[static_cast<std::size_t>(set)].runs.push_back(run);
    std::erase_if(out, [](const JudgedRuns& judged) { return judged.runs.empty(); });
    return out;
}

std::vector<ScreenedRun> screenTrack(Study& study, TrackId track, const std::string& name,
                                     const ScreenSpec& spec, Which which, const Progress& progress) {
    const std::vector<JudgedRuns> judged = runsByLimits(study, track, name, which);
    double total = 0, done = 0;
    for (const JudgedRuns& one : judged) total += static_cast<double>(one.runs.size());
    std::vector<ScreenedRun> out;
    for (const JudgedRuns& one : judged) {
        const auto runs = static_cast<double>(one.runs.size());
        const Progress share = progress.part(done / total, (done + runs) / total);
        for (ScreenedRun& s : screenBy(study, one.set, one.runs, spec, which, share))
            out.push_back(std::move(s));
        done += runs;
    }
    return out;
}

void keepExcursions(Study& study, TrackId runTrack, const ScreenSpec& spec,
                    const std::vector<ScreenedRun>& screened, Which which) {
    std::set<std::string> used;
    for (const ScreenedRun& s : screened) used.insert(s.limits);
    const nlohmann::json definition{{"limits", used},
                                    {"track", runTrack},
                                    {"ignore", spec.ignore.count()},
                                    {"join", spec.join.count()},
                                    {"madeFrom", screenedFrom(study, runTrack, which)},
                                    {"made", epochNanoseconds(timeNow())}};
    const std::vector<KeptExcursion> before = excursionsOf(study);
    study.change("screen against " + fmt::format("{}", fmt::join(used, ", ")), "", definition, [&] {
        const auto known = excursionTrackOf(study, runTrack);
        const TrackId track = study.tracks().put(known ? known->name : nameForExcursions(study, runTrack),
                                                 track_kind::kExcursions, definition.dump());
        study.tracks().clear(track);
        for (const ScreenedRun& s : screened)
            for (const Excursion& e : s.excursions) {
                Span span{{}, s.run.asset, s.tag, e.start, e.end, {}};
                setRunOfSpan(span.facts, s.run.id);
                span.facts["role"] = s.role;
                span.facts["side"] = std::string(e.side == Side::High ? "high" : "low");
                span.facts["outside s"] = toSeconds(e.outside);
                span.facts["peak"] = e.peak;
                span.facts["peak after s"] = toSeconds(e.peakTime - e.start);
                span.facts["area"] = e.area;
                span.facts["half-widths"] = e.halfWidths;
                span.facts["severity"] = static_cast<double>(e.severity);
                span.facts["limits"] = s.limits;
                if (const auto why = dismissedBefore(before, s.run.id, s.role, e))
                    span.facts["dismissed"] = *why;
                study.tracks().addSpan(track, span);
            }
    });
}

void dismissExcursion(Study& study, const KeptExcursion& e, const std::string& reason) {
    Span span = e.span;
    if (reason.empty())
        span.facts.erase("dismissed");
    else
        span.facts["dismissed"] = reason;
    const Tag* tag = study.catalog().tag(span.tag);
    study.change(fmt::format("{} excursion of {}", reason.empty() ? "take back" : "dismiss",
                             tag ? tag->path() : e.role),
                 reason, {{"excursion", span.id}, {"run", e.run}}, [&] { study.tracks().updateSpan(span); });
}

void dismissExcursions(Study& study, const std::vector<KeptExcursion>& excursions, const std::string& reason,
                       const std::string& name) {
    study.change(name, reason, {{"excursions", excursions.size()}}, [&] {
        for (const KeptExcursion& e : excursions) {
            Span span = e.span;
            span.facts["dismissed"] = reason;
            study.tracks().updateSpan(span);
        }
    });
}

ScreenSpec screenSpecOf(const Study& study) {
    ScreenSpec out;
    const auto track = study.tracks().firstOf(track_kind::kExcursions);
    if (!track) return out;
    JsonBody body(track->definition);
    out.ignore = body.duration("ignore", out.ignore);
    out.join = body.duration("join", out.join);
    return out;
}

std::vector<KeptExcursion> excursionsOf(const Study& study) {
    return read(study.tracks().spansOf(track_kind::kExcursions));
}

std::vector<KeptExcursion> excursionsOfRuns(const Study& study, TrackId runTrack) {
    const auto track = excursionTrackOf(study, runTrack);
    return track ? read(study.tracks().spans(track->id)) : std::vector<KeptExcursion>();
}

std::optional<Track> excursionTrackOf(const Study& study, TrackId runTrack) {
    for (const Track& t : study.tracks().all())
        if (t.kind == track_kind::kExcursions && JsonBody(t.definition).id<TrackId>("track") == runTrack)
            return t;
    return {};
}

}  // namespace jacinth
