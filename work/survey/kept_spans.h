// Stretches of a tag that a calculation found and the user keeps: its peaks, and when it was in a cluster of
// values. They stand on tracks of their own and can become labels.
#pragma once

#include "store/study.h"
#include "store/tracks.h"

namespace jacinth {

inline constexpr const char* kPeaksTrack = "peaks";             ///< kind of tracks of peaks
inline constexpr const char* kStretchesTrack = "stretches";     ///< kind of tracks of other kept stretches
inline constexpr const char* kSpikesToMend = "Spikes to mend";  ///< track of peaks proposed for mending

/// Tracks of both kinds that have a span on the asset, in order of creation.
std::vector<Track> keptTracks(const Study& study, AssetId asset);

/// One span each on a track of that name, with those facts; what was on it is replaced. One undoable step.
/// Returns the track. Fails where the name is that of another kind of track.
Result<TrackId> keepStretches(Study& study, const std::string& track, const Tag& tag,
                              const std::vector<TimeRange>& stretches, const Facts& facts);

/// Removes a track of kept spans, as one undoable step.
Status removeKept(Study& study, TrackId track);

}  // namespace jacinth
