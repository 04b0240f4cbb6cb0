// False steps: moments at which a sensor's level changes and stays changed while the process does not, found
// over all tags of an asset.
#pragma once

#include <optional>
#include <vector>

#include "core/steps/tag_scan.h"

namespace jacinth {

enum class StepKind {
    Lonely,    ///< this sensor, or sensors that share a mount with it, and nothing else
    Process,   ///< companions moved at the same time, and no twin says otherwise
    DriftEnd,  ///< takes back what the sensor had drifted away: calibrated, cleaned or exchanged
};

struct SuspectedStep {
    TagId tag;
    StepKind kind = StepKind::Lonely;
    Instant time{};                  ///< the first sample known to be of the new level
    TimeRange between{};             ///< within which it happened
    double size = 0;                 ///< new level − old level, in the tag's unit
    double error = 0;                ///< standard error of the size
    std::optional<Instant> returns;  ///< the first sample back at the old level
    std::vector<TagId> moved;        ///< companions that changed level at the same time
    std::vector<TagId> sharedWith;   ///< tags that stepped with it although a twin did not: one mount
    TagId twin;                      ///< reads the same and did not move; 0 for none
    std::vector<TagId> companions;   ///< say how it goes, and did not say this: at most three
    bool seen = true;                ///< at one moment; else it shows in the levels before and after only

    double low() const { return size - 1.96 * error; }  ///< 95 %
    double high() const { return size + 1.96 * error; }
    double significance() const;  ///< |size| over its error
};

/// Steps of the tags of one asset, rising in time. `stateChanges` rise.
///
/// Where states or runs explain at least half of the tags, by what recurs; else by what companions leave
/// unexplained (jointSteps), and tags that have none by themselves.
///
/// By what recurs, a jump (jumpsOf) of score 8 or more is a step where it is sharp, not beside a gap or a
/// stuck value, no state changes within two minutes of it, and the level stays changed: the difference of
/// levels over an hour, four, a day and three days is about its size and clear of what such differences
/// usually are. That is judged on the difference from a twin (a tag of the same unit whose level changes with
/// it) where there is one, and on what is left without the recurring shape where there is none. A jump back
/// by the same size is its return; then the levels in between count. One that the tag makes often needs more
/// of that. Jumps of several tags within 90 s are one event: with a twin that did not move, sensors on one
/// mount; else a change of the process. Shifts of level that no jump explains (levelShifts) are added where
/// no twin contradicts.
std::vector<SuspectedStep> suspectedSteps(const std::vector<TagScan>& asset, const BlockGrid& grid,
                                          const std::vector<Instant>& stateChanges);

}  // namespace jacinth
