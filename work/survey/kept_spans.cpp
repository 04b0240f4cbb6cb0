#include "work/survey/kept_spans.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "store/tracks.h"

namespace jacinth {
namespace {

bool isKept(const Track& track) {
    return track.kind == kPeaksTrack || track.kind == kStretchesTrack;
}

}  // namespace

std::vector<Track> keptTracks(const Study& study, AssetId asset) {
    std::vector<Track> out = study.tracks().all();
    std::erase_if(out, [&](const Track& track) {
        if (!isKept(track)) return true;
        const std::vector<Span> spans = study.tracks().spans(track.id);
        return std::none_of(spans.begin(), spans.end(), [&](const Span& s) { return s.asset == asset; });
    });
    return out;
}

Result<TrackId> keepStretches(Study& study, const std::string& name, const Tag& tag,
                              const std::vector<TimeRange>& stretches, const Facts& facts) {
    if (const auto known = study.tracks().named(name); known && known->kind != kStretchesTrack)
        return Error{fmt::format("`{}` is a track of {} already; choose another name", name, known->kind)};
    if (const Status good = checkName(name, "a track"); !good) return good.error();
    TrackId track;
    study.change(fmt::format("keep {} stretches of {}", stretches.size(), tag.path()), "",
                 {{"track", name}, {"tag", tag.path()}}, [&] {
                     track = study.tracks().put(name, kStretchesTrack);
                     study.tracks().clear(track);
                     for (const TimeRange& r : stretches)
                         study.tracks().addSpan(track, {{}, tag.asset, tag.id, r.from, r.to, facts});
                 });
    return track;
}

Status removeKept(Study& study, TrackId id) {
    for (const Track& track : study.tracks().all())
        if (track.id == id && isKept(track)) {
            study.change("remove " + track.name, "", {{"track", track.name}},
                         [&] { study.tracks().remove(id); });
            return Done{};
        }
    return Error{"this is not a track of kept spans"};
}

}  // namespace jacinth
