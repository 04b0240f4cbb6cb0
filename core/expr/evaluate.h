// Evaluates a checked expression over one asset's record, or over one span.
#pragma once

#include <variant>

#include "core/expr/check.h"
#include "core/expr/signal.h"

namespace jacinth {

/// Gives an expression its tags. Series must reach back by the expression's lookBack before the range asked
/// for.
class Inputs {
  public:
    virtual ~Inputs() = default;
    virtual Result<Signal> role(const std::string& name) = 0;
    virtual Result<Signal> path(const std::string& name) = 0;
};

using Value = std::variant<Signal, Condition>;

/// The value over `range`. Conditions hold until range.to at most. Tags that appear twice are read once.
Result<Value> evaluate(const Expression& expression, Inputs& inputs, TimeRange range);

/// A span fact, a figure over the span, or a condition on them. Durations are in seconds.
using SpanValue = std::variant<double, Truth, std::string>;

/// The value about one span: names are its facts (and `duration`); aggregates without `over` are over the
/// span. Series must cover the span.
Result<SpanValue> evaluateAbout(const Span& span, const Expression& expression, Inputs& inputs);

}  // namespace jacinth
