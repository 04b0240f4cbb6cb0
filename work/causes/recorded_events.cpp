#include "work/causes/recorded_events.h"

#include <fmt/format.h>

#include <algorithm>

#include "store/tracks.h"

namespace jacinth {
namespace {

constexpr Duration kApart = 30 * kMinute, kBefore = 30 * kMinute, kAfter = 2 * kHour,
                   kDisturbing = 10 * kMinute;

struct Recorded {
    AssetId asset;
    TimeRange range;
    Duration before{};
    std::string words;
};

std::string wordsFor(const Track& track, const Span& span) {
    for (const char* fact : {"kind", "reason", "text", "note"})
        if (const std::string said = factText(span.facts, fact); !said.empty())
            return fmt::format("{}: {}", track.name, said);
    return track.name;
}

std::vector<Recorded> recorded(const Study& study) {
    std::vector<Recorded> out;
    for (const Track& track : study.tracks().all()) {
        const bool failure = track.kind == track_kind::kFailures;
        if (!failure && track.kind != track_kind::kStops && track.kind != track_kind::kAlarms &&
            track.kind != track_kind::kWorkOrders && track.kind != track_kind::kLabels)
            continue;
        for (const Span& span : study.tracks().spans(track.id))
            if (span.asset)
                out.push_back({span.asset, span.range(), failure ? kDay : kBefore, wordsFor(track, span)});
    }
    std::stable_sort(out.begin(), out.end(), [](const Recorded& a, const Recorded& b) {
        return std::pair(a.asset, a.range.from) < std::pair(b.asset, b.range.from);
    });
    return out;
}

}  // namespace

std::vector<Cause> eventCauses(const Study& study) {
    std::vector<Cause> out;
    for (const Recorded& r : recorded(study)) {
        const TimeRange window{r.range.from - r.before, r.range.to + kAfter};
        Cause* last = out.empty() || out.back().asset != r.asset ? nullptr : &out.back();
        if (last && r.range.from <= last->range.to + kApart) {
            last->range.to = std::max(last->range.to, r.range.to);
            if (last->why.find(r.words) == std::string::npos) last->why += "; " + r.words;
            last->windows.push_back(window);
            continue;
        }
        Cause cause;
        cause.kind = CauseKind::Event;
        cause.asset = r.asset;
        cause.range = r.range;
        cause.windows = {window};
        cause.why = r.words;
        out.push_back(std::move(cause));
    }
    for (Cause& cause : out) cause.windows = joined(std::move(cause.windows));
    return out;
}

std::vector<TimeRange> windowsIn(const Cause& event, const RunScale& scale) {
    std::vector<TimeRange> out = event.windows;
    if (event.range.length() >= kDisturbing && scale.pieces().size() > 1)
        for (const RunScale::Piece& piece : scale.pieces())
            if (piece.time.from < event.range.to && piece.time.to > event.range.from)
                out.push_back(piece.time);
    return joined(std::move(out));
}

}  // namespace jacinth
