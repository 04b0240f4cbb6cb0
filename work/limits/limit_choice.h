// Which of several golden limits a run is judged by.
#pragma once

#include "store/judgement.h"
#include "work/base/study_inputs.h"

namespace jacinth {

/// Of the limits of a track (or of one name on it) that are valid at the start of a run and whose condition
/// about runs fits it: those with a condition go before those for all runs, then the one valid from the later
/// date, then the newer version. So a new version replaces the one before, unless it is valid from a date:
/// then earlier runs keep theirs.
class LimitChoice {
  public:
    /// Conditions about runs are evaluated here, for all runs or `only` one of them.
    LimitChoice(Study& study, TrackId track, const std::string& name = {}, Which which = Which::Mended,
                SpanId only = {});
    const std::vector<LimitSet>& sets() const { return sets_; }
    /// Index into sets(), -1 where none applies.
    int of(const Span& run) const;
    /// A condition that does not compile; its limits apply to no run.
    const std::optional<Error>& error() const { return error_; }

  private:
    std::vector<LimitSet> sets_;
    std::vector<std::set<SpanId>> fitting_;  ///< ids of runs that fit, where there is a condition
    std::optional<Error> error_;
};

/// The limits of a track, every version, oldest first.
std::vector<LimitSet> limitSetsOf(const Study& study, TrackId track);

}  // namespace jacinth
