// How far the runs of a track lie from the golden centre, bin by bin, and what is common to several of them:
// a change from a moment on, an asset that differs, a change that grows from run to run.
#pragma once

#include "core/causes/effect.h"

namespace jacinth {

/// One run in one role: value − centre of the limits in each bin, in the tag's unit; NaN where it has none.
struct RunLevel {
    SpanId run;
    AssetId asset;
    Instant start{}, end{};
    std::vector<double> off;
};

/// All runs of a track in one role, by start.
struct RunLevels {
    ScaleBins bins;
    std::vector<double> halfWidth;  ///< of the limits, by bin; NaN where there are none
    std::vector<RunLevel> runs;
};

/// Means of the slices in each bin. `aligned` is on the slices of the limits.
std::vector<double> levelByBin(const AlignedRun& aligned, const GoldenLimits& limits, const ScaleBins& bins);
std::vector<double> halfWidthByBin(const GoldenLimits& limits, const ScaleBins& bins);

/// A run's mean over the bins from `from` to before `to`, in half-widths of the limits; NaN without any.
double meanLevel(const RunLevels& levels, const RunLevel& run, std::size_t from, std::size_t to);

/// Takes away from every run what an effect adds to it, at the weight of the run's start.
void takeAway(RunLevels& levels, AssetId asset, const CauseEffect& effect);

/// How the runs of an asset that start in [at, within.to) differ from those in [within.from, at): up to
/// twelve next to the change on either side.
struct LevelShift {
    ScaleShape shape;        ///< median after − median before, by bin, in the tag's unit
    double size = 0;         ///< mean over the bins, in half-widths of the limits
    double probability = 1;  ///< of runs as different without a change (rank sum over the runs' means)
};
/// Nothing with fewer than three runs on either side.
std::optional<LevelShift> shiftAt(const RunLevels& levels, AssetId asset, Instant at, TimeRange within);

/// Do the runs change level there in one of eight parts of the run? Of all places to split the twelve runs
/// before and after, the one that splits best is within two runs of it, and by ranks p < 0.001 there.
bool changesAt(const RunLevels& levels, AssetId asset, Instant at);

/// By how much an asset's runs lie from where the other assets' runs lie: the difference of its median from
/// the median of theirs, by bin. Only in bins where that is more than four of its standard errors (from the
/// MAD of its runs), more than any two other assets differ, and a quarter of a half-width; 0 elsewhere.
/// Nothing with fewer than three assets of five runs, or where no bin is left.
std::optional<ScaleShape> assetShape(const RunLevels& levels, AssetId asset);

/// What grows from run to run on an asset, from the level at which it is nearest to the golden centre;
/// several stretches that go the same way with a jump back between them (a belt that wears and is changed)
/// share one.
struct GradualChange {
    std::vector<CauseEffect> pieces;  ///< without tag; weights from 0 at one end to 1 at the other
    double probability = 1;           ///< Mann & Kendall, over the pieces together
    double perDay = 0;                ///< half-widths per day in the part of the run where it is strongest
};
/// The run is looked at in eight parts. In each the runs' means are cut into straight pieces
/// (straight_pieces.h), and kept where ranks say with p < 0.01 for all parts together that they rise or fall.
/// In every bin of such a part a piece has the median slope of its runs (Theil & Sen). Nothing where no part
/// changes.
std::optional<GradualChange> gradualChange(const RunLevels& levels, AssetId asset);

/// A level of an asset's runs that jumps between two of them.
struct LevelJump {
    TimeRange between{};  ///< from the end of the last run before it to the start of the first run after it
    double size = 0;      ///< half-widths of the limits, in the part of the run where it is clearest
    double significance = 0;  ///< size over its error there
};
/// In each of eight parts of the run, between two straight pieces: where the lines are further apart than six
/// of their errors (2·s/√n for the end of each, s from what the runs scatter beside them) and 0.25
/// half-widths, and not a jump back between pieces that go the same way (gradualChange). Jumps of several
/// parts at the same place, or one run apart, are one. By time.
std::vector<LevelJump> levelJumps(const RunLevels& levels, AssetId asset);

/// Where the other assets lie at the same time: for each run of an asset an effect over its own time, by bin
/// the median of the runs of the others that start within `near` of it. 0 where fewer than eight runs of
/// three assets do, or where that median is not further from 0 than 2.576 of its errors (from their MAD).
/// Nothing where all are 0.
std::vector<CauseEffect> commonToOthers(const RunLevels& levels, AssetId asset, Duration near);

}  // namespace jacinth
