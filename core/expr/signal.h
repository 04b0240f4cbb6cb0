// Numbers and conditions over time, as the language computes with them.
#pragma once

#include <functional>
#include <span>
#include <string>
#include <vector>

#include "core/base/shared_vector.h"
#include "core/series/series.h"
#include "core/span/span.h"

namespace jacinth {

/// A number over time, by its knots. Continuous: linear between knots; stepped: the earlier knot holds.
/// A knot of NaN begins a stretch without value, and a line to or from NaN is not a value. Nothing before the
/// first knot. After the last: nothing for continuous, held for stepped.
struct Signal {
    bool stepped = false;
    bool constant = false;        ///< one value at all times: no knots, `values[0]`
    SharedVector<Instant> times;  ///< shared with the signals it was copied from
    SharedVector<double> values;
    std::vector<std::string> states;  ///< names by code, for a state tag
    Instant begins = kNoInstant;      ///< no record before this; a window that reaches before it is not full
    /// Times of samples, without knots that only mark gaps, are where values are finite.
};
/// The knots of a signal as plain arrays, for loops over them. Lasts as long as the signal is not edited.
struct KnotsView {
    std::span<const Instant> times;
    std::span<const double> values;
    bool stepped;
    explicit KnotsView(const Signal& s) : times(s.times.get()), values(s.values.get()), stepped(s.stepped) {}
};

Signal constantSignal(double value);

/// The signal of a tag: bad samples left out, gaps longer than the bridging allows marked, and where it
/// ends by a sample that says so.
Signal signalOf(const SeriesView& series, const Bridging& bridging, Instant begins);
Signal signalOf(Series series, const Bridging& bridging, Instant begins);  ///< without a copy, mostly

/// Applies `f` to both at the union of their knots. Results that are not numbers are missing.
Signal combine(Signal a, Signal b, const std::function<double(double, double)>& f);
/// The same for the operators, each with a loop of its own.
enum class Operator { Add, Subtract, Multiply, Divide };
Signal combine(Signal a, Signal b, Operator by);
Signal transform(Signal a, const std::function<double(double)>& f);

/// x with knots at these times too, where its line or held value goes on. A knot before the first has no
/// value.
Signal withKnots(Signal x, const std::vector<Instant>& times);

/// Value at t by the signal's own reading (see Signal).
double signalAt(const Signal& s, Instant t);

enum class Truth : std::uint8_t { False = 0, True = 1, Unknown = 2 };

/// A condition over time: `values[i]` from times[i] until times[i + 1]; the last lasts on. Unknown before the
/// first.
struct Condition {
    std::vector<Instant> times;
    std::vector<Truth> values;
    void push(Instant t, Truth v);  ///< leaves out what changes nothing
};

/// The truth at t, by bisection.
Truth conditionAt(const Condition& c, Instant t);

enum class Comparison { Less, LessEqual, Greater, GreaterEqual, Equal, NotEqual };

/// The other way round: 3 < x is x > 3.
Comparison mirrored(Comparison comparison);

/// The least and greatest value of every 64 knots and the one after them: says at once that a level is not
/// crossed there, so that comparing with many levels costs little more than with one.
class BlockExtremes {
  public:
    static constexpr std::size_t kKnots = 64;
    explicit BlockExtremes(const Signal& x);
    /// Do the values of this block lie on one side of the level, with none missing?
    bool onOneSide(std::size_t block, double level) const {
        return least_[block] > level || greatest_[block] < level;
    }

  private:
    std::vector<double> least_, greatest_;  ///< NaN where a value is missing
};

/// Where a continuous signal crosses the level the condition changes exactly, to the nanosecond. `extremes`
/// of the same signal, where they are there.
Condition compareWithLevel(const Signal& x, double level, Comparison comparison,
                           const BlockExtremes* extremes = nullptr);
/// Compares `difference` = left − right with 0.
inline Condition compareWithZero(const Signal& difference, Comparison comparison) {
    return compareWithLevel(difference, 0, comparison);
}
/// Is the state's code one of `codes`?
Condition isOneOf(const Signal& states, const std::vector<int>& codes);

Condition operator!(const Condition& c);
Condition both(const Condition& a, const Condition& b);    ///< Kleene's and
Condition either(const Condition& a, const Condition& b);  ///< Kleene's or
/// True from the moment c has been true for d without a break.
Condition lasting(const Condition& c, Duration d);

/// Where it is true (or `wanted`), clipped to `range`.
std::vector<TimeRange> stretches(const Condition& c, TimeRange range, Truth wanted = Truth::True);

}  // namespace jacinth
