// Whether the excursions on record are what screening would find now; limits and excursions made again in one
// step, with what that changed.
#pragma once

#include <string>
#include <vector>

#include "core/base/progress.h"
#include "work/limits/screening.h"

namespace jacinth {

/// A mark of what screening a track of runs reads beside the samples: its runs, its limits, and the fixes
/// that act in the runs on the roles with limits (as logged: no fixes).
std::string screenedFrom(const Study& study, TrackId runTrack, Which which);

/// Name of each set of limits whose newest version is out of date, with the words of outOfDate (made_from.h).
std::vector<std::pair<std::string, std::string>> limitsOutOfDate(const Study& study, TrackId runTrack);

/// “screened before the fix of 3 May on Kiln 4/Bed ΔP and 2 more”, “…before the limits of 4 May”, “the runs
/// were changed since they were screened”, “samples in the runs were imported, replaced or removed since they
/// were screened”; empty where screening would read the same now, before the first
/// screening, and where no mark is on record.
std::string excursionsOutOfDate(const Study& study, TrackId runTrack);

struct MadeAgain {
    std::vector<std::string> limits;    ///< titles of those that were out of date, in their new version
    std::size_t before = 0, after = 0;  ///< excursions
    std::string cleared;                ///< see whatCleared
};

/// Makes the limits of the track that are out of date (made_from.h) again, from the same golden runs with the
/// same settings, each as a new version; then screens every run. One undoable step. Where it is stopped or
/// fails nothing is changed. Fails without limits.
Result<MadeAgain> makeAgain(Study& study, TrackId runTrack, Which which = Which::Mended,
                            const Progress& progress = {});

/// How many excursions of each tag are gone: “84 excursions of Bed ΔP on Kiln 4 gone”; more of another tag
/// are said too. “the same excursions as before” where nothing changed.
std::string whatCleared(const Study& study, const std::vector<KeptExcursion>& before,
                        const std::vector<KeptExcursion>& after);

}  // namespace jacinth
