#include "work/base/expression_over_time.h"

#include <tbb/task_arena.h>

#include <algorithm>
#include <mutex>

#include "core/expr/pieces.h"
#include "work/base/expression_reach.h"

namespace jacinth {
namespace {

constexpr Duration kLongestMargin = 30 * kDay;  // pieces do not see lines that reach farther

/// A spacing that is damaged on file may be next to nothing: there are never more pieces than this.
constexpr int kMostPieces = 100'000;

PieceSpec piecesOf(Study& study, AssetId asset, std::span<const Expression> expressions, TimeRange range) {
    ExpressionReach reach;
    for (std::size_t i = 0; i < expressions.size(); ++i) {
        const Expression& e = expressions[i];
        if (i > 0 && e.roles == expressions[i - 1].roles && e.paths == expressions[i - 1].paths) continue;
        const ExpressionReach one = reachOf(study, e, asset);
        reach.spacing = i == 0 ? one.spacing : std::min(reach.spacing, one.spacing);
        reach.margin = std::max(reach.margin, one.margin);
    }
    if (reach.margin > kLongestMargin) return {};
    PieceSpec out = piecesFor(expressions, reach.spacing, reach.margin);
    if (out.length > Duration::zero()) out.length = std::max(out.length, range.length() / kMostPieces);
    return out;
}

/// Where pieces found data; pieces overlap.
class Coverage {
  public:
    void add(std::vector<TimeRange> found) {
        const std::lock_guard lock(mutex_);
        all_.insert(all_.end(), found.begin(), found.end());
    }
    std::vector<TimeRange> within(TimeRange range) { return intersect(joined(std::move(all_)), {range}); }

  private:
    std::mutex mutex_;
    std::vector<TimeRange> all_;
};

/// What the pieces of an asset gave so far.
struct Gathered {
    std::vector<Value> values;
    Coverage coverage;
    bool begun = false;

    void add(TimeRange part, std::vector<Value> pieces) {
        for (std::size_t i = 0; i < pieces.size(); ++i)
            if (begun)
                appendPiece(values[i], part, pieces[i]);
            else
                values[i] = std::move(pieces[i]);
        begun = true;
    }
    ValuesOverTime within(TimeRange range) { return {std::move(values), coverage.within(range)}; }
};

}  // namespace

Result<ValueOverTime> ExpressionOverTime::evaluate(AssetId asset, const Expression& expression,
                                                   TimeRange range, const Progress& progress) {
    ValueOverTime out;
    const OnAsset on{asset, {&expression, 1}};
    const auto take = [&](std::size_t, ValuesOverTime values) {
        out = {std::move(values.values.front()), std::move(values.covered)};
    };
    if (const Status done = evaluateEach({&on, 1}, range, take, progress); !done) return done.error();
    return out;
}

Status ExpressionOverTime::evaluateEach(std::span<const OnAsset> assets, TimeRange range,
                                        const std::function<void(std::size_t, ValuesOverTime)>& take,
                                        const Progress& progress) {
    std::vector<Gathered> gathered(assets.size());
    std::vector<InPieces> works;
    for (std::size_t a = 0; a < assets.size(); ++a) {
        const OnAsset& on = assets[a];
        Gathered& of = gathered[a];
        of.values.resize(on.expressions.size());
        const auto addCovered = [&of](const StudyInputs& inputs) { of.coverage.add(inputs.covered()); };
        works.push_back({on.expressions, piecesOf(study_, on.asset, on.expressions, range),
                         [this, &on, addCovered](TimeRange wanted) {
                             return pool_.inputs(on.asset, wanted, which_, addCovered);
                         },
                         [&, a](TimeRange part, std::vector<Value> pieces) {
                             of.add(part, std::move(pieces));
                             if (part.to == range.to) take(a, of.within(range));
                         }});
    }
    // Pieces take unequally long: with some more begun nobody waits for the slowest.
    const int ahead = 2 * tbb::this_task_arena::max_concurrency();
    return evaluateEachInPieces(works, range, ahead, progress);
}

}  // namespace jacinth
