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

struct Piece {
    const InPieces* of;
    TimeRange range;
};

/// The piece is evaluated with a margin on both sides: where a range begins, what is held and what is known
/// begins with it.
Result<std::vector<Value>> evaluatePiece(const Piece& piece, TimeRange all, const Progress& progress) {
    const auto& [expressions, spec, inputsOf, take] = *piece.of;
    const bool whole = spec.length <= Duration::zero();
    const Duration margin = whole ? Duration::zero() : spec.margin;
    const TimeRange wide{std::max(all.from, piece.range.from - margin),
                         std::min(all.to, piece.range.to + margin)};
    const auto inputs = inputsOf({wide.from - longestLookBack(expressions) - margin, wide.to + margin});
    std::vector<Value> out(expressions.size());
    const auto keep = [&](std::size_t i, Value value) {
        if (!whole) std::visit([&](auto& v) { cut(v, piece.range); }, value);
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

void cutInPieces(const InPieces& work, TimeRange range, std::vector<Piece>& out) {
    const Duration length = work.spec.length > Duration::zero() ? work.spec.length : range.length();
    for (Instant from = range.from; from < range.to;) {
        const Instant to = range.to - from > length ? from + length : range.to;
        out.push_back({&work, {from, to}});
        from = to;
    }
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

Status evaluateEachInPieces(std::span<const InPieces> works, TimeRange range, int ahead,
                            const Progress& progress) {
    std::vector<Piece> pieces;
    for (const InPieces& work : works) cutInPieces(work, range, pieces);
    const auto all = static_cast<double>(pieces.size());
    SharedProgress shared(progress);
    Ahead<Result<std::vector<Value>>> values;
    for (std::size_t i = 0, begun = 0; i < pieces.size(); ++i) {
        for (; begun < pieces.size() && begun <= i + static_cast<std::size_t>(std::max(1, ahead)); ++begun)
            values.start([&, piece = pieces[begun]] {
                return evaluatePiece(piece, range, [&](double) { return !shared.stopped(); });
            });
        Result<std::vector<Value>> value = values.take();
        if (!value) return value.error();
        pieces[i].of->take(pieces[i].range, std::move(*value));
        if (shared.stoppedAt(static_cast<double>(i + 1) / all)) return Error::cancelled();
    }
    return Done{};
}

Status evaluateInPieces(const Expression& expression, TimeRange range, const PieceSpec& spec,
                        const InputsOver& inputsOf, const std::function<void(TimeRange, const Value&)>& take,
                        int ahead, const Progress& progress) {
    const InPieces work{
        {&expression, 1}, spec, inputsOf, [&](TimeRange part, const std::vector<Value>& values) {
            take(part, values.front());
        }};
    return evaluateEachInPieces({&work, 1}, range, ahead, progress);
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
