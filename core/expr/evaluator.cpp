#include "core/expr/evaluator.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "core/expr/reshape.h"

namespace jacinth {
namespace {

constexpr double kMissing = std::numeric_limits<double>::quiet_NaN();

WindowFigure figureOf(const std::string& name) {
    using enum WindowFigure;
    static const std::map<std::string, WindowFigure> all{
        {"mean", Mean},     {"median", Median}, {"min", Min},     {"max", Max},     {"range", Range},
        {"sum", Sum},       {"sd", Sd},         {"count", Count}, {"slope", Slope}, {"integral", Integral},
        {"change", Change}, {"rate", Rate},     {"first", First}, {"last", Last},   {"quantile", Quantile},
        {"share", Mean},    {"time", Integral}};
    return all.at(name);
}

double levelOf(const Node& n) {
    return n.text == "quantile" ? n.children[1]->number : 0.5;
}

/// The knots of a window figure: where its input changes, and where a change leaves the window.
std::vector<Instant> withDelayed(const std::vector<Instant>& times, Duration width, Instant end) {
    std::vector<Instant> out, later;
    for (const Instant t : times)
        if (t > kNoInstant + width && t + width <= end) later.push_back(t + width);
    out.reserve(times.size() + later.size());
    std::set_union(times.begin(), times.end(), later.begin(), later.end(), std::back_inserter(out));
    return out;
}

std::vector<Instant> withAlso(const std::vector<Instant>& times, std::vector<Instant> more) {
    if (more.empty()) return times;
    std::sort(more.begin(), more.end());
    more.erase(std::unique(more.begin(), more.end()), more.end());
    std::vector<Instant> out;
    std::set_union(times.begin(), times.end(), more.begin(), more.end(), std::back_inserter(out));
    return out;
}

/// Where the window begins at each time: at the end of the last range before (since), or at the start of the
/// range that holds it (during). kNoInstant where there is none. `ranges` by start, not overlapping.
std::vector<Instant> startsOf(const std::vector<TimeRange>& ranges, const std::vector<Instant>& at,
                              bool since) {
    std::vector<Instant> out;
    out.reserve(at.size());
    std::size_t next = 0;
    Instant start = kNoInstant, end = kNoInstant;
    for (const Instant t : at) {
        while (next < ranges.size() && (since ? ranges[next].to : ranges[next].from) <= t) {
            start = since ? ranges[next].to : ranges[next].from;
            end = ranges[next].to;
            ++next;
        }
        out.push_back(since || t <= end ? start : kNoInstant);
    }
    return out;
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

/// The figure of a number that has no samples: what is over samples and needs them is missing.
double ofConstant(WindowFigure figure, double value, Duration width) {
    switch (figure) {
        case WindowFigure::Integral:
            return value * toHours(width);
        case WindowFigure::Range:
        case WindowFigure::Change:
        case WindowFigure::Slope:
        case WindowFigure::Rate:
            return 0;
        case WindowFigure::Count:
        case WindowFigure::Sum:
        case WindowFigure::Sd:
            return kMissing;
        default:
            return value;
    }
}

template <typename T>
T orThrow(Result<T> result) {
    if (!result) throw EvaluateError{result.error()};
    return std::move(*result);
}

}  // namespace

Result<std::vector<TimeRange>> Inputs::track(const std::string& name) {
    return Error{fmt::format("there is no track `{}`", name)};
}
Result<LimitLines> Inputs::limits(const std::string& set, const std::string&, bool) {
    return Error{fmt::format("there are no golden limits `{}`", set)};
}
Result<Signal> Inputs::trust(const std::string&, bool) {
    Signal none = constantSignal(static_cast<double>(trustGrades().size() - 1));
    none.states = trustGrades();
    return none;
}

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

std::string keyOf(const Node& n) {
    std::string out = fmt::format("{}|{}|{}|{}|{}|{}|{}|{}|{}|{}(", static_cast<int>(n.kind), n.number,
                                  n.duration, n.text, n.negated, n.window.duration, n.window.samples,
                                  n.window.since, n.window.during, n.states.size());
    for (const std::string& s : n.states) out += s + "\x1f";
    for (const NodePtr& c : n.children) out += keyOf(*c) + ",";
    return out + ")";
}

Evaluator::Evaluator(Inputs& inputs, TimeRange range, Duration lookBack, std::function<bool()> goOn)
    : inputs_(inputs), range_(range), reach_{range.from - lookBack, range.to}, goOn_(std::move(goOn)) {}

void Evaluator::prepare(const Node& root) {
    if (root.kind == NodeKind::Number || root.kind == NodeKind::DurationLiteral) return;
    ++times_[keyOf(root)];
    for (const NodePtr& c : root.children) prepare(*c);
}

void Evaluator::goOnOrStop() const {
    if (goOn_ && !goOn_()) throw EvaluateError{{"cancelled"}};
}

namespace {
void tagsIn(const Node& n, std::set<std::string>& out) {
    if (n.kind == NodeKind::Role || n.kind == NodeKind::Path || n.kind == NodeKind::Name)
        out.insert(keyOf(n));
    for (const NodePtr& c : n.children) tagsIn(*c, out);
}

/// Is there more in it than sums, so that it must be worked out where each of its tags has a sample?
bool isBent(const Node& n) {
    if (n.kind == NodeKind::Call || n.kind == NodeKind::Multiply || n.kind == NodeKind::Divide ||
        n.kind == NodeKind::Power)
        return true;
    return std::any_of(n.children.begin(), n.children.end(), [](const NodePtr& c) { return isBent(*c); });
}

/// Made of tags by arithmetic alone: its knots are the samples of its tags.
bool isPlain(const Node& n) {
    static const std::set<std::string> calls{"abs",   "sqrt", "exp",  "ln",    "log10", "sign", "round",
                                             "floor", "ceil", "clip", "least", "most",  "delay"};
    if (n.kind == NodeKind::Call && !calls.contains(n.text)) return false;
    return std::all_of(n.children.begin(), n.children.end(), [](const NodePtr& c) { return isPlain(*c); });
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
            key += keyOf(*p);
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
    const std::string key = keyOf(n) + gridKey_;
    if (const auto known = numbers_.find(key); known != numbers_.end()) return known->second;
    goOnOrStop();
    Signal made = makeNumber(n);
    if (const auto t = times_.find(keyOf(n)); t != times_.end() && t->second > 1) numbers_.emplace(key, made);
    return made;
}

Condition Evaluator::condition(const Node& n) {
    const std::string key = keyOf(n);
    if (const auto known = conditions_.find(key); known != conditions_.end()) return known->second;
    goOnOrStop();
    Condition made = makeCondition(n);
    if (const auto t = times_.find(key); t != times_.end() && t->second > 1) conditions_.emplace(key, made);
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
        default:
            return combine(std::move(a), std::move(b), [](double x, double y) { return std::pow(x, y); });
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
        return compareWithZero(combine(number(a), number(b), Operator::Subtract), comparisonOf(kind));
    });
}

Signal Evaluator::tag(const Node& n) {
    return withKnots(logged(n), grid_);
}

Signal Evaluator::logged(const Node& n) {
    const std::string key = keyOf(n);
    if (const auto known = numbers_.find(key); known != numbers_.end()) return known->second;
    Signal read = orThrow(n.kind == NodeKind::Path ? inputs_.path(n.text) : inputs_.role(n.text));
    if (const auto t = times_.find(key); t != times_.end() && t->second > 1) numbers_.emplace(key, read);
    return read;
}

Signal Evaluator::state(const Node& n) {
    if (n.kind != NodeKind::Call) return logged(n);
    if (n.text == "trust") {
        const Node& of = *n.children[0];
        return orThrow(inputs_.trust(of.text, of.kind == NodeKind::Path));
    }
    if (n.text == "delay") return delayed(state(*n.children[0]), n.children[1]->duration);
    return windowed(n);
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

std::vector<TimeRange> Evaluator::track(const std::string& name) {
    return orThrow(inputs_.track(name));
}

Condition Evaluator::conditionCall(const Node& n) {
    const Node& first = *n.children[0];
    if (n.text == "rising" || n.text == "falling") return turning(condition(first), n.text == "rising");
    if (n.text == "missing") return missing(first);
    if (n.text == "delay") return delayed(condition(first), n.children[1]->duration);
    if (n.text == "inside") return insideOf(track(first.text));
    if (n.text == "stuck") return stuck(n);
    return beyondLimits(n);
}

Condition Evaluator::stuck(const Node& n) {
    const Node& of = *n.children[0];
    const Signal x = wholeNumber(of);
    const Samples samples = samplesFor(of, x);
    if (n.window.samples > 0)
        return zeroAtKnots(slideSamples(WindowFigure::Range, x, samples, n.window.samples, samples.times));
    Signal spread;
    spread.times =
        withAlso(withDelayed(samples.times, n.window.duration, range_.to), {reach_.from + lookBackOf(n)});
    spread.values = slide(WindowFigure::Range, x, n.window.duration, spread.times, 0.5, &samples);
    const auto count = slide(WindowFigure::Count, x, n.window.duration, spread.times, 0.5, &samples);
    for (std::size_t i = 0; i < count.size(); ++i)
        if (count[i] < 2) spread.values[i] = kMissing;
    return zeroAtKnots(spread);
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
    const FunctionInfo* f = functionNamed(n.text);
    if (f->gives == Gives::Condition) return isUnknown(condition(n));
    if (f->gives == Gives::State) return isMissing(state(n));
    if (n.text == "delay") return delayed(missing(*n.children[0]), n.children[1]->duration);
    return isMissing(wholeNumber(n));
}

Condition Evaluator::beyondLimits(const Node& n) {
    const Node& of = *n.children[1];
    const LimitLines lines = orThrow(inputs_.limits(n.children[0]->text, of.text, of.kind == NodeKind::Path));
    const Signal x = tag(of);
    const auto beyond = [&](const Signal& limit, Comparison side) {
        return compareWithZero(combine(x, limit, Operator::Subtract), side);
    };
    if (n.text == "above") return beyond(lines.high, Comparison::Greater);
    if (n.text == "below") return beyond(lines.low, Comparison::Less);
    return either(beyond(lines.high, Comparison::Greater), beyond(lines.low, Comparison::Less));
}

Signal Evaluator::limitLine(const Node& n) {
    const Node& of = *n.children[1];
    LimitLines lines = orThrow(inputs_.limits(n.children[0]->text, of.text, of.kind == NodeKind::Path));
    return withKnots(std::move(n.text == "low" ? lines.low : lines.high), grid_);
}

Signal Evaluator::call(const Node& n) {
    const auto arg = [&](std::size_t i) { return number(*n.children[i]); };
    if (n.text == "share" || n.text == "time") return ofCondition(n);
    if (n.text == "count" && n.children[0]->kind == NodeKind::Text) return countOfTrack(n);
    if (n.text == "smooth") {
        Signal out = arg(0);
        if (out.constant) return out;
        const std::vector<Instant> at = withAlso(out.times, knotsFor(n, out.stepped));
        const std::vector<double> values = slideSmooth(out, n.window.duration, at);
        out.times = at;
        out.values = values;
        out.begins += n.window.duration;
        return out;
    }
    if (n.text == "ewma") {
        const Signal x = arg(0);
        return x.constant ? x : fadingMean(withKnots(x, grid_), n.window.duration);
    }
    if (n.window.given()) return windowed(n);
    if (n.text == "least" || n.text == "most")
        return combine(arg(0), arg(1), n.text == "least" ? leastOf : mostOf);
    if (n.text == "clip") return combine(combine(arg(0), arg(1), mostOf), arg(2), leastOf);
    if (n.text == "if") return chosen(condition(*n.children[0]), arg(1), arg(2), reach_);
    if (n.text == "fill") {
        const Signal x = arg(0);
        Signal out = chosen(isMissing(x), arg(1), x, reach_);
        out.begins = kNoInstant;
        return out;
    }
    if (n.text == "delay") return delayed(arg(0), n.children[1]->duration);
    if (n.text == "low" || n.text == "high") return limitLine(n);
    if (n.text == "elapsed") return elapsedSince(condition(*n.children[0]), reach_.from, reach_.to);
    if (n.text == "expected" || n.text == "score")
        throw EvaluateError{
            {fmt::format("column {}: there is no model `{}`", n.column, n.children[0]->text), n.column}};
    const std::string f = n.text;
    return transform(arg(0), [f](double v) { return applyPlain(f, v); });
}

Signal Evaluator::windowed(const Node& n) {
    const WindowFigure figure = figureOf(n.text);
    const double q = levelOf(n);
    if (n.window.samples > 0) return overSamples(n, figure, q);
    const Signal x = number(*n.children[0]);
    // The area under a number since a track is as long as the window: missing, as it has no knots.
    if (x.constant && (figure != WindowFigure::Integral || n.window.duration > 0))
        return constantSignal(ofConstant(figure, x.values[0], n.window.duration));
    if (n.window.duration == 0) return windowedByTrack(figure, n, x, q);
    Signal out;
    const Node& of = *n.children[0];
    const bool byTime = isByTime(figure);
    const Samples samples = byTime || knotsAreSamples(of) ? Samples{} : samplesFor(of, x);
    // What is weighted by time changes along lines between these knots, also of held values; a figure over
    // samples jumps where one enters or leaves.
    out.stepped = !byTime && hasHeld(of);
    out.states = x.states;
    out.begins = x.begins + n.window.duration;
    const bool edges = x.stepped || out.stepped;
    const std::vector<Instant>& changes = knotsAreSamples(of) || byTime ? x.times : samples.times;
    out.times =
        withAlso(edges ? withDelayed(changes, n.window.duration, range_.to) : changes, knotsFor(n, edges));
    // What is held goes on after its last change, and so does its mean.
    if (byTime && x.stepped && range_.to > reach_.from) out.times = withAlso(out.times, {range_.to});
    out.values =
        slide(figure, x, n.window.duration, out.times, q, byTime || knotsAreSamples(of) ? nullptr : &samples);
    return out;
}

bool Evaluator::knotsAreSamples(const Node& n) const {
    return grid_.empty() && isPlain(n);
}

Instant Evaluator::beginsOf(const Node& n) {
    if (n.kind == NodeKind::Role || n.kind == NodeKind::Path || n.kind == NodeKind::Name)
        return logged(n).begins;
    Instant out = kNoInstant;
    for (const NodePtr& c : n.children) out = std::max(out, beginsOf(*c));
    return out;
}

bool Evaluator::hasHeld(const Node& n) {
    if (n.kind == NodeKind::Role || n.kind == NodeKind::Path || n.kind == NodeKind::Name)
        return logged(n).stepped;
    return std::any_of(n.children.begin(), n.children.end(), [&](const NodePtr& c) { return hasHeld(*c); });
}

std::vector<Instant> Evaluator::knotsFor(const Node& n, bool held) {
    std::vector<Instant> out = grid_;
    if (!knotsAreSamples(*n.children[0])) out = withAlso(out, inputTimes(*n.children[0]));
    // What is held needs a knot where it is first known, or a short range would not know it.
    if (held) out = withAlso(out, {reach_.from + lookBackOf(n)});
    return out;
}

Samples Evaluator::samplesFor(const Node& n, const Signal& x) {
    return knotsAreSamples(n) ? samplesOf(x) : samplesAt(x, inputTimes(n));
}

Signal Evaluator::windowedByTrack(WindowFigure figure, const Node& n, const Signal& x, double q) {
    const bool since = !n.window.since.empty();
    const std::vector<TimeRange> ranges = joined(track(since ? n.window.since : n.window.during), -1);
    std::vector<Instant> more;
    for (const TimeRange& r : ranges)
        // A window of a nanosecond has too few digits for a mean: the figure begins a millisecond in.
        for (const Instant t : {r.from, r.from + kMillisecond, r.to, r.to + kMillisecond})
            if (t >= reach_.from && t <= range_.to) more.push_back(t);
    Signal out;
    out.stepped = x.stepped && !isByTime(figure);
    out.states = x.states;
    out.begins = x.begins;
    if (x.stepped && range_.to > reach_.from) more.push_back(range_.to);
    out.times = withAlso(withAlso(x.times, grid_), std::move(more));
    const bool byTime = isByTime(figure);
    const Samples samples = byTime ? Samples{} : samplesFor(*n.children[0], x);
    out.values = slideFrom(figure, x, startsOf(ranges, out.times, since), out.times, q, &samples);
    return out;
}

std::vector<Instant> Evaluator::inputTimes(const Node& n) {
    if (n.kind == NodeKind::Role || n.kind == NodeKind::Path || n.kind == NodeKind::Name) {
        const Signal s = logged(n);
        std::vector<Instant> out;
        for (std::size_t i = 0; i < s.times.size(); ++i)
            if (std::isfinite(s.values[i])) out.push_back(s.times[i]);
        return out;
    }
    std::vector<Instant> out;
    for (const NodePtr& c : n.children) out = withAlso(out, inputTimes(*c));
    if (n.kind == NodeKind::Call && n.text == "delay")
        for (Instant& t : out) t += n.children[1]->duration;
    return out;
}

Signal Evaluator::overSamples(const Node& n, WindowFigure figure, double q) {
    const Signal x = number(*n.children[0]);
    if (x.constant) return constantSignal(kMissing);
    const Samples samples = samplesFor(*n.children[0], x);
    return slideSamples(figure, x, samples, n.window.samples, withAlso(x.times, grid_), q);
}

Signal Evaluator::ofCondition(const Node& n) {
    const Condition c = condition(*n.children[0]);
    const WindowFigure figure = figureOf(n.text);
    // The record begins where its tags do; what is unknown after that is a hole, not a beginning.
    const Instant known = std::max(beginsOf(*n.children[0]), reach_.from);
    const Signal x = asNumber(c, known, range_.to);
    Signal out;
    if (n.window.samples > 0) {
        // At the samples that the condition is made of.
        Signal sampled;
        sampled.stepped = true;
        sampled.begins = known;
        for (const Instant t : inputTimes(*n.children[0]))
            if (t >= known) sampled.times.push_back(t), sampled.values.push_back(signalAt(x, t));
        if (figure == WindowFigure::Mean) {
            out = slideSamples(figure, sampled, samplesOf(sampled), n.window.samples, sampled.times);
        } else {
            std::vector<Instant> starts;
            const auto all = static_cast<std::size_t>(n.window.samples);
            for (std::size_t i = 0; i < sampled.times.size(); ++i)
                starts.push_back(i + 1 < all ? kNoInstant : sampled.times[i + 1 - all]);
            out.times = sampled.times;
            out.stepped = true;
            out.values = slideFrom(figure, x, starts, out.times);
        }
    } else if (n.window.duration > 0) {
        out.begins = known + n.window.duration;
        std::vector<Instant> changes{known};
        for (const Instant t : c.times)
            if (t > known) changes.push_back(t);
        // Where a part is unknown the share bends between these: the samples are knots too.
        out.times = withAlso(withDelayed(changes, n.window.duration, range_.to), grid_);
        out.times = withAlso(withAlso(out.times, inputTimes(*n.children[0])), {reach_.from + lookBackOf(n)});
        if (out.times.empty() || out.times.back() < range_.to) out.times.push_back(range_.to);
        out.values = slide(figure, x, n.window.duration, out.times);
    } else {
        out = windowedByTrack(figure, n, x, 0.5);
        out.stepped = false;
    }
    if (n.text == "time")
        for (double& v : out.values) v *= 3600;
    return out;
}

Signal Evaluator::countOfTrack(const Node& n) {
    std::vector<TimeRange> counted = track(n.children[0]->text);
    std::sort(counted.begin(), counted.end(),
              [](const TimeRange& a, const TimeRange& b) { return a.from < b.from; });
    std::vector<Instant> starts, knots{reach_.from};
    for (const TimeRange& r : counted) starts.push_back(r.from);
    const Duration width = n.window.duration;
    std::vector<TimeRange> windows;
    if (width == 0) windows = joined(track(n.window.since.empty() ? n.window.during : n.window.since), -1);
    for (const Instant t : starts) knots.insert(knots.end(), {t, t + width});
    for (const TimeRange& w : windows) knots.insert(knots.end(), {w.from, w.to, w.to + kMillisecond});
    Signal out;
    out.stepped = true;
    for (const Instant t : withAlso({}, std::move(knots)))
        if (t >= reach_.from && t <= reach_.to) out.times.push_back(t);
    const std::vector<Instant> since = startsOf(windows, out.times, !n.window.since.empty());
    for (std::size_t i = 0; i < out.times.size(); ++i) {
        const Instant from = width > 0 ? out.times[i] - width : since[i];
        const auto upTo = [&](Instant t) {
            return std::upper_bound(starts.begin(), starts.end(), t) - starts.begin();
        };
        out.values.push_back(from == kNoInstant ? kMissing
                                                : static_cast<double>(upTo(out.times[i]) - upTo(from)));
    }
    return out;
}

double Evaluator::aggregate(const Node& n) {
    const TimeRange r = range_;
    if (n.text == "share" || n.text == "time") {
        const Signal x = asNumber(condition(*n.children[0]), r.from, r.to);
        const double v = slide(figureOf(n.text), x, r.length(), {r.to})[0];
        return n.text == "time" ? v * 3600 : v;
    }
    if (n.text == "count" && n.children[0]->kind == NodeKind::Text) {
        const std::vector<TimeRange> all = track(n.children[0]->text);
        return static_cast<double>(
            std::count_if(all.begin(), all.end(), [&](const TimeRange& t) { return r.contains(t.from); }));
    }
    Signal x = wholeNumber(*n.children[0]);
    const WindowFigure figure = figureOf(n.text);
    if (x.constant) return ofConstant(figure, x.values[0], r.length());
    // A span holds its first moment too: the window (from − 1 ns, to].
    x.begins = std::min(x.begins, r.from - 1);
    const bool byTime = isByTime(figure);
    const Samples samples = byTime ? Samples{} : samplesFor(*n.children[0], x);
    return slide(figure, x, r.length() + (byTime ? 0 : 1), {r.to}, levelOf(n), &samples)[0];
}

}  // namespace jacinth
