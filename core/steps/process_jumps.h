// Moments at which the process itself jumps: several tags at once, as they do not often.
#pragma once

#include <vector>

#include "core/steps/tag_scan.h"

namespace jacinth {

struct ProcessJump {
    Instant time{};
    std::vector<const Jump*> jumps;  ///< of each tag; null for none
};

/// Two tags or more jump within five minutes, each with a score of 5 or more, the root of their squares 8 or
/// more, and no four other moments look the
/// same: of a distance of 0.4 times their own length or less, each tag's size taken in what its jumps usually
/// are. Rising in time; points into `asset`.
std::vector<ProcessJump> unusualProcessJumps(const std::vector<TagScan>& asset);

}  // namespace jacinth
