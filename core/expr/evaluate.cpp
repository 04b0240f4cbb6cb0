#include "core/expr/evaluate.h"

#include "core/expr/evaluator.h"

namespace jacinth {

namespace {

/// By the walk that is prepared for it.
Result<Value> valueOf(Evaluator& evaluator, const Expression& expression) {
    if (expression.type == ValueType::Condition) return Value(evaluator.condition(*expression.root));
    if (expression.type == ValueType::State) return Value(evaluator.state(*expression.root));
    if (expression.type == ValueType::Text) return Error{"a text alone has no value over time", 1};
    return Value(evaluator.wholeNumber(*expression.root));
}

}  // namespace

Result<Value> evaluate(const Expression& expression, Inputs& inputs, TimeRange range,
                       const Progress& progress) {
    try {
        Evaluator evaluator(inputs, range, expression.lookBack, progress);
        evaluator.prepare(*expression.root);
        return valueOf(evaluator, expression);
    } catch (const EvaluateError& e) {
        return e.error;
    }
}

Result<Value> evaluateKeeping(const Expression& expression, Inputs& inputs, TimeRange range,
                              KeptNumbers& kept, const Progress& progress) {
    // With the same look-back for all, what one leaves is what another would make.
    if (expression.lookBack > kKeptLookBack) return evaluate(expression, inputs, range, progress);
    try {
        Evaluator evaluator(inputs, range, kKeptLookBack, progress);
        evaluator.keepIn(kept);
        evaluator.prepare(*expression.root);
        return valueOf(evaluator, expression);
    } catch (const EvaluateError& e) {
        return e.error;
    }
}

Status evaluateEach(std::span<const Expression> expressions, Inputs& inputs, TimeRange range,
                    const std::function<void(std::size_t, Value)>& take, const Progress& progress) {
    try {
        Evaluator evaluator(inputs, range, longestLookBack(expressions), progress);
        for (const Expression& e : expressions) evaluator.prepare(*e.root);
        for (std::size_t i = 0; i < expressions.size(); ++i) {
            auto value = valueOf(evaluator, expressions[i]);
            if (!value) return value.error();
            take(i, std::move(*value));
        }
    } catch (const EvaluateError& e) {
        return e.error;
    }
    return Done{};
}

}  // namespace jacinth
