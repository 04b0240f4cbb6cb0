// A tag on an even grid, and its trend, cycle and remainder.
#pragma once

#include <functional>

#include "core/base/progress.h"
#include "core/model/parts.h"
#include "core/series/resample.h"
#include "work/derived/derived_tags.h"

namespace jacinth {

/// A tag by periods. Times are those at which a period begins.
struct TagGrid {
    std::vector<Instant> edges;  ///< one more than values
    std::vector<double> values;  ///< NaN where a period has no figure
    KeptOrigin origin;           ///< what it was made from
};
/// Fails where the range would have too many periods. Can be
/// stopped.
Result<TagGrid> gridOf(Study& study, const Tag& tag, TimeRange range, const Period& period, Take take,
                       Which which, const Progress& progress = {});

enum class PartsKind { Propose, Added, Multiplied };
struct PartsSpec {
    Duration every = kHour;
    Take take = Take::Mean;
    Duration period{};  ///< 0: proposed
    PartsKind kind = PartsKind::Propose;
    bool loess = true;  ///< else classical
    bool robust = false;
    int cycleSpan = 7;
};

struct TagParts {
    TagGrid grid;
    Parts parts;
    int period = 0;           ///< in grid steps
    PeriodGuess proposed;     ///< what the autocorrelation shows
    std::string kindReason;   ///< why added or multiplied, where that was proposed
    std::size_t bridged = 0;  ///< grid steps without a value, bridged by a line for the calculation; parts
                              ///< are missing there
};

/// The step that makes some hundred to some thousand steps of a stretch that long.
Duration proposedStep(Duration length);

/// Takes the tag apart. Fails with words for the user: no period found, too short a stretch, too few values.
Result<TagParts> partsOf(Study& study, const Tag& tag, TimeRange range, const PartsSpec& spec, Which which,
                         const Progress& progress = {});

/// Trend, cycle and remainder, to be kept as `<name> trend`, `<name> cycle`, `<name> remainder`.
SamplesToKeep partsToKeep(const Tag& tag, const TagParts& parts, const PartsSpec& spec);

/// Up to what gap a line is drawn between figures of periods that follow each other.
Duration longestGapOf(const Period& period);

/// A tag by periods, to be kept under that name on the same asset.
SamplesToKeep gridToKeep(const Tag& tag, const TagGrid& grid, const Period& period, Take take,
                         const std::string& name);

}  // namespace jacinth
