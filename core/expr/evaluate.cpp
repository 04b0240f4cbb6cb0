#include "core/expr/evaluate.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "core/expr/window.h"

namespace jacinth {
namespace {

struct EvaluateError {
    Error error;
};

double applyPlain(const std::string& f, double x) {
    if (f == "abs") return std::abs(x);
    if (f == "sqrt") return std::sqrt(x);
    if (f == "exp") return std::exp(x);
    if (f == "ln") return std::log(x);
    if (f == "log10") return std::log10(x);
    if (f == "sign") return x > 0 ? 1 : x < 0 ? -1 : x;
    if (f == "round") return std::round(x);
    if (f == "floor") return std::floor(x);
    return std::ceil(x);
}

double applyTwo(NodeKind kind, double a, double b) {
    switch (kind) {
        case NodeKind::Add:
            return a + b;
        case NodeKind::Subtract:
            return a - b;
        case NodeKind::Multiply:
            return a * b;
        case NodeKind::Divide:
            return a / b;
        default:
            return std::pow(a, b);
    }
}

double leastOf(double a, double b) {
    return std::isnan(a) || std::isnan(b) ? a + b : std::min(a, b);
}
double mostOf(double a, double b) {
    return std::isnan(a) || std::isnan(b) ? a + b : std::max(a, b);
}

WindowFigure figureOf(const std::string& name) {
    static const std::map<std::string, WindowFigure> all{
        {"mean", WindowFigure::Mean}, {"median", WindowFigure::Median}, {"min", WindowFigure::Min},
        {"max", WindowFigure::Max},   {"range", WindowFigure::Range},   {"sum", WindowFigure::Sum},
        {"sd", WindowFigure::Sd},     {"count", WindowFigure::Count},   {"slope", WindowFigure::Slope}};
    return all.at(name);
}

Comparison comparisonOf(NodeKind kind) {
    switch (kind) {
        case NodeKind::Less:
            return Comparison::Less;
        case NodeKind::LessEqual:
            return Comparison::LessEqual;
        case NodeKind::Greater:
            return Comparison::Greater;
        case NodeKind::GreaterEqual:
            return Comparison::GreaterEqual;
        case NodeKind::Equal:
            return Comparison::Equal;
        default:
            return Comparison::NotEqual;
    }
}

/// The knots of a window figure: where its input changes, and where a change leaves the window.
std::vector<Instant> withDelayed(const std::vector<Instant>& times, Duration width, Instant end) {
    std::vector<Instant> out, delayed;
    for (const Instant t : times)
        if (t > kNoInstant + width && t + width <= end) delayed.push_back(t + width);
    out.reserve(times.size() + delayed.size());
    std::set_union(times.begin(), times.end(), delayed.begin(), delayed.end(), std::back_inserter(out));
    return out;
}

class Evaluator {
  public:
    Evaluator(Inputs& inputs, TimeRange range) : inputs_(inputs), range_(range) {}

    Signal number(const Node& n) {
        switch (n.kind) {
            case NodeKind::Number:
                return constantSignal(n.number);
            case NodeKind::DurationLiteral:
                return constantSignal(toSeconds(n.duration));
            case NodeKind::Role:
            case NodeKind::Path:
                return input(n);
            case NodeKind::Negate:
                return transform(number(*n.children[0]), [](double v) { return -v; });
            case NodeKind::Call:
                return call(n);
            default:
                break;
        }
        const NodeKind kind = n.kind;
        return combine(number(*n.children[0]), number(*n.children[1]),
                       [kind](double a, double b) { return applyTwo(kind, a, b); });
    }

    Condition condition(const Node& n) {
        switch (n.kind) {
            case NodeKind::Not:
                return !condition(*n.children[0]);
            case NodeKind::And:
                return both(condition(*n.children[0]), condition(*n.children[1]));
            case NodeKind::Or:
                return either(condition(*n.children[0]), condition(*n.children[1]));
            case NodeKind::For:
                return lasting(condition(*n.children[0]), n.duration);
            case NodeKind::Is:
            case NodeKind::In:
                return isState(n);
            case NodeKind::Between:
                return both(compare(*n.children[0], *n.children[1], Comparison::GreaterEqual),
                            compare(*n.children[0], *n.children[2], Comparison::LessEqual));
            default:
                return compare(*n.children[0], *n.children[1], comparisonOf(n.kind));
        }
    }

    Signal input(const Node& n) {
        const std::string key = (n.kind == NodeKind::Role ? "@" : "`") + n.text;
        const auto known = read_.find(key);
        if (known != read_.end()) return known->second;
        Result<Signal> signal = n.kind == NodeKind::Role ? inputs_.role(n.text) : inputs_.path(n.text);
        if (!signal) throw EvaluateError{signal.error()};
        return read_.emplace(key, std::move(*signal)).first->second;
    }

    double aggregate(const Node& n) {
        const Duration width = range_.length();
        if (n.text == "share") {
            const Condition c = condition(*n.children[0]);
            return slideShare(c, width, {range_.to}, range_.from, range_.to)[0];
        }
        Signal x = number(*n.children[0]);
        if (x.constant) return x.values[0];
        x.begins = std::min(x.begins, range_.from);
        return slide(figureOf(n.text), x, width, {range_.to})[0];
    }

    Condition isState(const Node& n) {
        const Signal s = input(*n.children[0]);
        std::vector<int> codes;
        for (std::size_t i = 0; i < s.states.size(); ++i)
            if (std::find(n.states.begin(), n.states.end(), s.states[i]) != n.states.end())
                codes.push_back(static_cast<int>(i));
        const Condition c = isOneOf(s, codes);
        return n.negated ? !c : c;
    }

  private:
    Condition compare(const Node& a, const Node& b, Comparison comparison) {
        return compareWithZero(combine(number(a), number(b), [](double x, double y) { return x - y; }),
                               comparison);
    }

    Signal call(const Node& n) {
        if (n.text == "share") return share(n);
        if (n.window.given()) return windowed(n);
        if (n.text == "least" || n.text == "most")
            return combine(number(*n.children[0]), number(*n.children[1]),
                           n.text == "least" ? leastOf : mostOf);
        if (n.text == "clip") {
            const Signal low = combine(number(*n.children[0]), number(*n.children[1]), mostOf);
            return combine(low, number(*n.children[2]), leastOf);
        }
        const std::string f = n.text;
        return transform(number(*n.children[0]), [f](double v) { return applyPlain(f, v); });
    }

    Signal windowed(const Node& n) {
        const Signal x = number(*n.children[0]);
        if (x.constant) return x;
        const WindowFigure figure = figureOf(n.text);
        if (n.window.samples > 0) return slideSamples(figure, x, n.window.samples);
        Signal out;
        // A mean of held values changes along straight lines between these knots; a figure over samples
        // jumps.
        out.stepped = x.stepped && figure != WindowFigure::Mean;
        out.begins = x.begins + n.window.duration;
        out.times = x.stepped ? withDelayed(x.times, n.window.duration, range_.to) : x.times;
        out.values = slide(figure, x, n.window.duration, out.times);
        return out;
    }

    Signal share(const Node& n) {
        const Condition c = condition(*n.children[0]);
        Signal out;
        const Instant begins = c.times.empty() ? range_.to : std::max(c.times.front(), kNoInstant + kDay);
        out.begins = begins + n.window.duration;
        out.times = withDelayed(c.times, n.window.duration, range_.to);
        if (out.times.empty() || out.times.back() < range_.to) out.times.push_back(range_.to);
        out.values = slideShare(c, n.window.duration, out.times, begins, range_.to);
        return out;
    }

    Inputs& inputs_;
    TimeRange range_;
    std::map<std::string, Signal> read_;
};

/// About a span: plain values, with the evaluator for what lies inside aggregates.
class SpanEvaluator {
  public:
    SpanEvaluator(const Span& span, Inputs& inputs) : span_(span), evaluator_(inputs, span.range()) {}

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
                return applyTwo(n.kind, number(*n.children[0]), number(*n.children[1]));
            default:
                return truth(n);
        }
    }

  private:
    SpanValue fact(const std::string& name) {
        if (name == "duration") return toSeconds(span_.range().length());
        const auto found = span_.facts.find(name);
        if (found == span_.facts.end()) return std::numeric_limits<double>::quiet_NaN();
        if (const double* v = std::get_if<double>(&found->second)) return *v;
        return std::get<std::string>(found->second);
    }

    double number(const Node& n) {
        const SpanValue v = value(n);
        const double* d = std::get_if<double>(&v);
        return d ? *d : std::numeric_limits<double>::quiet_NaN();
    }

    double call(const Node& n) {
        if (n.children.empty()) return std::numeric_limits<double>::quiet_NaN();
        if (isWindowFunction(n.text)) return evaluator_.aggregate(n);
        if (n.text == "least") return leastOf(number(*n.children[0]), number(*n.children[1]));
        if (n.text == "most") return mostOf(number(*n.children[0]), number(*n.children[1]));
        if (n.text == "clip")
            return leastOf(mostOf(number(*n.children[0]), number(*n.children[1])), number(*n.children[2]));
        return applyPlain(n.text, number(*n.children[0]));
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
        if (subject.kind != NodeKind::Name)
            throw EvaluateError{
                {fmt::format("column {}: a state has many values over a run; take `share(…)` of it",
                             subject.column),
                 subject.column}};
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

Result<Value> evaluate(const Expression& expression, Inputs& inputs, TimeRange range) {
    try {
        Evaluator evaluator(inputs, range);
        if (expression.type == ValueType::Condition) return Value(evaluator.condition(*expression.root));
        if (expression.type == ValueType::State) return Value(evaluator.input(*expression.root));
        if (expression.type == ValueType::Text) return Error{"a text alone has no value over time", 1};
        return Value(evaluator.number(*expression.root));
    } catch (const EvaluateError& e) {
        return e.error;
    }
}

Result<SpanValue> evaluateAbout(const Span& span, const Expression& expression, Inputs& inputs) {
    try {
        return SpanEvaluator(span, inputs).value(*expression.root);
    } catch (const EvaluateError& e) {
        return e.error;
    }
}

}  // namespace jacinth
