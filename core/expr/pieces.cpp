#include "core/expr/pieces.h"

#include <algorithm>

#include "core/base/ahead.h"
#include "core/base/missing.h"

namespace jacinth {
namespace {

constexpr double kSamples = 60'000;

/// Knots in the range and one beyond each end.
void cut(Signal& s, TimeRange range) {
    if (s.constant) return;
    auto first = static_cast<std::size_t>(std::lower_bound(s.times.begin(), s.times.end(), range.from) -
                                          s.times.begin());
    auto end = static_cast<std::size_t>(std::lower_bound(s.times.begin(), s.times.end(), range.to) -
                                        s.times.begin());
    if (first > 0) --first;
    if (end < s.times.size()) ++end;
    const auto keep = [&](auto& column) {
        column.resize(end);
        column.erase(column.begin(), column.begin() + static_cast<std::ptrdiff_t>(first));
    };
    keep(s.times.edit());
    keep(s.values.edit());
}

/// The truth at the range's start, and the changes in it.
void cut(Condition& c, TimeRange range) {
    Condition out;
    out.times.push_back(range.from);
    out.values.push_back(conditionAt(c, range.from));
    for (std::size_t i = 0; i < c.times.size(); ++i)
        if (c.times[i] > range.from && c.times[i] < range.to && c.values[i] != out.values.back()) {
            out.times.push_back(c.times[i]);
            out.values.push_back(c.values[i]);
        }
    c = std::move(out);
}

/// The piece is evaluated with a margin on both sides: where a range begins, what is held and what is known
/// begins with it.
Result<Value> evaluatePiece(const Expression& expression, TimeRange part, TimeRange all, Duration margin,
                            const std::function<std::unique_ptr<Inputs>(TimeRange)>& inputsOf) {
    const TimeRange wide{std::max(all.from, part.from - margin), std::min(all.to, part.to + margin)};
    const auto inputs = inputsOf({wide.from - expression.lookBack - margin, wide.to + margin});
    auto value = evaluate(expression, *inputs, wide);
    if (!value) return value;
    std::visit([&](auto& v) { cut(v, part); }, *value);
    return value;
}

std::size_t pieceCount(TimeRange range, Duration length) {
    if (range.to <= range.from) return 0;
    return static_cast<std::size_t>((range.length() - kNanosecond) / length + 1);
}

TimeRange pieceAt(std::size_t i, TimeRange range, Duration length) {
    const Instant from = range.from + static_cast<std::int64_t>(i) * length;
    return {from, range.to - from > length ? from + length : range.to};
}

}  // namespace

PieceSpec piecesFor(const Expression& expression, Duration spacing, Duration longestGap) {
    if (expression.lookBack >= kAllBefore) return {};
    PieceSpec out;
    const Duration step = std::max(spacing, kNanosecond);
    out.margin = std::clamp(longestGap == kWithoutEnd ? Duration::zero() : longestGap,
                            std::min(100 * step, kDay), 30 * kDay);
    const auto bySamples = fromNanoseconds(kSamples * toNanoseconds(step));
    out.length = std::max({bySamples, 6 * expression.lookBack, 20 * out.margin});
    return out;
}

Status evaluateInPieces(const Expression& expression, TimeRange range, const PieceSpec& spec,
                        const std::function<std::unique_ptr<Inputs>(TimeRange)>& inputsOf,
                        const std::function<void(TimeRange, const Value&)>& take, int ahead,
                        const Progress& progress) {
    if (spec.length <= Duration::zero()) {
        const auto inputs = inputsOf({range.from - expression.lookBack, range.to});
        const auto value = evaluate(expression, *inputs, range, progress);
        if (!value) return value.error();
        take(range, *value);
        return Done{};
    }
    const std::size_t count = pieceCount(range, spec.length);
    Ahead<Result<Value>> values;
    for (std::size_t i = 0, begun = 0; i < count; ++i) {
        for (; begun < count && begun <= i + static_cast<std::size_t>(std::max(1, ahead)); ++begun)
            values.start([&, part = pieceAt(begun, range, spec.length)] {
                return evaluatePiece(expression, part, range, spec.margin, inputsOf);
            });
        const Result<Value> value = values.take();
        if (!value) return value.error();
        const TimeRange part = pieceAt(i, range, spec.length);
        take(part, *value);
        const double share = toNanoseconds(part.to - range.from) / toNanoseconds(range.length());
        if (progress.stopped(share)) return Error::cancelled();
    }
    return Done{};
}

void appendPiece(Value& whole, TimeRange range, const Value& piece) {
    if (auto* signal = std::get_if<Signal>(&whole)) {
        const Signal& more = std::get<Signal>(piece);
        if (more.constant || signal->constant) return;
        // The knot beyond the end of what there is stands again in its own piece.
        std::vector<Instant>& times = signal->times.edit();
        std::vector<double>& values = signal->values.edit();
        while (!times.empty() && times.back() >= range.from) {
            times.pop_back();
            values.pop_back();
        }
        // What was known has ended where the next piece begins without a value.
        if (!times.empty() && std::isfinite(values.back()) && std::isnan(signalAt(more, range.from))) {
            times.push_back(signal->stepped ? range.from : times.back() + kNanosecond);
            values.push_back(kMissing);
        }
        for (std::size_t i = 0; i < more.times.size(); ++i)
            if (times.empty() || more.times[i] > times.back()) {
                times.push_back(more.times[i]);
                values.push_back(more.values[i]);
            }
        return;
    }
    Condition& condition = std::get<Condition>(whole);
    const Condition& more = std::get<Condition>(piece);
    for (std::size_t i = 0; i < more.times.size(); ++i)
        if (condition.values.empty() || more.values[i] != condition.values.back()) {
            condition.times.push_back(more.times[i]);
            condition.values.push_back(more.values[i]);
        }
}

}  // namespace jacinth
