#include "core/expr/evaluate.h"

#include "core/expr/evaluator.h"

namespace jacinth {

Result<Value> evaluate(const Expression& expression, Inputs& inputs, TimeRange range,
                       const Progress& progress) {
    try {
        Evaluator evaluator(inputs, range, expression.lookBack, progress);
        evaluator.prepare(*expression.root);
        if (expression.type == ValueType::Condition) return Value(evaluator.condition(*expression.root));
        if (expression.type == ValueType::State) return Value(evaluator.state(*expression.root));
        if (expression.type == ValueType::Text) return Error{"a text alone has no value over time", 1};
        return Value(evaluator.wholeNumber(*expression.root));
    } catch (const EvaluateError& e) {
        return e.error;
    }
}

}  // namespace jacinth
