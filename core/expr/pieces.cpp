#include "core/expr/pieces.h"

#include <algorithm>
#include <condition_variable>
#include <map>
#include <mutex>
#include <thread>

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

/// Threads that evaluate piece after piece, a few ahead of what is taken. They stay for all pieces: what
/// memory they have they use again.
class Workers {
  public:
    using InputsOf = std::function<std::unique_ptr<Inputs>(TimeRange)>;
    Workers(const Expression& expression, TimeRange range, const PieceSpec& spec, const InputsOf& inputsOf,
            int threads)
        : expression_(expression),
          range_(range),
          spec_(spec),
          inputsOf_(inputsOf),
          ahead_(static_cast<std::size_t>(threads)) {
        for (int i = 0; i < threads; ++i) threads_.emplace_back([this] { run(); });
    }
    ~Workers() {
        {
            const std::lock_guard lock(mutex_);
            ending_ = true;
        }
        changed_.notify_all();
        for (std::thread& t : threads_) t.join();
    }
    std::size_t count() const {
        return range_.to <= range_.from ? 0
                                        : static_cast<std::size_t>((range_.length() - 1) / spec_.length + 1);
    }
    TimeRange partOf(std::size_t i) const {
        const Instant from = range_.from + static_cast<Duration>(i) * spec_.length;
        return {from, range_.to - from > spec_.length ? from + spec_.length : range_.to};
    }
    /// Waits for the piece; each once, in order. What a worker throws is thrown here.
    Result<Value> await(std::size_t i) {
        std::unique_lock lock(mutex_);
        taken_ = i;
        changed_.notify_all();
        changed_.wait(lock, [&] { return made_.contains(i) || failed_; });
        if (failed_) std::rethrow_exception(failed_);
        Result<Value> out = std::move(made_.at(i));
        made_.erase(i);
        return out;
    }

  private:
    void run() {
        while (true) {
            std::size_t i = 0;
            {
                std::unique_lock lock(mutex_);
                changed_.wait(lock, [&] { return ending_ || next_ >= count() || next_ <= taken_ + ahead_; });
                if (ending_ || next_ >= count()) return;
                i = next_++;
            }
            try {
                Result<Value> value = evaluatePiece(expression_, partOf(i), range_, spec_.margin, inputsOf_);
                const std::lock_guard lock(mutex_);
                made_.emplace(i, std::move(value));
            } catch (...) {
                const std::lock_guard lock(mutex_);
                failed_ = std::current_exception();
                ending_ = true;
            }
            changed_.notify_all();
        }
    }

    const Expression& expression_;
    TimeRange range_;
    const PieceSpec& spec_;
    const InputsOf& inputsOf_;
    std::size_t ahead_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::map<std::size_t, Result<Value>> made_;
    std::size_t next_ = 0, taken_ = 0;
    bool ending_ = false;
    std::exception_ptr failed_;
    std::vector<std::thread> threads_;
};

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
                        const Progress& progress) {
    if (spec.length <= 0) {
        const auto inputs = inputsOf({range.from - expression.lookBack, range.to});
        const auto value = evaluate(expression, *inputs, range, progress);
        if (!value) return value.error();
        take(range, *value);
        return Done{};
    }
    Workers workers(expression, range, spec, inputsOf, std::max(1, threads));
    for (std::size_t i = 0; i < workers.count(); ++i) {
        const TimeRange part = workers.partOf(i);
        const Result<Value> value = workers.await(i);
        if (!value) return value.error();
        take(part, *value);
        const double share = static_cast<double>(part.to - range.from) / static_cast<double>(range.length());
        if (progress.stopped(share)) return Error::cancelled();
    }
    return Done{};
}

void appendPiece(Value& whole, TimeRange range, const Value& piece) {
    if (auto* signal = std::get_if<Signal>(&whole)) {
        const Signal& more = std::get<Signal>(piece);
        if (more.constant || signal->constant) return;
        // The knot beyond the end of what there is comes again in its own piece.
        std::vector<Instant>& times = signal->times.edit();
        std::vector<double>& values = signal->values.edit();
        while (!times.empty() && times.back() >= range.from) {
            times.pop_back();
            values.pop_back();
        }
        // What was known has ended where the next piece begins without a value.
        if (!times.empty() && std::isfinite(values.back()) && std::isnan(signalAt(more, range.from))) {
            times.push_back(signal->stepped ? range.from : times.back() + 1);
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
