// levelJumps and changesAt of run_levels.h.
#include <algorithm>
#include <cmath>

#include "core/causes/part_pieces.h"
#include "core/stats/rank_tests.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kClearJump = 6, kLeastJump = 0.25;

double scatterBeside(const PartRuns& part, const std::vector<PartPiece>& pieces) {
    std::vector<double> left;
    for (const PartPiece& p : pieces)
        for (std::size_t i = p.runs.first; i < p.runs.last; ++i) {
            const double along = p.days > 0 ? (part.day[i] - part.day[p.runs.first]) / p.days : 0;
            left.push_back(std::abs(part.mean[i] - p.mean.start - along * p.mean.change));
        }
    return 1.4826 * median(std::move(left));
}

void addJumps(const RunLevels& levels, AssetId asset, std::size_t fromBin, std::size_t toBin,
              std::vector<LevelJump>& out) {
    const PartRuns part = partRuns(levels, asset, fromBin, toBin);
    if (part.runs.size() < 8) return;
    const std::vector<PartPiece> pieces = piecesOf(part, fromBin, toBin);
    const double scatter = scatterBeside(part, pieces);
    const auto count = [](const PartPiece& p) { return static_cast<double>(p.runs.last - p.runs.first); };
    for (std::size_t i = 1; i < pieces.size(); ++i) {
        const double size = pieces[i].mean.start - pieces[i - 1].mean.end();
        const double error = 2 * scatter * std::sqrt(1 / count(pieces[i - 1]) + 1 / count(pieces[i]));
        if (continuesAfterReset(pieces[i - 1].mean, pieces[i].mean)) continue;
        if (std::abs(size) < kLeastJump || !(std::abs(size) > kClearJump * error)) continue;
        const std::size_t first = pieces[i].runs.first;
        out.push_back({{part.runs[first - 1]->end, part.runs[first]->start},
                       size,
                       error > 0 ? std::abs(size) / error : 1e9});
    }
}

/// At the same place, or with one run between them.
bool isSame(const RunLevels& levels, AssetId asset, const LevelJump& a, const LevelJump& b) {
    const Instant from = std::min(a.between.to, b.between.to), to = std::max(a.between.to, b.between.to);
    std::ptrdiff_t runs = 0;
    for (const RunLevel& run : levels.runs) runs += run.asset == asset && run.start >= from && run.start < to;
    return runs <= 1;
}

}  // namespace

std::vector<LevelJump> levelJumps(const RunLevels& levels, AssetId asset) {
    std::vector<LevelJump> found, out;
    const std::size_t parts = std::min(kPartsOfRun, levels.bins.count);
    for (std::size_t p = 0; p < parts; ++p)
        addJumps(levels, asset, p * levels.bins.count / parts, (p + 1) * levels.bins.count / parts, found);
    std::sort(found.begin(), found.end(),
              [](const LevelJump& a, const LevelJump& b) { return a.significance > b.significance; });
    for (const LevelJump& jump : found)
        if (std::none_of(out.begin(), out.end(),
                         [&](const LevelJump& known) { return isSame(levels, asset, known, jump); }))
            out.push_back(jump);
    std::sort(out.begin(), out.end(),
              [](const LevelJump& a, const LevelJump& b) { return a.between.to < b.between.to; });
    return out;
}

bool changesAt(const RunLevels& levels, AssetId asset, Instant at) {
    constexpr std::ptrdiff_t kBeside = 12, kApart = 2, kFewest = 3;
    constexpr double kClearSplit = 0.001;
    const std::size_t parts = std::min(kPartsOfRun, levels.bins.count);
    for (std::size_t p = 0; p < parts; ++p) {
        const PartRuns part =
            partRuns(levels, asset, p * levels.bins.count / parts, (p + 1) * levels.bins.count / parts);
        const auto first = std::find_if(part.runs.begin(), part.runs.end(),
                                        [&](const RunLevel* run) { return run->start >= at; });
        const std::ptrdiff_t here = first - part.runs.begin();
        const std::ptrdiff_t from = std::max<std::ptrdiff_t>(0, here - kBeside),
                             to = std::min(std::ssize(part.mean), here + kBeside);
        double least = kClearSplit;
        std::ptrdiff_t best = -1;
        for (std::ptrdiff_t split = from + kFewest; split + kFewest <= to; ++split) {
            const double* mean = part.mean.data();
            const double probability =
                rankSumProbability({mean + from, mean + split}, {mean + split, mean + to});
            if (probability < least) least = probability, best = split;
        }
        if (best >= 0 && std::abs(best - here) <= kApart) return true;
    }
    return false;
}

}  // namespace jacinth
