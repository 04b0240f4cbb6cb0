// What the evaluator does with windows: the stretch before a moment that a figure is over.
#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/expr/evaluator.h"
#include "core/expr/reshape.h"

namespace jacinth {
namespace {

using namespace implementation;

double levelOf(const Node& n) {
    const std::vector<Takes>& takes = n.function->takes;
    const auto level = std::find(takes.begin(), takes.end(), Takes::Level);
    return level == takes.end() ? 0.5 : n.children[static_cast<std::size_t>(level - takes.begin())]->number;
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

/// Made of tags by arithmetic alone: its knots are the samples of its tags.
bool isPlain(const Node& n) {
    if (n.kind == NodeKind::Call) {
        const FunctionInfo& f = *n.function;
        if (!f.is<OfOne>() && !f.is<OfTwo>() && !f.is<Clip>() && !f.is<Delay>()) return false;
    }
    return std::all_of(n.children.begin(), n.children.end(), [](const NodePtr& c) { return isPlain(*c); });
}

}  // namespace

Signal Evaluator::windowed(const Node& n, WindowFigure figure) {
    const double q = levelOf(n);
    if (n.window.samples > 0) return overSamples(n, figure, q);
    const Signal x = number(*n.children[0]);
    // The area under a number since a track is as long as the window: missing, as it has no knots.
    if (x.constant && (figure != WindowFigure::Integral || n.window.duration > Duration::zero()))
        return constantSignal(ofConstant(figure, x.values[0], n.window.duration));
    if (n.window.duration == Duration::zero()) return windowedByTrack(figure, n, x, q);
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
    const bool atKnots = knotsAreSamples(of) || byTime;
    std::vector<Instant> more = knotsFor(n, edges);
    if (atKnots && !edges && more.empty()) {
        out.times = x.times;  // shared, not copied
    } else {
        const std::vector<Instant>& changes = atKnots ? x.times.get() : samples.times;
        out.times =
            withAlso(edges ? withDelayed(changes, n.window.duration, range_.to) : changes, std::move(more));
    }
    // What is held goes on after its last change, and so does its mean.
    if (byTime && x.stepped && range_.to > reach_.from) out.times = withAlso(out.times, {range_.to});
    out.values = slide(figure, x, n.window.duration, out.times, q,
                       byTime || knotsAreSamples(of) ? nullptr : &samples, neededFrom(n));
    return out;
}

Signal Evaluator::windowedByTrack(WindowFigure figure, const Node& n, const Signal& x, double q) {
    const bool since = !n.window.since.empty();
    const std::vector<TimeRange> ranges =
        joined(track(since ? n.window.since : n.window.during), -kNanosecond);
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

Signal Evaluator::overSamples(const Node& n, WindowFigure figure, double q) {
    const Signal x = number(*n.children[0]);
    if (x.constant) return constantSignal(kMissing);
    const Samples samples = samplesFor(*n.children[0], x);
    return slideSamples(figure, x, samples, n.window.samples, withAlso(x.times, grid_), q);
}

Signal Evaluator::ofCondition(const Node& n, WindowFigure figure) {
    const Condition c = condition(*n.children[0]);
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
            if (t >= known)
                sampled.times.edit().push_back(t), sampled.values.edit().push_back(signalAt(x, t));
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
    } else if (n.window.duration > Duration::zero()) {
        out.begins = known + n.window.duration;
        std::vector<Instant> changes{known};
        for (const Instant t : c.times)
            if (t > known) changes.push_back(t);
        // Where a part is unknown the share bends between these: the samples are knots too.
        out.times = withAlso(withDelayed(changes, n.window.duration, range_.to), grid_);
        out.times = withAlso(withAlso(out.times, inputTimes(*n.children[0])), {reach_.from + lookBackOf(n)});
        if (out.times.empty() || out.times.back() < range_.to) out.times.edit().push_back(range_.to);
        out.values = slide(figure, x, n.window.duration, out.times);
    } else {
        out = windowedByTrack(figure, n, x, 0.5);
        out.stepped = false;
    }
    if (n.function->gives == Gives::Length)  // the area comes in hours
        for (double& v : out.values.edit()) v *= 3600;
    return out;
}

/// What is before it nothing in the range depends on.
Instant Evaluator::neededFrom(const Node& n) const {
    const bool needsAllBefore = range_.from - reach_.from >= kAllBefore;
    return needsAllBefore ? kNoInstant : reach_.from + lookBackOf(n);
}

double Evaluator::aggregate(const Node& n) {
    const TimeRange r = range_;
    if (const auto* f = std::get_if<OfCondition>(&n.function->by)) {
        const Signal x = asNumber(condition(*n.children[0]), r.from, r.to);
        const double v = slide(f->figure, x, r.length(), {r.to})[0];
        return n.function->gives == Gives::Length ? v * 3600 : v;
    }
    if (n.children[0]->kind == NodeKind::Text) {
        const std::vector<TimeRange> all = track(n.children[0]->text);
        return static_cast<double>(
            std::count_if(all.begin(), all.end(), [&](const TimeRange& t) { return r.contains(t.from); }));
    }
    Signal x = wholeNumber(*n.children[0]);
    const WindowFigure figure = std::get<OverWindow>(n.function->by).figure;
    if (x.constant) return ofConstant(figure, x.values[0], r.length());
    // A span holds its first moment too: the window (from − 1 ns, to].
    x.begins = std::min(x.begins, r.from - kNanosecond);
    const bool byTime = isByTime(figure);
    const Samples samples = byTime ? Samples{} : samplesFor(*n.children[0], x);
    return slide(figure, x, r.length() + (byTime ? Duration::zero() : kNanosecond), {r.to}, levelOf(n),
                 &samples)[0];
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
    std::vector<double>& values = spread.values.edit();
    for (std::size_t i = 0; i < count.size(); ++i)
        if (count[i] < 2) values[i] = kMissing;
    return zeroAtKnots(spread);
}

Signal Evaluator::smoothed(const Node& n) {
    Signal out = number(*n.children[0]);
    if (out.constant) return out;
    std::vector<Instant> at = withAlso(out.times, knotsFor(n, out.stepped));
    out.values = slideSmooth(out, n.window.duration, at);
    out.times = std::move(at);
    out.begins += n.window.duration;
    return out;
}

Signal Evaluator::faded(const Node& n) {
    Signal x = number(*n.children[0]);
    return x.constant ? x : fadingMean(withKnots(std::move(x), grid_), n.window.duration);
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
    if (n.kind == NodeKind::Call && n.function->is<Delay>())
        for (Instant& t : out) t += n.children[1]->duration;
    return out;
}

}  // namespace jacinth
