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

}  // namespace

Result<ValueOverTime> ExpressionOverTime::evaluate(AssetId asset, const Expression& expression,
                                                   TimeRange range, const Progress& progress) {
    auto each = evaluateEach(asset, {&expression, 1}, range, progress);
    if (!each) return each.error();
    return ValueOverTime{std::move(each->values.front()), std::move(each->covered)};
}

Result<ValuesOverTime> ExpressionOverTime::evaluateEach(AssetId asset,
                                                        std::span<const Expression> expressions,
                                                        TimeRange range, const Progress& progress) {
    Coverage coverage;
    ValuesOverTime out;
    out.values.resize(expressions.size());
    bool begun = false;
    const auto inputsOver = [&](TimeRange wanted) {
        return pool_.inputs(asset, wanted, which_,
                            [&](const StudyInputs& inputs) { coverage.add(inputs.covered()); });
    };
    const auto take = [&](TimeRange part, std::vector<Value> pieces) {
        for (std::size_t i = 0; i < pieces.size(); ++i)
            if (begun)
                appendPiece(out.values[i], part, pieces[i]);
            else
                out.values[i] = std::move(pieces[i]);
        begun = true;
    };
    const int ahead = tbb::this_task_arena::max_concurrency();
    const Status done = evaluateEachInPieces(expressions, range, piecesOf(study_, asset, expressions, range),
                                             inputsOver, take, ahead, progress);
    if (!done) return done.error();
    out.covered = coverage.within(range);
    return out;
}

}  // namespace jacinth
