#include "core/expr/pieces.h"

#include <algorithm>
#include <mutex>

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
Result<std::vector<Value>> evaluatePiece(std::span<const Expression> expressions, TimeRange part,
                                         TimeRange all, Duration margin, const InputsOver& inputsOf,
                                         const Progress& progress) {
    const TimeRange wide{std::max(all.from, part.from - margin), std::min(all.to, part.to + margin)};
    const auto inputs = inputsOf({wide.from - longestLookBack(expressions) - margin, wide.to + margin});
    std::vector<Value> out(expressions.size());
    const auto keep = [&](std::size_t i, Value value) {
        std::visit([&](auto& v) { cut(v, part); }, value);
        out[i] = std::move(value);
    };
    if (const Status done = evaluateEach(expressions, *inputs, wide, keep, progress); !done)
        return done.error();
    return out;
}

/// Lets every piece learn that it should stop, while the share that is reported only rises.
class SharedProgress {
  public:
    explicit SharedProgress(const Progress& progress) : progress_(progress) {}
    bool stoppedAt(double share) {
        const std::lock_guard lock(mutex_);
        share_ = share;
        return progress_.stopped(share);
    }
    bool stopped() {
        const std::lock_guard lock(mutex_);
        return progress_.stopped(share_);
    }

  private:
    const Progress& progress_;
    std::mutex mutex_;
    double share_ = 0;
};

std::size_t pieceCount(TimeRange range, Duration length) {
    if (range.to <= range.from) return 0;
    return static_cast<std::size_t>((range.length() - kNanosecond) / length + 1);
}

TimeRange pieceAt(std::size_t i, TimeRange range, Duration length) {
    const Instant from = range.from + static_cast<std::int64_t>(i) * length;
    return {from, range.to - from > length ? from + length : range.to};
}

}  // namespace

PieceSpec piecesFor(std::span<const Expression> expressions, Duration spacing, Duration longestGap) {
    const Duration lookBack = longestLookBack(expressions);
    if (lookBack >= kAllBefore) return {};
    PieceSpec out;
    const Duration step = std::max(spacing, kNanosecond);
    out.margin = std::clamp(longestGap == kWithoutEnd ? Duration::zero() : longestGap,
                            std::min(100 * step, kDay), 30 * kDay);
    const auto bySamples = fromNanoseconds(kSamples * toNanoseconds(step));
    out.length = std::max({bySamples, 6 * lookBack, 20 * out.margin});
    return out;
}

Status evaluateEachInPieces(std::span<const Expression> expressions, TimeRange range, const PieceSpec& spec,
                            const InputsOver& inputsOf,
                            const std::function<void(TimeRange, std::vector<Value>)>& take, int ahead,
                            const Progress& progress) {
    if (spec.length <= Duration::zero()) {
        const auto inputs = inputsOf({range.from - longestLookBack(expressions), range.to});
        std::vector<Value> values(expressions.size());
        const Status done = evaluateEach(
            expressions, *inputs, range, [&](std::size_t i, Value v) { values[i] = std::move(v); }, progress);
        if (!done) return done.error();
        take(range, std::move(values));
        return Done{};
    }
    const std::size_t count = pieceCount(range, spec.length);
    const auto shareOf = [&](std::size_t i) { return static_cast<double>(i) / static_cast<double>(count); };
    SharedProgress shared(progress);
    Ahead<Result<std::vector<Value>>> values;
    for (std::size_t i = 0, begun = 0; i < count; ++i) {
        for (; begun < count && begun <= i + static_cast<std::size_t>(std::max(1, ahead)); ++begun)
            values.start([&, part = pieceAt(begun, range, spec.length)] {
                return evaluatePiece(expressions, part, range, spec.margin, inputsOf,
                                     [&](double) { return !shared.stopped(); });
            });
        Result<std::vector<Value>> value = values.take();
        if (!value) return value.error();
        take(pieceAt(i, range, spec.length), std::move(*value));
        if (shared.stoppedAt(shareOf(i + 1))) return Error::cancelled();
    }
    return Done{};
}

Status evaluateInPieces(const Expression& expression, TimeRange range, const PieceSpec& spec,
                        const InputsOver& inputsOf, const std::function<void(TimeRange, const Value&)>& take,
                        int ahead, const Progress& progress) {
    const auto takeOne = [&](TimeRange part, const std::vector<Value>& values) {
        take(part, values.front());
    };
    return evaluateEachInPieces({&expression, 1}, range, spec, inputsOf, takeOne, ahead, progress);
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
