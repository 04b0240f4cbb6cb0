#include "core/causes/part_pieces.h"

#include <cmath>

#include "core/stats/rank_tests.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

PieceLine lineThrough(std::span<const double> days, std::span<const double> y) {
    const double slope = medianSlope(days, y);
    if (std::isnan(slope)) return {};
    std::vector<double> at;
    for (std::size_t i = 0; i < y.size(); ++i)
        if (!std::isnan(y[i])) at.push_back(y[i] - slope * (days[i] - days.front()));
    return {median(std::move(at)), slope * (days.back() - days.front())};
}

PartPiece pieceOf(const PartRuns& part, StraightPiece piece, std::size_t fromBin, std::size_t toBin) {
    const std::size_t n = piece.last - piece.first;
    const std::span<const double> days(part.day.data() + piece.first, n);
    PartPiece out{
        piece, lineThrough(days, {part.mean.data() + piece.first, n}), {}, days.back() - days.front()};
    for (std::size_t b = fromBin; b < toBin; ++b) {
        std::vector<double> y;
        for (std::size_t i = piece.first; i < piece.last; ++i) y.push_back(part.runs[i]->off[b]);
        out.bins.push_back(lineThrough(days, y));
    }
    return out;
}

}  // namespace

PartRuns partRuns(const RunLevels& levels, AssetId asset, std::size_t from, std::size_t to) {
    PartRuns out;
    for (const RunLevel& run : levels.runs) {
        if (run.asset != asset) continue;
        const double m = meanLevel(levels, run, from, to);
        if (std::isnan(m)) continue;
        out.runs.push_back(&run);
        out.day.push_back(toHours(run.start.time_since_epoch()) / 24);
        out.mean.push_back(m);
    }
    return out;
}

std::vector<PartPiece> piecesOf(const PartRuns& part, std::size_t fromBin, std::size_t toBin) {
    std::vector<PartPiece> out;
    for (const StraightPiece& p : straightPieces(part.day, part.mean))
        out.push_back(pieceOf(part, p, fromBin, toBin));
    return out;
}

bool continuesAfterReset(const PieceLine& a, const PieceLine& b) {
    const double jump = b.start - a.end();
    return a.change * b.change > 0 && jump * a.change < 0 &&
           std::abs(jump) <= 2 * std::max(std::abs(a.change), std::abs(b.change));
}

}  // namespace jacinth
