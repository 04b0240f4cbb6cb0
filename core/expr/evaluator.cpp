#include "core/expr/evaluator.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>
#include <stdexcept>

#include "core/base/overloaded.h"
#include "core/expr/reshape.h"

namespace jacinth {
namespace {

using namespace implementation;

/// The checker lets no such call through.
[[noreturn]] void cannotBe(const Node& n, const char* wanted) {
    throw std::logic_error(fmt::format("`{}` is evaluated as a {}", n.text, wanted));
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

}  // namespace

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

Evaluator::Evaluator(Inputs& inputs, TimeRange range, Duration lookBack, Progress progress)
    : inputs_(inputs),
      range_(range),
      reach_{range.from - lookBack, range.to},
      progress_(std::move(progress)) {}

void Evaluator::prepare(const Node& root) {
    if (root.kind == NodeKind::Number || root.kind == NodeKind::DurationLiteral) return;
    ++times_[root.key];
    for (const NodePtr& c : root.children) prepare(*c);
}

bool Evaluator::comesAgain(const Node& n) const {
    const auto times = times_.find(n.key);
    return times != times_.end() && times->second > 1;
}

void Evaluator::report() {
    const double share =
        static_cast<double>(done_++) / static_cast<double>(std::max<std::size_t>(1, times_.size()));
    if (progress_.stopped(std::min(0.99, share))) throw EvaluateError{Error::cancelled()};
}

namespace {
void tagsIn(const Node& n, std::set<std::string>& out) {
    if (n.kind == NodeKind::Role || n.kind == NodeKind::Path || n.kind == NodeKind::Name) out.insert(n.key);
    for (const NodePtr& c : n.children) tagsIn(*c, out);
}

/// Is there more in it than sums, so that it must be calculated where each of its tags has a sample?
bool isBent(const Node& n) {
    if (n.kind == NodeKind::Call || n.kind == NodeKind::Multiply || n.kind == NodeKind::Divide ||
        n.kind == NodeKind::Power)
        return true;
    return std::any_of(n.children.begin(), n.children.end(), [](const NodePtr& c) { return isBent(*c); });
}

/// Does it need nothing but samples of tags: no track, no limits, no trust?
bool isOfTagsAlone(const Node& n) {
    if (n.kind == NodeKind::Text || !n.window.since.empty() || !n.window.during.empty()) return false;
    if (n.kind == NodeKind::Call)
        for (const Takes t : n.function->takes)
            if (t == Takes::Limits || t == Takes::Track || t == Takes::Tag) return false;
    return std::all_of(n.children.begin(), n.children.end(),
                       [](const NodePtr& c) { return isOfTagsAlone(*c); });
}

bool isFigureOfTags(const Node& n) {
    return n.kind == NodeKind::Call && n.window.given() && isOfTagsAlone(n);
}

}  // namespace

template <typename Work>
auto Evaluator::asWhole(const std::vector<const Node*>& parts, Work work) {
    std::set<std::string> tags;
    bool bent = false;
    for (const Node* p : parts) {
        tagsIn(*p, tags);
        bent |= isBent(*p);
    }
    std::vector<Instant> grid;
    std::string key;
    if (tags.size() > 1 && bent)
        for (const Node* p : parts) {
            grid = withAlso(grid, inputTimes(*p));
            key += p->key;
        }
    std::swap(grid, grid_);
    std::swap(key, gridKey_);
    auto out = work();
    std::swap(grid, grid_);
    std::swap(key, gridKey_);
    return out;
}

Signal Evaluator::wholeNumber(const Node& n) {
    return asWhole({&n}, [&] { return number(n); });
}

Signal Evaluator::number(const Node& n) {
    if (n.children.empty()) return makeNumber(n);
    const std::string key = n.key + gridKey_;
    if (const auto known = numbers_.find(key); known != numbers_.end()) return known->second;
    const bool keeps = kept_ && isFigureOfTags(n);
    if (keeps)
        if (const Signal* kept = kept_->find(key)) return *kept;
    report();
    Signal made = makeNumber(n);
    if (comesAgain(n)) numbers_.emplace(key, made);
    if (keeps) kept_->keep(key, made);
    return made;
}

Condition Evaluator::condition(const Node& n) {
    if (const auto known = conditions_.find(n.key); known != conditions_.end()) return known->second;
    report();
    Condition made = makeCondition(n);
    if (comesAgain(n)) conditions_.emplace(n.key, made);
    return made;
}

Signal Evaluator::makeNumber(const Node& n) {
    switch (n.kind) {
        case NodeKind::Number:
            return constantSignal(n.number);
        case NodeKind::DurationLiteral:
            return constantSignal(toSeconds(n.duration));
        case NodeKind::Role:
        case NodeKind::Path:
        case NodeKind::Name:
            return tag(n);
        case NodeKind::Negate:
            return transform(number(*n.children[0]), [](double v) { return -v; });
        case NodeKind::Call:
            return call(n);
        default:
            break;
    }
    Signal a = number(*n.children[0]), b = number(*n.children[1]);
    switch (n.kind) {
        case NodeKind::Add:
            return combine(std::move(a), std::move(b), Operator::Add);
        case NodeKind::Subtract:
            return combine(std::move(a), std::move(b), Operator::Subtract);
        case NodeKind::Multiply:
            return combine(std::move(a), std::move(b), Operator::Multiply);
        case NodeKind::Divide:
            return combine(std::move(a), std::move(b), Operator::Divide);
        case NodeKind::Power:
            return combine(std::move(a), std::move(b), [](double x, double y) { return std::pow(x, y); });
        default:
            cannotBe(n, "number");
    }
}

Condition Evaluator::makeCondition(const Node& n) {
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
            return both(compare(*n.children[0], *n.children[1], NodeKind::GreaterEqual),
                        compare(*n.children[0], *n.children[2], NodeKind::LessEqual));
        case NodeKind::Call:
            return conditionCall(n);
        default:
            return compare(*n.children[0], *n.children[1], n.kind);
    }
}

Condition Evaluator::compare(const Node& a, const Node& b, NodeKind kind) {
    return asWhole({&a, &b}, [&] {
        const Comparison comparison = comparisonOf(kind);
        const Signal left = number(a), right = number(b);
        if (right.constant && !left.constant) return compareWithLevel(a, left, right.values[0], comparison);
        if (left.constant && !right.constant)
            return compareWithLevel(b, right, left.values[0], mirrored(comparison));
        return compareWithZero(combine(left, right, Operator::Subtract), comparison);
    });
}

Condition Evaluator::compareWithLevel(const Node& n, const Signal& x, double level, Comparison comparison) {
    if (!comesAgain(n)) return jacinth::compareWithLevel(x, level, comparison);
    // Compared with several levels: what tells quickly where none of them is crossed is worth making.
    auto& extremes = extremes_[n.key + gridKey_];
    if (!extremes) extremes = std::make_unique<BlockExtremes>(x);
    return jacinth::compareWithLevel(x, level, comparison, extremes.get());
}

Signal Evaluator::tag(const Node& n) {
    return withKnots(logged(n), grid_);
}

Signal Evaluator::logged(const Node& n) {
    if (const auto known = numbers_.find(n.key); known != numbers_.end()) return known->second;
    Signal read = orThrow(n.kind == NodeKind::Path ? inputs_.path(n.text) : inputs_.role(n.text));
    if (comesAgain(n)) numbers_.emplace(n.key, read);
    return read;
}

Signal Evaluator::state(const Node& n) {
    if (n.kind != NodeKind::Call) return logged(n);
    if (const auto* by = std::get_if<ByState>(&n.function->by)) return (this->*by->make)(n);
    if (n.function->is<Delay>()) return delayed(state(*n.children[0]), n.children[1]->duration);
    cannotBe(n, "state");
}

Condition Evaluator::isState(const Node& n) {
    const Signal s = state(*n.children[0]);
    std::vector<int> codes;
    for (std::size_t i = 0; i < s.states.size(); ++i)
        if (std::find(n.states.begin(), n.states.end(), s.states[i]) != n.states.end())
            codes.push_back(static_cast<int>(i));
    const Condition c = isOneOf(s, codes);
    return n.negated ? !c : c;
}

Condition Evaluator::conditionCall(const Node& n) {
    const Node& first = *n.children[0];
    if (const auto* by = std::get_if<ByCondition>(&n.function->by)) return (this->*by->make)(n);
    if (n.function->is<IsMissing>()) return missing(first);
    if (n.function->is<Delay>()) return delayed(condition(first), n.children[1]->duration);
    cannotBe(n, "condition");
}

Signal Evaluator::call(const Node& n) {
    const auto arg = [&](std::size_t i) { return number(*n.children[i]); };
    return std::visit(Overloaded{
                          [&](OfOne f) { return transform(arg(0), f.of); },
                          [&](OfTwo f) { return combine(arg(0), arg(1), f.of); },
                          [&](Clip) { return combine(combine(arg(0), arg(1), mostOf), arg(2), leastOf); },
                          [&](If) { return chosen(condition(*n.children[0]), arg(1), arg(2), reach_); },
                          [&](Fill) { return filled(arg(0), arg(1)); },
                          [&](Delay) { return delayed(arg(0), n.children[1]->duration); },
                          [&](OverWindow f) {
                              return n.children[0]->kind == NodeKind::Text ? countOfTrack(n)
                                                                           : windowed(n, f.figure);
                          },
                          [&](OfCondition f) { return ofCondition(n, f.figure); },
                          [&](ByNumber by) { return (this->*by.make)(n); },
                          [&](IsMissing) -> Signal { cannotBe(n, "number"); },
                          [&](ByState) -> Signal { cannotBe(n, "number"); },
                          [&](ByCondition) -> Signal { cannotBe(n, "number"); },
                      },
                      n.function->by);
}

Signal Evaluator::filled(const Signal& x, const Signal& otherwise) const {
    Signal out = chosen(isMissing(x), otherwise, x, reach_);
    out.begins = kNoInstant;
    return out;
}

Condition Evaluator::rising(const Node& n) {
    return turning(condition(*n.children[0]), true);
}
Condition Evaluator::falling(const Node& n) {
    return turning(condition(*n.children[0]), false);
}
Signal Evaluator::elapsed(const Node& n) {
    return elapsedSince(condition(*n.children[0]), reach_.from, reach_.to);
}

Condition Evaluator::missing(const Node& n) {
    switch (n.kind) {
        case NodeKind::Number:
        case NodeKind::DurationLiteral:
        case NodeKind::Role:
        case NodeKind::Path:
        case NodeKind::Name:
        case NodeKind::Negate:
        case NodeKind::Add:
        case NodeKind::Subtract:
        case NodeKind::Multiply:
        case NodeKind::Divide:
        case NodeKind::Power:
            return isMissing(wholeNumber(n));
        case NodeKind::Call:
            break;
        default:
            return isUnknown(condition(n));
    }
    if (n.function->gives == Gives::Condition) return isUnknown(condition(n));
    if (n.function->gives == Gives::State) return isMissing(state(n));
    if (n.function->is<Delay>()) return delayed(missing(*n.children[0]), n.children[1]->duration);
    return isMissing(wholeNumber(n));
}

}  // namespace jacinth
