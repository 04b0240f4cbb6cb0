#include "work/causes/recorded_events.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "store/tracks.h"

namespace jacinth {
namespace {

constexpr Duration kApart = 30 * kMinute, kBefore = 30 * kMinute, kAfter = 2 * kHour,
                   kDisturbing = 10 * kMinute;

struct Recorded {
    AssetId asset;
    TimeRange range;
    std::size_t rank = 0;  ///< by kind of track: what says most comes first
    std::string words;
};

/// Kinds of tracks that say what happened to an asset, the one that says most first.
constexpr std::array<const char*, 5> kKinds{track_kind::kFailures, track_kind::kStops, track_kind::kLabels,
                                            track_kind::kWorkOrders, track_kind::kAlarms};

std::string wordsFor(const Track& track, const Span& span) {
    for (const char* fact : {"kind", "reason", "text", "note"})
        if (const std::string said = factText(span.facts, fact); !said.empty())
            return fmt::format("{}: {}", track.name, said);
    return track.name;
}

std::vector<Recorded> recorded(const Study& study) {
    std::vector<Recorded> out;
    for (const Track& track : study.tracks().all()) {
        const auto kind = std::find(kKinds.begin(), kKinds.end(), track.kind);
        if (kind == kKinds.end()) continue;
        for (const Span& span : study.tracks().spans(track.id))
            if (span.asset)
                out.push_back({span.asset, span.range(), static_cast<std::size_t>(kind - kKinds.begin()),
                               wordsFor(track, span)});
    }
    std::stable_sort(out.begin(), out.end(), [](const Recorded& x, const Recorded& y) {
        return std::pair(x.asset, x.range.from) < std::pair(y.asset, y.range.from);
    });
    return out;
}

Cause causeOf(std::vector<Recorded> together) {
    Cause cause;
    cause.kind = CauseKind::Event;
    cause.asset = together.front().asset;
    cause.range = together.front().range;
    for (const Recorded& r : together) {
        cause.range.to = std::max(cause.range.to, r.range.to);
        const Duration before = r.rank == 0 ? kDay : kBefore;
        cause.windows.push_back({r.range.from - before, r.range.to + kAfter});
    }
    cause.windows = joined(std::move(cause.windows));
    std::stable_sort(together.begin(), together.end(),
                     [](const Recorded& x, const Recorded& y) { return x.rank < y.rank; });
    for (const Recorded& r : together)
        if (cause.why.find(r.words) == std::string::npos)
            cause.why += (cause.why.empty() ? "" : "; ") + r.words;
    return cause;
}

}  // namespace

std::vector<Cause> eventCauses(const Study& study) {
    std::vector<Cause> out;
    std::vector<Recorded> together;
    Instant until = Instant::min();
    for (const Recorded& r : recorded(study)) {
        if (!together.empty() && (together.front().asset != r.asset || r.range.from > until + kApart)) {
            out.push_back(causeOf(std::move(together)));
            together.clear();
        }
        until = together.empty() ? r.range.to : std::max(until, r.range.to);
        together.push_back(r);
    }
    if (!together.empty()) out.push_back(causeOf(std::move(together)));
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
