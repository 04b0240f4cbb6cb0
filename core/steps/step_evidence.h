// Whether a level stayed changed after a moment, judged by a twin or by what is left without the recurring
// shape.
#pragma once

#include <map>
#include <optional>
#include <utility>
#include <vector>

#include "core/steps/estimate.h"
#include "core/steps/tag_scan.h"

namespace jacinth {

/// How many of the four reaches (LevelDifference) say that the level changed by about the size asked about.
struct StaysChanged {
    int shortReaches = 0;    ///< of an hour and four hours
    int longReaches = 0;     ///< of a day and three days
    bool longKnown = false;  ///< a long reach could be calculated
    /// Of reaches that agree within a quarter, with the reach.
    std::vector<std::pair<Duration, Estimate>> estimates;

    int reaches() const { return shortReaches + longReaches; }
};

/// Before `at`, back to `from` but at most 45 days, or half or a quarter of that, `levels` ran away evenly
/// against `size` by half of it to one and a half times, so that `size` took it back.
bool runsAwayBefore(const std::vector<double>& levels, const BlockGrid& grid, Instant from, Instant at,
                    double size);

class StepEvidence {
  public:
    /// Keeps references to both.
    StepEvidence(const std::vector<TagScan>& asset, const BlockGrid& grid);

    /// The place of the tag that reads the same: of the same unit, with differences between the two over an
    /// hour that are less than 35 % of what either has.
    std::optional<std::size_t> twinOf(std::size_t tag) const;
    /// The tag less its twin.
    const LevelDifference& lessTwin(std::size_t tag) const { return lessTwin_.at(tag); }
    /// Blocks at which the difference from the twin changes most, over an hour and over four, by ten times
    /// what is usual or more; none within four hours of a greater one.
    std::vector<std::size_t> changesFromTwin(std::size_t tag) const;
    /// A reach agrees that has the sign, 0.5 to 1.6 times the size, and three times what is usual.
    StaysChanged byShape(std::size_t tag, Instant at, double size) const;
    StaysChanged byTwin(std::size_t tag, Instant at, double size) const;
    /// The same for a companion, whose change may act in part of the time only: from 0.3 times the size and
    /// two and a half times what is usual on.
    StaysChanged companion(std::size_t tag, Instant at, double size) const;
    /// Before `at`, back to `from`, the level ran away evenly by half of `size` to one and a half times, and
    /// `size` took it back.
    bool endsDrift(std::size_t tag, Instant from, Instant at, double size) const;

  private:
    struct Bounds {
        double least, most, clear;
    };
    StaysChanged stays(const LevelDifference& levels, double resolution, Instant at, double size,
                       Bounds bounds) const;
    const std::vector<TagScan>& asset_;
    const BlockGrid& grid_;
    std::map<std::size_t, std::size_t> twins_;
    std::map<std::size_t, LevelDifference> lessTwin_;
};

}  // namespace jacinth
