#include "work/mend/hide_spikes.h"

#include <fmt/format.h>

#include <algorithm>

namespace jacinth {
namespace {

constexpr std::int64_t kPieceSamples = 1'000'000;
constexpr std::int64_t kShared = 1'000;  // samples that a piece shares with the next: no spike is that wide

}  // namespace

Result<std::vector<Spike>> spikesOf(const Study& study, const Tag& tag, TimeRange range,
                                    const SpikeSearch& search, const Progress& progress) {
    if (tag.kind == TagKind::State)
        return Error{fmt::format("{} holds states; they have no spikes", tag.path())};
    const Duration spacing = std::max<Duration>(tag.spacing, kMillisecond);
    std::vector<Spike> out;
    for (Instant from = range.from; from < range.to; from += spacing * kPieceSamples) {
        if (progress.stopped(toNanoseconds(from - range.from) / toNanoseconds(range.length())))
            return Error::cancelled();
        const TimeRange piece{from, std::min(range.to, from + spacing * kPieceSamples)};
        const Series read = study.readForFigures(
            tag, {piece.from - spacing * kShared, piece.to + spacing * kShared}, Which::Mended);
        for (const Spike& spike : findSpikes(read, search))
            if (piece.contains(spike.peak)) out.push_back(spike);
    }
    return out;
}

Result<Fix> hidingFix(TagId tag, const std::vector<Spike>& spikes) {
    if (spikes.empty()) return Error{"no spikes were found to hide"};
    Fix out;
    out.tag = tag;
    HideFix hide;
    out.from = spikes.front().from;
    out.to = spikes.front().to;
    for (const Spike& s : spikes) {
        hide.parts.push_back({s.from, s.to});
        out.from = std::min(out.from, s.from);
        out.to = std::max(out.to, s.to);
    }
    out.body = std::move(hide);
    return out;
}

std::vector<Span> spansOver(const Study& study, const Tag& tag, const std::vector<TimeRange>& parts) {
    const Duration reach = std::max<Duration>(10 * tag.spacing, kMinute);
    std::vector<Span> out;
    for (const TimeRange& part : parts) {
        const Series near = study.read(tag, {part.to, part.to + reach}, Which::AsLogged);
        const auto next = std::upper_bound(near.times.begin(), near.times.end(), part.to);
        const Instant end = next == near.times.end() ? part.to + std::max(tag.spacing, kSecond) : *next;
        out.push_back({{}, tag.asset, tag.id, part.from, end, {}});
    }
    return out;
}

}  // namespace jacinth
