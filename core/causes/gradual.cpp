// gradualChange of run_levels.h.
#include <algorithm>
#include <cmath>

#include "core/causes/part_pieces.h"
#include "core/stats/rank_tests.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kProbability = 0.01;  // for all parts together

/// Where a part is as it should be: at the start or at the end of a piece.
struct Reference {
    std::size_t piece = 0;
    bool atEnd = false;
};

/// The end nearest to the golden centre. Pieces that go the same way, with a jump back between them, return
/// to the same level each time: they share the nearest of all their ends. After any other jump the level from
/// which a piece starts is what the jump made it: the piece counts from there.
std::vector<Reference> referencesOf(const std::vector<PartPiece>& pieces) {
    std::vector<Reference> out;
    for (std::size_t first = 0; first < pieces.size();) {
        std::size_t last = first + 1;
        while (last < pieces.size() && continuesAfterReset(pieces[last - 1].mean, pieces[last].mean)) ++last;
        Reference best{first, false};
        const auto levelOf = [&](Reference r) {
            return std::abs(r.atEnd ? pieces[r.piece].mean.end() : pieces[r.piece].mean.start);
        };
        if (first == 0 || last - first > 1)
            for (std::size_t i = first; i < last; ++i)
                for (const bool atEnd : {false, true})
                    if (levelOf({i, atEnd}) < levelOf(best)) best = {i, atEnd};
        for (; first < last; ++first) out.push_back(best);
    }
    return out;
}

/// How far the runs of a piece are from the reference, as two effects over the bins of the part: where the
/// piece starts, and what it changes by.
void addEffects(const RunLevels& levels, const PartRuns& part, const PartPiece& piece,
                const PartPiece& reference, bool atEnd, std::size_t fromBin, GradualChange& out) {
    const StraightPiece p = piece.runs;
    CauseEffect start, growth;
    start.range = {p.first == 0 ? Instant::min() : part.runs[p.first]->start,
                   p.last == part.runs.size() ? Instant::max() : part.runs[p.last]->start};
    start.shape = {levels.bins, std::vector<double>(levels.bins.count, 0.0)};
    growth = start;
    growth.weights = {{part.runs[p.first]->start, 0}, {part.runs[p.last - 1]->start, 1}};
    for (std::size_t i = 0; i < piece.bins.size(); ++i) {
        const PieceLine& from = reference.bins[i];
        start.shape.values[fromBin + i] = piece.bins[i].start - (atEnd ? from.end() : from.start);
        growth.shape.values[fromBin + i] = piece.bins[i].change;
    }
    out.pieces.push_back(std::move(start));
    out.pieces.push_back(std::move(growth));
}

void addPart(const RunLevels& levels, AssetId asset, std::size_t fromBin, std::size_t toBin,
             GradualChange& out) {
    const PartRuns part = partRuns(levels, asset, fromBin, toBin);
    if (part.runs.size() < 8) return;
    const std::vector<PartPiece> pieces = piecesOf(part, fromBin, toBin);
    std::vector<std::vector<double>> stretches;
    for (const PartPiece& p : pieces)
        stretches.emplace_back(part.mean.begin() + static_cast<std::ptrdiff_t>(p.runs.first),
                               part.mean.begin() + static_cast<std::ptrdiff_t>(p.runs.last));
    const double probability = rankTrendOf(stretches).probability() * static_cast<double>(kPartsOfRun);
    if (probability >= kProbability) return;
    out.probability = std::min(out.probability, probability);
    const std::vector<Reference> references = referencesOf(pieces);
    for (std::size_t i = 0; i < pieces.size(); ++i) {
        const double perDay = pieces[i].mean.change / pieces[i].days;
        if (std::abs(perDay) > std::abs(out.perDay)) out.perDay = perDay;
        addEffects(levels, part, pieces[i], pieces[references[i].piece], references[i].atEnd, fromBin, out);
    }
}

}  // namespace

std::optional<GradualChange> gradualChange(const RunLevels& levels, AssetId asset) {
    GradualChange out;
    const std::size_t parts = std::min(kPartsOfRun, levels.bins.count);
    for (std::size_t p = 0; p < parts; ++p)
        addPart(levels, asset, p * levels.bins.count / parts, (p + 1) * levels.bins.count / parts, out);
    return out.pieces.empty() ? std::nullopt : std::optional(std::move(out));
}

}  // namespace jacinth
