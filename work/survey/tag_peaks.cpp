#include "work/survey/tag_peaks.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "store/tracks.h"

namespace jacinth {
namespace {

Span spanOf(const Tag& tag, const Peak& p, Duration narrow) {
    Span span;
    span.asset = tag.asset;
    span.tag = tag.id;
    span.start = p.left;
    span.end = p.right;
    span.facts["height"] = p.height;
    span.facts["prominence"] = p.prominence;
    span.facts["shape"] = std::string(p.width() < narrow ? "narrow" : "broad");
    return span;
}

}  // namespace

TrackId keepPeaks(Study& study, const std::string& name, const Tag& tag, const std::vector<Peak>& peaks,
                  Duration narrow) {
    TrackId track;
    study.change(fmt::format("keep {} peaks of {}", peaks.size(), tag.path()), "",
                 {{"track", name}, {"tag", tag.path()}}, [&] {
                     track = study.tracks().put(name, kPeaksTrack);
                     study.tracks().clear(track);
                     for (const Peak& p : peaks) study.tracks().addSpan(track, spanOf(tag, p, narrow));
                 });
    return track;
}

std::size_t proposeHiding(Study& study, const Tag& tag, const std::vector<Peak>& peaks, Duration narrow) {
    std::size_t count = 0;
    study.change(fmt::format("propose spikes of {} for mending", tag.path()), "", {{"tag", tag.path()}}, [&] {
        const TrackId track = study.tracks().put(kSpikesToMend, kPeaksTrack);
        for (const Span& s : study.tracks().spans(track))
            if (s.tag == tag.id) study.tracks().removeSpan(s.id);
        for (const Peak& p : peaks) {
            if (p.width() >= narrow) continue;
            Span span = spanOf(tag, p, narrow);
            span.facts["proposal"] = std::string("hide");
            study.tracks().addSpan(track, span);
            ++count;
        }
    });
    return count;
}

}  // namespace jacinth
