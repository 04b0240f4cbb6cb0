// Golden limits from chosen runs, and every run of a track screened against them.
#pragma once

#include "store/study.h"

namespace jacinth {

/// Limits for each role from the golden runs of a track. Fails without golden runs or for a role no golden
/// run has.
Result<LimitSet> makeLimits(Study& study, const std::string& name, std::int64_t track,
                            const std::vector<std::string>& roles, const LimitSpec& spec,
                            Which which = Which::Mended);
void keepLimits(Study& study, const LimitSet& set);

/// One run's values in one role against the limits that apply to it.
struct ScreenedRun {
    Span run;
    std::string role;
    std::int64_t tag = 0;
    std::vector<Excursion> excursions;
};

/// The limits a run is judged by: without itself where it is golden.
GoldenLimits limitsFor(Study& study, const LimitSet& set, const std::string& role, std::int64_t run,
                       Which which = Which::Mended);

/// The same for many runs of one role: the golden ones are read once.
class LimitsOfRuns {
  public:
    LimitsOfRuns(Study& study, const LimitSet& set, const std::string& role, Which which);
    GoldenLimits of(std::int64_t run) const;

  private:
    GoldenLimits limits_;
    std::vector<AlignedRun> golden_;
};

/// Screens every run of the set's track in every role; stops when `goOn` says no. In order of role, then run.
std::vector<ScreenedRun> screenRuns(Study& study, const LimitSet& set, const ScreenSpec& spec,
                                    Which which = Which::Mended,
                                    const std::function<bool(double)>& goOn = {});

/// Puts the excursions on the track “Excursions”, in place of those there, as one undoable change.
void keepExcursions(Study& study, const LimitSet& set, const ScreenSpec& spec,
                    const std::vector<ScreenedRun>& screened);

/// An excursion on record, as keepExcursions wrote it.
struct KeptExcursion {
    Span span;
    std::int64_t run = 0;
    std::string role;
    Side side = Side::High;
    double peak = 0, area = 0, halfWidths = 0;
    int severity = 1;
};
std::vector<KeptExcursion> excursionsOf(const Study& study);

}  // namespace jacinth
