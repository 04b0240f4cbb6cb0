// The walk over a checked tree that makes signals and conditions. Internal to core/expr.
#pragma once

#include <memory>
#include <unordered_map>

#include "core/base/progress.h"
#include "core/expr/evaluate.h"
#include "core/expr/functions.h"
#include "core/expr/kept_numbers.h"
#include "core/expr/window.h"

namespace jacinth {

/// Thrown and caught inside core/expr only: a walk over a tree reads better without a check a line.
struct EvaluateError {
    Error error;
};

template <typename T>
T orThrow(Result<T> result) {
    if (!result) throw EvaluateError{result.error()};
    return std::move(*result);
}

/// Of Add, Subtract, Multiply, Divide, Power.
double applyTwo(NodeKind kind, double a, double b);

class Evaluator {
  public:
    /// `lookBack` is the expression's.
    Evaluator(Inputs& inputs, TimeRange range, Duration lookBack, Progress progress = {});
    /// Finds there what was worked out before, and leaves what is new.
    void keepIn(KeptNumbers& kept) { kept_ = &kept; }
    /// Says which parts of the tree appear more than once. Call before evaluating it.
    void prepare(const Node& root);

    Signal wholeNumber(const Node& n);  ///< of numbers and durations
    Condition condition(const Node& n);
    Signal state(const Node& n);
    /// A window function without a window of its own, over all of the range.
    double aggregate(const Node& n);
    TimeRange range() const { return range_; }

  private:
    friend const std::vector<FunctionInfo>& functions();  // whose rows name functions of ours

    Signal number(const Node& n);
    Signal makeNumber(const Node& n);
    Condition makeCondition(const Node& n);
    Signal call(const Node& n);
    Condition conditionCall(const Node& n);
    Condition isState(const Node& n);
    Condition missing(const Node& n);
    Signal filled(const Signal& x, const Signal& otherwise) const;
    Condition rising(const Node& n);
    Condition falling(const Node& n);
    Signal elapsed(const Node& n);
    Signal smoothed(const Node& n);
    Signal faded(const Node& n);
    Condition inside(const Node& n);
    Condition above(const Node& n);
    Condition below(const Node& n);
    Condition outside(const Node& n);
    Signal lowLimit(const Node& n);
    Signal highLimit(const Node& n);
    Signal trust(const Node& n);
    LimitLines limitsOf(const Node& n);
    Condition beyond(const Node& n, const Signal& limit, Comparison side);
    Signal windowed(const Node& n, WindowFigure figure);
    Signal windowedByTrack(WindowFigure figure, const Node& n, const Signal& x, double q);
    Signal overSamples(const Node& n, WindowFigure figure, double q);
    Condition stuck(const Node& n);
    Signal ofCondition(const Node& n, WindowFigure figure);
    Signal countOfTrack(const Node& n);
    Condition compare(const Node& a, const Node& b, NodeKind kind);
    Condition compareWithLevel(const Node& n, const Signal& x, double level, Comparison comparison);
    Signal tag(const Node& n);     ///< with knots where the other tags of the number have samples
    Signal logged(const Node& n);  ///< as it was read
    bool knotsAreSamples(const Node& n) const;
    /// Where the tags of this part have samples, later by what `delay` says.
    std::vector<Instant> inputTimes(const Node& n);
    /// The samples of a part that figures are over: its knots, or what it reads at inputTimes.
    Samples samplesFor(const Node& n, const Signal& x);
    /// Knots of a window figure besides those where its input changes.
    std::vector<Instant> knotsFor(const Node& n, bool held);
    Instant neededFrom(const Node& n) const;
    Instant beginsOf(const Node& n);  ///< where the record of its tags begins
    bool hasHeld(const Node& n);      ///< is any tag of it stepped?
    /// Works out a number as a whole: everything in it is taken at the union of its tags' sample times, and
    /// is linear (or held) between these.
    template <typename Work>
    auto asWhole(const std::vector<const Node*>& parts, Work work);
    std::vector<TimeRange> track(const std::string& name);
    bool comesAgain(const Node& n) const;  ///< is it worth keeping?
    void report();  ///< that another part is about to be evaluated; throws where to stop

    Inputs& inputs_;
    TimeRange range_;
    TimeRange reach_;  ///< the range and the look-back before it
    Progress progress_;
    KeptNumbers* kept_ = nullptr;
    std::vector<Instant> grid_;  ///< samples of all tags of the number being evaluated, where it has several
    std::string gridKey_;
    std::size_t done_ = 0;                        ///< parts that were begun
    std::unordered_map<std::string, int> times_;  ///< how often each part of the tree appears, by its key
    std::unordered_map<std::string, Signal> numbers_;
    std::unordered_map<std::string, Condition> conditions_;
    std::unordered_map<std::string, std::unique_ptr<BlockExtremes>> extremes_;
};

}  // namespace jacinth
