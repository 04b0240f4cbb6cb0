// Runs of a study: found by an expression, chosen as golden by an expression or by hand.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <set>

#include "core/base/progress.h"
#include "store/tracks.h"
#include "work/runs/run_phases.h"

namespace jacinth {

struct RunSearch {
    std::string where;  ///< a condition: true while a run lasts
    Duration least{};   ///< shorter ones are not runs
    Duration most = kWithoutEnd;
    Duration join{};       ///< a break shorter than this does not end a run
    std::string asset;     ///< only this one; empty for all
    Duration trimStart{};  ///< cut off each run's start, after its length was judged
    Duration trimEnd{};
    std::string phases;               ///< as in work/runs/run_phases.h; empty for none
    std::string list;                 ///< in place of `where`: every span of this track is a run
    std::optional<TimeRange> within;  ///< only runs that start there; all where not given
};

/// Runs by asset and time, numbered within the asset over the whole record. Facts of the batch list are taken
/// over where a batch covers most of the run. A run that lasts to the end of the record has the fact
/// unfinished = yes. Phases that are missing or repeated are said in the facts `phases missing` and `phases
/// repeated`, held against the phases that most of these runs have.
struct FoundRuns {
    std::vector<Span> runs;  ///< ids 1, 2, 3 … until they are kept
    PhasesOfRuns phases;     ///< by those ids
};
/// Can be stopped.
Result<FoundRuns> findRuns(Study& study, const RunSearch& search, Which which = Which::Mended,
                           const Progress& progress = {});

/// Puts found runs on a track, as one undoable change. Runs that are found again at the same place keep their
/// id, and with it their golden mark, their facts and the limits made from them; runs of assets or times that
/// were not searched stay as they are; runs that were left out stay left out. What was found of runs that are
/// gone goes with them.
TrackId keepRuns(Study& study, const std::string& track, const RunSearch& search, const FoundRuns& found);

/// Is the fact one that finding runs sets?
bool isFoundFact(const std::string& name);
/// Runs that the engineer left out of a track, by its definition: they are not found again.
std::vector<Span> leftOutRunsOf(const nlohmann::json& definition);

/// How the runs of a track were found.
RunSearch searchOf(const Track& track);

/// The runs of a track for which the expression (about a run) is true; with `only`, that run or none.
Result<std::vector<SpanId>> runsWhere(Study& study, TrackId track, const std::string& where,
                                      Which which = Which::Mended, SpanId only = {});

/// The run with the name of its asset as the fact `asset`, unless it has a fact of that name.
Span withAssetName(const Study& study, const Span& run);

/// What an expression about a run of this asset may name: its tags, every fact of the runs, `duration` and
/// `asset`. It is evaluated about withAssetName(run).
Names namesAboutRuns(const Study& study, AssetId asset, const std::vector<Span>& runs);

/// Removes the excursions that were found of runs that go. Inside a step.
void removeExcursionsOf(Study& study, const std::set<SpanId>& runs);

}  // namespace jacinth
