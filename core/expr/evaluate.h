// Evaluates a checked expression over one asset's record, or over one span.
#pragma once

#include <functional>
#include <span>
#include <variant>

#include "core/base/progress.h"
#include "core/expr/check.h"
#include "core/expr/signal.h"

namespace jacinth {

/// Golden limits of a tag over time: a value inside the runs they apply to, missing elsewhere.
struct LimitLines {
    Signal low, high;
};

/// Gives an expression its tags, and what else it may name. Series must reach back by the expression's
/// lookBack before the range asked for; tracks and limits too.
class Inputs {
  public:
    virtual ~Inputs() = default;
    virtual Result<Signal> role(const std::string& name) = 0;
    virtual Result<Signal> path(const std::string& name) = 0;
    /// Spans of a track that belong to the asset in question or to none, by start.
    virtual Result<std::vector<TimeRange>> track(const std::string& name);
    virtual Result<LimitLines> limits(const std::string& set, const std::string& tag, bool isPath);
    /// A state signal of Names::trust. Nobody judged anything unless overridden.
    virtual Result<Signal> trust(const std::string& tag, bool isPath);
};

using Value = std::variant<Signal, Condition>;

/// The value over `range`. Conditions hold until range.to at most; durations are in seconds. Whatever appears
/// twice is read and computed once. Stops between its parts.
Result<Value> evaluate(const Expression& expression, Inputs& inputs, TimeRange range,
                       const Progress& progress = {});

class KeptNumbers;
/// How far before the range everything is read that is kept; for expressions that look back no farther.
inline constexpr Duration kKeptLookBack = 30 * kDay;
/// The same, with what earlier evaluations about this asset over this range left, and leaving what is new:
/// figures over windows that are made of tags alone. Inputs must reach back by kKeptLookBack.
Result<Value> evaluateKeeping(const Expression& expression, Inputs& inputs, TimeRange range,
                              KeptNumbers& kept, const Progress& progress = {});

/// The same for several expressions about one asset, one after the other, each handed over as it is there.
/// What appears in several of them is read and computed once, and kept until the end.
Status evaluateEach(std::span<const Expression> expressions, Inputs& inputs, TimeRange range,
                    const std::function<void(std::size_t, Value)>& take, const Progress& progress = {});

/// A span fact, a figure over the span, or a condition on them. Durations are in seconds.
using SpanValue = std::variant<double, Truth, std::string>;

/// The value about one span: names are its facts (and `duration`); aggregates without `over` are over the
/// span; what has its own window is taken at the span's end. Series must cover the span.
Result<SpanValue> evaluateAbout(const Span& span, const Expression& expression, Inputs& inputs);

}  // namespace jacinth
