// What the evaluator reads of a study besides tags: tracks, golden limits, trust.
#include <fmt/format.h>

#include <algorithm>

#include "core/base/missing.h"
#include "core/expr/evaluator.h"
#include "core/expr/reshape.h"

namespace jacinth {

Result<std::vector<TimeRange>> Inputs::track(const std::string& name) {
    return Error{fmt::format("`{}` is not a track of this study", name)};
}
Result<LimitLines> Inputs::limits(const std::string& set, const std::string&, bool) {
    return Error{fmt::format("`{}` is not a set of golden limits of this study", set)};
}
Result<Signal> Inputs::trust(const std::string&, bool) {
    Signal none = constantSignal(static_cast<double>(Names{}.trust.size() - 1));
    none.states = Names{}.trust;
    return none;
}

std::vector<TimeRange> Evaluator::track(const std::string& name) {
    return orThrow(inputs_.track(name));
}

Condition Evaluator::inside(const Node& n) {
    return insideOf(track(n.children[0]->text));
}

Signal Evaluator::countOfTrack(const Node& n) {
    std::vector<TimeRange> counted = track(n.children[0]->text);
    std::sort(counted.begin(), counted.end(),
              [](const TimeRange& a, const TimeRange& b) { return a.from < b.from; });
    std::vector<Instant> starts, knots{reach_.from};
    for (const TimeRange& r : counted) starts.push_back(r.from);
    const Duration width = n.window.duration;
    std::vector<TimeRange> windows;
    if (width == Duration::zero())
        windows = joined(track(n.window.since.empty() ? n.window.during : n.window.since), -kNanosecond);
    for (const Instant t : starts) knots.insert(knots.end(), {t, t + width});
    for (const TimeRange& w : windows) knots.insert(knots.end(), {w.from, w.to, w.to + kMillisecond});
    Signal out;
    out.stepped = true;
    for (const Instant t : withAlso({}, std::move(knots)))
        if (t >= reach_.from && t <= reach_.to) out.times.edit().push_back(t);
    const std::vector<Instant> since = startsOf(windows, out.times, !n.window.since.empty());
    for (std::size_t i = 0; i < out.times.size(); ++i) {
        const Instant from = width > Duration::zero() ? out.times[i] - width : since[i];
        const auto upTo = [&](Instant t) {
            return std::upper_bound(starts.begin(), starts.end(), t) - starts.begin();
        };
        out.values.edit().push_back(
            from == kNoInstant ? kMissing : static_cast<double>(upTo(out.times[i]) - upTo(from)));
    }
    return out;
}

LimitLines Evaluator::limitsOf(const Node& n) {
    const Node& of = *n.children[1];
    return orThrow(inputs_.limits(n.children[0]->text, of.text, of.kind == NodeKind::Path));
}

Condition Evaluator::beyond(const Node& n, const Signal& limit, Comparison side) {
    return compareWithZero(combine(tag(*n.children[1]), limit, Operator::Subtract), side);
}

Condition Evaluator::above(const Node& n) {
    return beyond(n, limitsOf(n).high, Comparison::Greater);
}
Condition Evaluator::below(const Node& n) {
    return beyond(n, limitsOf(n).low, Comparison::Less);
}
Condition Evaluator::outside(const Node& n) {
    const LimitLines lines = limitsOf(n);
    return either(beyond(n, lines.high, Comparison::Greater), beyond(n, lines.low, Comparison::Less));
}

Signal Evaluator::lowLimit(const Node& n) {
    return withKnots(limitsOf(n).low, grid_);
}
Signal Evaluator::highLimit(const Node& n) {
    return withKnots(limitsOf(n).high, grid_);
}

Signal Evaluator::trust(const Node& n) {
    const Node& of = *n.children[0];
    return orThrow(inputs_.trust(of.text, of.kind == NodeKind::Path));
}

}  // namespace jacinth
