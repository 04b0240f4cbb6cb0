// Golden limits from chosen runs, and every run of a track screened against them.
#pragma once

#include <unordered_map>

#include "core/base/progress.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/limits/limit_choice.h"
#include "work/limits/run_scales.h"

namespace jacinth {

/// What is proposed where the engineer has said nothing: Howe's tolerance interval holding 99 % of good runs
/// with 95 % confidence, so that few golden runs give wide limits; lined up by phases where the runs have
/// them; slices of about a 660th of a run; smoothed over 5 slices, and a slack of 3, because the best limits
/// at a steep flank are no better than the line-up.
LimitSpec proposedLimits(const Study& study, TrackId track);

/// Limits for each role from the golden runs of a track, not kept yet. Fails without golden runs, for a role
/// no golden run has, or where the runs cannot be lined up as asked. `forRuns` chooses among the golden runs
/// as well: limits of a product come from its own. Tolerance limits are widened about their centre until
/// their share of golden runs lies inside as a whole, each judged without itself (core/golden/whole_runs.h).
Result<LimitSet> makeLimits(Study& study, const std::string& name, TrackId track,
                            const std::vector<std::string>& roles, const LimitSpec& spec,
                            Which which = Which::Mended, const std::string& forRuns = {});
/// The same from these runs, golden or not.
Result<LimitSet> makeLimitsFrom(Study& study, const std::string& name, TrackId track,
                                const std::vector<std::string>& roles, const LimitSpec& spec,
                                const std::vector<SpanId>& golden, Which which = Which::Mended);
/// How many golden runs of a set have excursions from it in each role, each run judged by limits made without
/// it: what share of good runs the limits can be expected to flag.
std::map<std::string, FlaggedRuns> flaggedAmongGolden(Study& study, const LimitSet& set,
                                                      const ScreenSpec& spec, Which which);
/// The count of one role with its interval: `2 of 37 golden runs (5 %, 1 to 18 %)`, and by how much its
/// limits were widened for it.
std::string flaggedWords(const FlaggedRuns& count, double widened);
/// Removes one version of limits, or with version 0 all of a name, as one undoable step.
Status removeLimits(Study& study, const std::string& name, int version = 0);
/// Gives limits another name, all versions. Fails where the name is taken.
Status renameLimits(Study& study, const std::string& name, const std::string& newName);
void keepLimits(Study& study, const LimitSet& set);

/// One run's values in one role against the limits that apply to it.
struct ScreenedRun {
    Span run;
    std::string role;
    TagId tag;
    std::vector<Excursion> excursions;
    std::string limits;  ///< name and version of what it was judged by: `spring barley 2`
};
/// How many slices have enough golden runs for a limit.
std::size_t slicesWithLimits(const GoldenLimits& limits);
std::string limitsTitle(const LimitSet& set);

/// One role of a set of limits, ready to judge runs: the golden ones are read once, and each is judged
/// without itself.
class LimitsOfRuns {
  public:
    LimitsOfRuns(Study& study, const LimitSet& set, const std::string& role, Which which);
    GoldenLimits of(SpanId run) const;
    RunScale scaleOf(const Span& run) const { return scales_.of(run); }
    const std::vector<AlignedRun>& golden() const { return golden_; }
    const GoldenStack& stack() const { return stack_; }

  private:
    GoldenLimits limits_;
    RunScales scales_;
    std::vector<AlignedRun> golden_;
    GoldenStack stack_;
    std::unordered_map<SpanId, std::size_t> placeOf_;  ///< in golden_, by run
};

/// What is changed in the values of a run before they are judged: to see what would be without something.
/// Called on several threads at once.
using ChangeValues = std::function<void(Series&, TagId, const RunScale&)>;

/// Screens these runs by one set in every role; stops early with what it has where it is stopped. In order of
/// role, then run.
std::vector<ScreenedRun> screenBy(Study& study, const LimitSet& set, const std::vector<Span>& runs,
                                  const ScreenSpec& spec, Which which = Which::Mended,
                                  const Progress& progress = {}, const ChangeValues& change = {});

/// One set of limits and the runs of its track that it judges.
struct JudgedRuns {
    LimitSet set;
    std::vector<Span> runs;
};
/// The limits of a track, of one name or of all, with the runs to which each applies; those without runs are
/// left out.
std::vector<JudgedRuns> runsByLimits(Study& study, TrackId track, const std::string& name,
                                     Which which = Which::Mended);

/// Every run of a track, each by the limits that apply to it, of one name or of all. In order of limits,
/// role, run.
std::vector<ScreenedRun> screenTrack(Study& study, TrackId track, const std::string& name,
                                     const ScreenSpec& spec, Which which = Which::Mended,
                                     const Progress& progress = {});

/// Puts the excursions on the track “Excursions”, in place of those there, as one undoable change. What was
/// dismissed before and is found again (same run, tag and side, overlapping by half) stays dismissed.
void keepExcursions(Study& study, TrackId track, const ScreenSpec& spec,
                    const std::vector<ScreenedRun>& screened, Which which = Which::Mended);

/// An excursion on record, as keepExcursions wrote it.
struct KeptExcursion {
    Span span;
    SpanId run;
    std::string role;
    Side side = Side::High;
    Duration outside{};  ///< its length: the time between start and end that lies outside
    double peak = 0, area = 0, halfWidths = 0;
    int severity = 1;
    Instant peakTime{};
    std::string dismissed;  ///< why; empty where it is not dismissed
    std::string limits;     ///< by which it was found
};
std::vector<KeptExcursion> excursionsOf(const Study& study);
/// Those of the runs of one track.
std::vector<KeptExcursion> excursionsOfRuns(const Study& study, TrackId runTrack);
/// The track that holds the excursions of a track of runs; none before the first screening.
std::optional<Track> excursionTrackOf(const Study& study, TrackId runTrack);

/// What the excursions on record were screened with; the usual where there are none.
ScreenSpec screenSpecOf(const Study& study);

/// Sets an excursion aside, with a reason, as one undoable change; an empty reason takes it back.
void dismissExcursion(Study& study, const KeptExcursion& excursion, const std::string& reason);
/// Several, as one undoable change of that name.
void dismissExcursions(Study& study, const std::vector<KeptExcursion>& excursions, const std::string& reason,
                       const std::string& name);

}  // namespace jacinth
