// What a picture of lined-up runs shows: the golden corridor, the golden runs, and one run among them, all on
// the common scale of the limits.
#pragma once

#include <memory>
#include <optional>

#include "work/limits/compare_limits.h"

namespace jacinth {

/// The runs of one role on the scale of one set of limits. Costly to make and the same for every run that is
/// looked at, so it is handed back in as long as nothing has changed.
struct AlignedRole {
    std::string role;
    LimitSetId set;  ///< none for limits that are not kept
    LimitSpec spec;
    std::shared_ptr<const std::vector<AlignedRun>> golden;
    std::shared_ptr<const std::vector<AlignedRun>> all;  ///< every run of the track; null unless asked for
    std::shared_ptr<const GoldenStack> stack;
};

struct LineUpPicture {
    GoldenLimits limits;                ///< of a golden run: without itself
    std::optional<GoldenLimits> other;  ///< to be compared with them
    FlaggedRuns flagged;  ///< golden runs that limits on record flag; of 0 where it is not known
    std::shared_ptr<const std::vector<AlignedRun>> golden;
    std::shared_ptr<const std::vector<AlignedRun>> all;  ///< null unless asked for
    std::shared_ptr<const GoldenStack> stack;            ///< for the share of golden runs below a value
    Series run;                                          ///< of the chosen run; may be empty
    Series
        otherData;  ///< the same as logged where it is mended, and the other way round; empty without fixes
    Span runSpan;
    RunScale scale;
    std::vector<Excursion> excursions;
    Bridging bridging;
    std::string unit, indicatorUnit;
};

struct LineUpRequest {
    Span run;
    std::string role;
    Which which = Which::Mended;
    LimitSetId wanted;     ///< these limits, where they hold the role; else those that apply to the run
    LimitSet otherwise;    ///< track, golden runs and spec of the role, where no limits on record apply
    bool withAll = false;  ///< every run of the track as well
};

struct LinedUp {
    LineUpPicture picture;  ///< without excursions
    AlignedRole aligned;
};

/// Reads the golden runs (and with `withAll` every run) unless `known` holds them. The asset of the run has a
/// tag in the role. Time grows with the samples of the runs that are read.
LinedUp lineUpRun(Study& study, const LineUpRequest& request, const std::optional<AlignedRole>& known);

/// The corridors of two limits over each other, and one run (or none) with what lies outside the first. Two
/// limits that are lined up differently have two scales: then only the first is in the picture.
LineUpPicture lineUpOfComparison(Study& study, const LimitComparison& comparison, SpanId run, Which which);

}  // namespace jacinth
