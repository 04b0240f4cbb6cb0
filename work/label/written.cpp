#include "work/label/written.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/parse_json.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

using nlohmann::json;

json factsOn(const Span& span) {
    return parseJson(factsToJson(span.facts));
}

/// The span stays the same one as long as it stays on a track of its kind.
void place(Study& study, const Span& span, const WrittenOn& on) {
    Tracks& tracks = study.tracks();
    const std::vector<Span> ofKind = tracks.spansOf(on.trackKind);
    const bool stays =
        std::any_of(ofKind.begin(), ofKind.end(), [&](const Span& s) { return s.id == span.id; });
    if (span.id && stays) return tracks.updateSpan(span);
    if (span.id) tracks.removeSpan(span.id);
    const auto track = tracks.firstOf(on.trackKind);
    tracks.addSpan(track ? track->id : tracks.put(on.trackName, on.trackKind), span);
}

Error isGone() {
    return Error{"this entry is not there any more"};
}

}  // namespace

Status keepWritten(Study& study, const Span& span, const WrittenOn& on) {
    if (span.end < span.start) return Error{"the end is before the beginning"};
    const auto before = span.id ? study.tracks().span(span.id) : std::nullopt;
    if (span.id && !before) return isGone();
    json detail{{"after", factsOn(span)}, {"start", toIso(span.start)}, {"end", toIso(span.end)}};
    if (const Asset* a = study.catalog().asset(span.asset)) detail["asset"] = a->name;
    if (before) {
        detail["before"] = factsOn(*before);
        if (const Asset* a = study.catalog().asset(before->asset)) detail["asset before"] = a->name;
    }
    study.change(
        fmt::format("{} {} of {}", before ? "change" : "write down", on.words, study.zone().text(span.start)),
        "", detail, [&] { place(study, span, on); });
    return Done{};
}

Status removeWritten(Study& study, SpanId id) {
    const auto span = study.tracks().span(id);
    if (!span) return isGone();
    study.change("remove what was written at " + study.zone().text(span->start), "",
                 {{"facts", factsOn(*span)}}, [&] { study.tracks().removeSpan(id); });
    return Done{};
}

}  // namespace jacinth
