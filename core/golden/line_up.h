// How runs of unlike length are laid side by side: each run's time is mapped to one common scale.
#pragma once

#include <cmath>
#include <optional>
#include <string>
#include <vector>

#include "core/series/series.h"
#include "core/span/span.h"

namespace jacinth {

/// By the time since the start, the time to the end, the phases inside, or a tag that rises through the run.
enum class LineUp { Start, End, Phases, Indicator };

Result<LineUp> lineUpNamed(const std::string& name);  ///< start, end, phases, indicator
const char* lineUpName(LineUp lineUp);

/// The common scale of runs, as a clock of its own: its points do not mix with instants.
struct RunScaleClock {
    using duration = Duration;
    using rep = duration::rep;
    using period = duration::period;
};
/// A place on the common scale: time since the start (Start), time from the end and so not above 0 (End),
/// time into phases of common length (Phases). By an indicator (Indicator) a second stands for one of its
/// unit, so that steps and distances on the scale are durations whatever it is made of.
using Place = std::chrono::time_point<RunScaleClock, Duration>;

/// By an indicator: the place of a value, and how many of its units a distance on the scale is.
inline Duration indicatorStep(double units) {
    return Duration(std::llround(units * toNanoseconds(kSecond)));
}
inline double indicatorUnits(Duration distance) {
    return toSeconds(distance);
}

/// A stretch of a run with a name. `finished` is false for the last one of a run that still goes on.
struct RunPhase {
    std::string name;
    TimeRange range;
    bool finished = true;
};

/// A phase on the common scale.
struct PhaseSlot {
    std::string name;
    Duration length{};
};

/// Phases of the common scale in their order, each as long as the median of the given runs' phases of that
/// name. The order is that of most runs: by the median place in the run at which a phase begins.
std::vector<PhaseSlot> phaseSlots(const std::vector<std::vector<RunPhase>>& runs);

/// What is unusual about a run's phases, held against the slots.
struct PhaseFaults {
    std::vector<std::string> missing, repeated;
};
PhaseFaults phaseFaults(const std::vector<RunPhase>& phases, const std::vector<PhaseSlot>& slots);

/// One run's way between its own time and the common scale: pieces in order of time, straight inside.
class RunScale {
  public:
    struct Piece {
        TimeRange time;  ///< both ends included
        Place from, to;
    };
    RunScale() = default;
    explicit RunScale(std::vector<Piece> pieces);

    const std::vector<Piece>& pieces() const { return pieces_; }
    bool empty() const { return pieces_.empty(); }
    /// Nothing where the run's time has no place: before its first piece, after its last.
    std::optional<Place> placeOf(Instant t) const;
    /// The moment the run first reaches a place; nothing where it never does.
    std::optional<Instant> timeOf(Place place) const;
    Place firstPlace() const { return pieces_.front().from; }
    Place lastPlace() const { return pieces_.back().to; }

  private:
    std::vector<Piece> pieces_;
};

RunScale scaleFromStart(const TimeRange& run);
RunScale scaleFromEnd(const TimeRange& run);

/// Inside each phase time is stretched to the length of its slot. A phase lasts until the next one begins,
/// the last until the end of the run. Where a phase is missing its slot stays empty; one that appears again
/// reaches from its first start, and what comes out of order is part of what it falls into. The last phase
/// of a run that still goes on is not stretched: how long it will be is not known.
RunScale scaleByPhases(const TimeRange& run, const std::vector<RunPhase>& phases,
                       const std::vector<PhaseSlot>& slots);

/// The scale is the greatest value so far of a tag that rises through the run. Empty where it has no two
/// values or does not rise.
RunScale scaleByIndicator(const SeriesView& indicator, const TimeRange& run);

}  // namespace jacinth
