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

PieceSpec piecesOf(Study& study, AssetId asset, const Expression& expression, TimeRange range) {
    const ExpressionReach reach = reachOf(study, expression, asset);
    if (reach.margin > kLongestMargin) return {};
    PieceSpec out = piecesFor(expression, reach.spacing, reach.margin);
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
    Coverage coverage;
    ValueOverTime out;
    bool begun = false;
    const auto inputsOver = [&](TimeRange wanted) {
        return pool_.inputs(asset, wanted, which_,
                            [&](const StudyInputs& inputs) { coverage.add(inputs.covered()); });
    };
    const auto take = [&](TimeRange part, const Value& piece) {
        if (begun)
            appendPiece(out.value, part, piece);
        else
            out.value = piece;
        begun = true;
    };
    const int ahead = tbb::this_task_arena::max_concurrency();
    const Status done = evaluateInPieces(expression, range, piecesOf(study_, asset, expression, range),
                                         inputsOver, take, ahead, progress);
    if (!done) return done.error();
    out.covered = coverage.within(range);
    return out;
}

}  // namespace jacinth
