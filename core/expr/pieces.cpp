#include "core/expr/pieces.h"

#include <algorithm>
#include <deque>
#include <future>
#include <limits>

namespace jacinth {
namespace {

constexpr double kSamples = 120'000;

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
        column.erase(column.begin() + static_cast<std::ptrdiff_t>(end), column.end());
        column.erase(column.begin(), column.begin() + static_cast<std::ptrdiff_t>(first));
    };
    keep(s.times);
    keep(s.values);
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

/// The piece is worked out with a margin on both sides: where a range begins, what is held and what is known
/// begins with it.
Result<Value> workOut(const Expression& expression, TimeRange part, TimeRange all, Duration margin,
                      const std::function<std::unique_ptr<Inputs>(TimeRange)>& inputsOf) {
    const TimeRange wide{std::max(all.from, part.from - margin), std::min(all.to, part.to + margin)};
    const auto inputs = inputsOf({wide.from - expression.lookBack - margin, wide.to + margin});
    auto value = evaluate(expression, *inputs, wide);
    if (!value) return value;
    std::visit([&](auto& v) { cut(v, part); }, *value);
    return value;
}

}  // namespace

PieceSpec piecesFor(const Expression& expression, Duration spacing, Duration longestGap) {
    if (expression.lookBack >= kAllBefore) return {};
    PieceSpec out;
    const Duration step = std::max<Duration>(spacing, 1);
    out.margin =
        std::clamp(longestGap == kWithoutEnd ? 0 : longestGap, std::min(100 * step, kDay), 30 * kDay);
    const auto bySamples = static_cast<Duration>(kSamples * static_cast<double>(step));
    out.length = std::max({bySamples, 6 * expression.lookBack, 20 * out.margin});
    return out;
}

Status evaluateInPieces(const Expression& expression, TimeRange range, const PieceSpec& spec,
                        const std::function<std::unique_ptr<Inputs>(TimeRange)>& inputsOf,
                        const std::function<void(TimeRange, const Value&)>& take, int threads,
                        const std::function<bool(double)>& goOn) {
    if (spec.length <= 0) {
        const auto inputs = inputsOf({range.from - expression.lookBack, range.to});
        const auto value = evaluate(expression, *inputs, range, [&] { return !goOn || goOn(0.5); });
        if (!value) return value.error();
        take(range, *value);
        return Done{};
    }
    std::deque<std::pair<TimeRange, std::future<Result<Value>>>> under;
    Instant next = range.from;
    while (next < range.to || !under.empty()) {
        while (next < range.to && static_cast<int>(under.size()) < std::max(1, threads)) {
            const TimeRange part{next, range.to - next > spec.length ? next + spec.length : range.to};
            under.emplace_back(part,
                               std::async(std::launch::async, [&expression, part, range, &spec, &inputsOf] {
                                   return workOut(expression, part, range, spec.margin, inputsOf);
                               }));
            next = part.to;
        }
        const TimeRange part = under.front().first;
        const Result<Value> value = under.front().second.get();
        under.pop_front();
        if (!value) return value.error();
        take(part, *value);
        const double share = static_cast<double>(part.to - range.from) / static_cast<double>(range.length());
        if (goOn && !goOn(share)) return Error{"stopped"};
    }
    return Done{};
}

void appendPiece(Value& whole, TimeRange range, const Value& piece) {
    if (auto* signal = std::get_if<Signal>(&whole)) {
        const Signal& more = std::get<Signal>(piece);
        if (more.constant || signal->constant) return;
        // The knot beyond the end of what there is comes again in its own piece.
        while (!signal->times.empty() && signal->times.back() >= range.from) {
            signal->times.pop_back();
            signal->values.pop_back();
        }
        // What was known has ended where the next piece begins without a value.
        if (!signal->times.empty() && std::isfinite(signal->values.back()) &&
            std::isnan(signalAt(more, range.from))) {
            signal->times.push_back(signal->stepped ? range.from : signal->times.back() + 1);
            signal->values.push_back(std::numeric_limits<double>::quiet_NaN());
        }
        for (std::size_t i = 0; i < more.times.size(); ++i)
            if (signal->times.empty() || more.times[i] > signal->times.back()) {
                signal->times.push_back(more.times[i]);
                signal->values.push_back(more.values[i]);
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
