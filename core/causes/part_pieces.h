// The runs of one asset in one part of the run, as straight pieces: what gradual changes and changes of level
// are read from.
#pragma once

#include "core/causes/run_levels.h"
#include "core/causes/straight_pieces.h"

namespace jacinth {

inline constexpr std::size_t kPartsOfRun = 8;

/// The runs of an asset that have a value in a part of the run.
struct PartRuns {
    std::vector<const RunLevel*> runs;
    std::vector<double> day, mean;
};

PartRuns partRuns(const RunLevels& levels, AssetId asset, std::size_t fromBin, std::size_t toBin);

/// A line through values of the runs of a piece.
struct PieceLine {
    double start = 0, change = 0;  ///< at its first run; from there to its last run
    double end() const { return start + change; }
};

/// A piece of a part: the line through the means of its runs, in half-widths, and one for each bin.
struct PartPiece {
    StraightPiece runs;
    PieceLine mean;
    std::vector<PieceLine> bins;
    double days = 0;
};

/// The part cut into pieces. `part` has at least two runs.
std::vector<PartPiece> piecesOf(const PartRuns& part, std::size_t fromBin, std::size_t toBin);

/// Does the second go the same way after a jump back? A jump of more than twice what the pieces change by is
/// a change of its own.
bool continuesAfterReset(const PieceLine& a, const PieceLine& b);

}  // namespace jacinth
