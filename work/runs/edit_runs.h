// Runs corrected by hand: split, merged, an edge moved, left out. Each one undoable change, in the ledger.
#pragma once

#include "work/runs/find_runs.h"

namespace jacinth {

/// Two runs in place of one. The first keeps its id and golden mark; both keep the facts. Fails where the
/// moment is not inside the run.
Status splitRun(Study& study, SpanId run, Instant at, const std::string& why);

/// One run from the first start to the last end, with the first one's id and facts. Fails for fewer than two,
/// runs of unlike assets or tracks, or where another run lies between.
Status mergeRuns(Study& study, const std::vector<SpanId>& runs, const std::string& why);

/// Fails where the run would have no length or reach into a neighbour.
Status moveRunEdges(Study& study, SpanId run, TimeRange range, const std::string& why);

/// Takes runs off their track: neither judged nor golden. Finding runs again brings them back.
Status leaveOutRuns(Study& study, const std::vector<SpanId>& runs, const std::string& why);

enum class Golden { Also, NoLonger, Only };
/// Makes runs of a track golden besides those that are, no longer golden, or the only golden ones; as one
/// step. Runs that were golden already keep their reason. Fails without runs, and on a run of another track.
Status markGolden(Study& study, TrackId track, const std::vector<SpanId>& runs, Golden how,
                  const std::string& why);

/// Why each golden run of a track is golden.
std::map<SpanId, std::string> goldenReasons(const Study& study, TrackId track);

/// Makes a run golden, or no longer, as one step: chosen by hand.
void toggleGolden(Study& study, TrackId track, SpanId run);

}  // namespace jacinth
