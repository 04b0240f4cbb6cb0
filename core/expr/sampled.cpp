#include "core/expr/sampled.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "core/base/missing.h"

namespace jacinth {
namespace {

double numberOf(Truth t) {
    return t == Truth::Unknown ? kMissing : t == Truth::True ? 1.0 : 0.0;
}

}  // namespace

void Sampler::fill(Instant end) {
    const Duration length = end - last_;
    if (longestGap_ <= Duration::zero() || length <= longestGap_) return;
    const std::int64_t steps = (length - kNanosecond) / longestGap_ + 1;
    for (std::int64_t k = 1; k < steps; ++k) {
        const double share = static_cast<double>(k) / static_cast<double>(steps);
        const Instant t = last_ + fromNanoseconds(share * toNanoseconds(length));
        const double on = toNanoseconds(t - last_) / toNanoseconds(length);
        out_.push(t, stepped_ ? lastValue_ : lastValue_ + on * (target_ - lastValue_));
    }
}

void Sampler::knot(Instant t, double v) {
    const bool known = std::isfinite(v);
    if (!known && !open_) return;
    begun_ = true;
    if (open_) {
        target_ = v;
        // A line to where nothing is known is none; a held value is held until there.
        if (known || stepped_) fill(t);
    }
    if (known)
        out_.push(t, v);
    else
        out_.push(t, kMissing, Quality::Missing);
    open_ = known;
    last_ = t;
    lastValue_ = v;
}

void Sampler::add(TimeRange part, const Value& value) {
    if (const Condition* c = std::get_if<Condition>(&value)) {
        stepped_ = true;
        for (std::size_t i = 0; i < c->times.size(); ++i) {
            const Instant t = std::max(c->times[i], part.from);
            if (t >= part.to) break;
            // Pieces begin with the truth as it stands, which is not a change.
            if (i + 1 < c->times.size() && c->times[i + 1] <= t) continue;
            const double v = numberOf(c->values[i]);
            if (open_ && v == lastValue_) continue;
            knot(t, v);
        }
        return;
    }
    const Signal& s = std::get<Signal>(value);
    if (s.constant) return;
    stepped_ = s.stepped;
    // What was known has ended where the next piece begins without a value.
    if (open_ && std::isnan(signalAt(s, part.from)))
        knot(stepped_ ? part.from : last_ + kNanosecond, kMissing);
    for (std::size_t i = 0; i < s.times.size() && s.times[i] < part.to; ++i)
        if (begun_ ? s.times[i] > last_ : s.times[i] >= part.from) knot(s.times[i], s.values[i]);
}

void Sampler::finish(Instant end) {
    if (open_ && stepped_) fill(end);
    open_ = false;
}

Series Sampler::take() {
    return std::exchange(out_, {});
}

}  // namespace jacinth
