// An expression about a span: plain values, with the evaluator for what lies inside aggregates.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/base/overloaded.h"
#include "core/expr/evaluator.h"

namespace jacinth {
namespace {

class SpanEvaluator {
  public:
    SpanEvaluator(const Span& span, const Expression& expression, Inputs& inputs)
        : span_(span), evaluator_(inputs, span.range(), expression.lookBack) {
        evaluator_.prepare(*expression.root);
    }

    SpanValue value(const Node& n) {
        switch (n.kind) {
            case NodeKind::Number:
                return n.number;
            case NodeKind::DurationLiteral:
                return toSeconds(n.duration);
            case NodeKind::Text:
                return n.text;
            case NodeKind::Name:
                return fact(n.text);
            case NodeKind::Negate:
                return -number(*n.children[0]);
            case NodeKind::Call:
                return call(n);
            case NodeKind::Role:
            case NodeKind::Path:
                throw EvaluateError{
                    {fmt::format("column {}: a tag has many values over a run; take one, like `mean(…)`",
                                 n.column),
                     n.column}};
            case NodeKind::Add:
            case NodeKind::Subtract:
            case NodeKind::Multiply:
            case NodeKind::Divide:
            case NodeKind::Power:
                return finite(applyTwo(n.kind, number(*n.children[0]), number(*n.children[1])));
            default:
                return truth(n);
        }
    }

  private:
    static double finite(double v) { return std::isfinite(v) ? v : kMissing; }

    SpanValue fact(const std::string& name) {
        if (name == "duration") return toSeconds(span_.range().length());
        const auto found = span_.facts.find(name);
        if (found == span_.facts.end()) return kMissing;
        if (const double* v = std::get_if<double>(&found->second)) return *v;
        return std::get<std::string>(found->second);
    }

    double number(const Node& n) {
        const SpanValue v = value(n);
        const double* d = std::get_if<double>(&v);
        return d ? *d : kMissing;
    }

    SpanValue call(const Node& n) {
        using namespace implementation;
        const auto arg = [&](std::size_t i) { return number(*n.children[i]); };
        const auto overTime = [&] { return SpanValue(signalAt(evaluator_.wholeNumber(n), span_.end)); };
        if (n.function->looks == Looks::Back && !n.window.given()) return evaluator_.aggregate(n);
        return std::visit(Overloaded{
                              [&](OfOne f) -> SpanValue { return finite(f.of(arg(0))); },
                              [&](OfTwo f) -> SpanValue { return f.of(arg(0), arg(1)); },
                              [&](Clip) -> SpanValue { return leastOf(mostOf(arg(0), arg(1)), arg(2)); },
                              [&](If) -> SpanValue {
                                  const Truth c = asTruth(*n.children[0]);
                                  return c == Truth::Unknown ? kMissing : arg(c == Truth::True ? 1 : 2);
                              },
                              [&](Fill) -> SpanValue { return std::isnan(arg(0)) ? arg(1) : arg(0); },
                              [&](Delay) { return delayed(n); },
                              [&](IsMissing) -> SpanValue { return isMissing(value(*n.children[0])); },
                              [&](OverWindow) { return overTime(); },
                              [&](OfCondition) { return overTime(); },
                              [&](ByNumber) { return overTime(); },
                              [&](ByState) -> SpanValue { manyStates(n); },
                              [&](ByCondition) -> SpanValue { return atEnd(evaluator_.condition(n)); },
                          },
                          n.function->by);
    }

    /// At the span's end, as everything that is about time.
    SpanValue delayed(const Node& n) {
        const Node* of = &n;
        while (of->kind == NodeKind::Call && of->function->is<implementation::Delay>())
            of = of->children[0].get();
        if (isCondition(*of)) return atEnd(evaluator_.condition(n));
        if (of->kind == NodeKind::Call && of->function->gives == Gives::State) manyStates(n);
        const Signal x = evaluator_.wholeNumber(n);
        if (!x.states.empty()) manyStates(n);
        return signalAt(x, span_.end);
    }

    [[noreturn]] static void manyStates(const Node& n) {
        throw EvaluateError{
            {fmt::format("column {}: a state has many values over a run; take `share(…)` of it", n.column),
             n.column}};
    }

    static Truth isMissing(const SpanValue& v) {
        const auto* number = std::get_if<double>(&v);
        const auto* truth = std::get_if<Truth>(&v);
        return (number && std::isnan(*number)) || (truth && *truth == Truth::Unknown) ? Truth::True
                                                                                      : Truth::False;
    }

    Truth atEnd(const Condition& c) const {
        const auto after = std::upper_bound(c.times.begin(), c.times.end(), span_.end);
        return after == c.times.begin() ? Truth::Unknown
                                        : c.values[static_cast<std::size_t>(after - c.times.begin() - 1)];
    }

    static Truth fromOrder(NodeKind kind, double a, double b) {
        if (std::isnan(a) || std::isnan(b)) return Truth::Unknown;
        bool is = false;
        switch (kind) {
            case NodeKind::Less:
                is = a < b;
                break;
            case NodeKind::LessEqual:
                is = a <= b;
                break;
            case NodeKind::Greater:
                is = a > b;
                break;
            case NodeKind::GreaterEqual:
                is = a >= b;
                break;
            case NodeKind::Equal:
                is = a == b;
                break;
            default:
                is = a != b;
                break;
        }
        return is ? Truth::True : Truth::False;
    }

    static Truth inverted(Truth t) {
        return t == Truth::Unknown ? t : t == Truth::True ? Truth::False : Truth::True;
    }
    static Truth both(Truth a, Truth b) {
        if (a == Truth::False || b == Truth::False) return Truth::False;
        return a == Truth::True && b == Truth::True ? Truth::True : Truth::Unknown;
    }

    Truth truth(const Node& n) {
        switch (n.kind) {
            case NodeKind::Not:
                return inverted(asTruth(*n.children[0]));
            case NodeKind::And:
                return both(asTruth(*n.children[0]), asTruth(*n.children[1]));
            case NodeKind::Or:
                return inverted(both(inverted(asTruth(*n.children[0])), inverted(asTruth(*n.children[1]))));
            case NodeKind::Between: {
                const double v = number(*n.children[0]);
                return both(fromOrder(NodeKind::GreaterEqual, v, number(*n.children[1])),
                            fromOrder(NodeKind::LessEqual, v, number(*n.children[2])));
            }
            case NodeKind::Is:
            case NodeKind::In:
                return isText(n);
            case NodeKind::For:
                throw EvaluateError{
                    {fmt::format("column {}: `for` has no meaning about a whole run", n.column), n.column}};
            default:
                break;
        }
        const SpanValue a = value(*n.children[0]), b = value(*n.children[1]);
        const auto* ta = std::get_if<std::string>(&a);
        const auto* tb = std::get_if<std::string>(&b);
        if (ta && tb) return (*ta == *tb) == (n.kind == NodeKind::Equal) ? Truth::True : Truth::False;
        if (ta || tb) return Truth::Unknown;
        return fromOrder(n.kind, std::get<double>(a), std::get<double>(b));
    }

    Truth isText(const Node& n) {
        const Node& subject = *n.children[0];
        if (subject.kind != NodeKind::Name) manyStates(subject);
        const SpanValue v = fact(subject.text);
        const auto* text = std::get_if<std::string>(&v);
        if (!text) return Truth::Unknown;
        const bool found = std::find(n.states.begin(), n.states.end(), *text) != n.states.end();
        return found != n.negated ? Truth::True : Truth::False;
    }

    Truth asTruth(const Node& n) {
        const SpanValue v = value(n);
        const Truth* t = std::get_if<Truth>(&v);
        return t ? *t : Truth::Unknown;
    }

    const Span& span_;
    Evaluator evaluator_;
};

}  // namespace

Result<SpanValue> evaluateAbout(const Span& span, const Expression& expression, Inputs& inputs) {
    try {
        return SpanEvaluator(span, expression, inputs).value(*expression.root);
    } catch (const EvaluateError& e) {
        return e.error;
    }
}

}  // namespace jacinth
