// Where each run of a track lies on the common scale of golden limits.
#pragma once

#include "core/golden/golden_limits.h"
#include "work/runs/run_phases.h"

namespace jacinth {

class RunScales {
  public:
    /// Scales for limits with this spec; `slots` are those of the limits, where lined up by phases.
    RunScales(Study& study, TrackId track, const LimitSpec& spec, std::vector<PhaseSlot> slots, Which which);
    /// Empty where the run cannot be laid on the scale: no phases, no indicator.
    RunScale of(const Span& run) const;

  private:
    Study& study_;
    LimitSpec spec_;
    std::vector<PhaseSlot> slots_;
    PhasesOfRuns phases_;
    Which which_;
};

/// Slots for limits from these golden runs. Empty unless lined up by phases; an error where the runs have
/// none.
Result<std::vector<PhaseSlot>> slotsFor(const Study& study, TrackId track, const LimitSpec& spec,
                                        const std::vector<SpanId>& golden);

}  // namespace jacinth
