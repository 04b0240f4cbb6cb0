// The camera at a burner's sight glass: frames of a few hours around two flame losses, drawn, with a clock
// that is wrong.
#pragma once

#include "core/base/progress.h"
#include "demo/plant.h"

namespace jacinth::demo {

inline constexpr Duration kCameraAhead = 40 * kSecond;  ///< the camera's clock minus the plant's
inline constexpr Duration kFrameEvery = 10 * kSecond;

struct SightGlass {
    int kiln = 1;
    std::vector<FlameLoss> losses;  ///< that it sees
    std::vector<TimeRange> filmed;  ///< by the plant's clock
};
/// On the first kiln that lost its flame twice without a stop, else on the one with most losses; no stretches
/// where no kiln lost it.
SightGlass sightGlassOf(const Truth& truth);

/// The folder beside a study in which its frames lie: `corvane.jacinth` has `corvane-sight-glass`.
std::string sightGlassFolder(const std::string& studyPath);

/// Writes a PNG a frame, with the camera's time in its name by the plant's wall clock; how many. Fails where
/// the folder cannot be made or the disk is full, and where it is stopped.
Result<std::size_t> writeSightGlass(const Truth& truth, const std::string& folder,
                                    const Progress& progress = {});

}  // namespace jacinth::demo
