#include "core/golden/golden_limits.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cassert>
#include <limits>
#include <numeric>

#include "core/base/missing.h"
#include "core/series/value_at.h"
#include "core/stats/distributions.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kMadToSd = 1.4826;  // MAD of a normal distribution is 1/1.4826 of its standard deviation
constexpr std::array<std::pair<LimitMethod, const char*>, 5> kMethods{{{LimitMethod::MeanSd, "mean-sd"},
                                                                       {LimitMethod::Tolerance, "tolerance"},
                                                                       {LimitMethod::MedianMad, "median-mad"},
                                                                       {LimitMethod::Quantile, "quantile"},
                                                                       {LimitMethod::Envelope, "envelope"}}};

/// The slice at or before a distance from the scale's zero.
std::int64_t sliceAtOrBefore(Duration distance, Duration every) {
    return distance / every - (distance % every < Duration::zero() ? 1 : 0);
}

/// Rising values, with one of them left out where `without` is given. Every look is one comparison: what is
/// left out lies at or before a place, or behind it.
class LeftOut {
  public:
    LeftOut(const std::vector<double>& sorted, const double* without)
        : sorted_(sorted), without_(without), size_(sorted.size() - (without ? 1 : 0)) {}
    std::size_t size() const { return size_; }
    double operator[](std::size_t i) const {
        return sorted_[without_ && *without_ <= sorted_[i] ? i + 1 : i];
    }
    double quantile(double q) const {
        const double place = q * static_cast<double>(size_ - 1);
        const auto below = static_cast<std::size_t>(place);
        const double share = place - static_cast<double>(below);
        const double at = (*this)[below];
        return share > 0 ? at + share * ((*this)[below + 1] - at) : at;
    }

  private:
    const std::vector<double>& sorted_;
    const double* without_;
    std::size_t size_;
};

/// The k-th smallest distance from `centre`, from 0: two rising rows of distances, one on either side, merged
/// by bisection.
double kthDistance(const std::vector<double>& sorted, std::size_t k, double centre) {
    const auto left =
        static_cast<std::size_t>(std::upper_bound(sorted.begin(), sorted.end(), centre) - sorted.begin());
    const auto below = [&](std::size_t i) { return centre - sorted[left - 1 - i]; };
    const auto above = [&](std::size_t i) { return sorted[left + i] - centre; };
    const std::size_t right = sorted.size() - left;
    std::size_t low = k + 1 > right ? k + 1 - right : 0, high = std::min(left, k + 1);
    while (low < high) {  // how many of the k + 1 smallest lie below
        const std::size_t i = (low + high) / 2;
        if (below(i) < above(k - i))
            low = i + 1;
        else
            high = i;
    }
    double out = 0;
    if (low > 0) out = below(low - 1);
    if (low < k + 1) out = std::max(out, above(k - low));
    return out;
}

/// Each slice takes the widest limits within `reach` slices on both sides.
void widen(std::vector<LimitSlice>& slices, std::size_t reach) {
    const std::vector<LimitSlice> raw = slices;
    for (std::size_t i = 0; i < raw.size(); ++i) {
        if (!std::isfinite(raw[i].low)) continue;
        const std::size_t end = std::min(raw.size(), i + reach + 1);
        for (std::size_t j = i > reach ? i - reach : 0; j < end; ++j) {
            if (!std::isfinite(raw[j].low)) continue;
            slices[i].low = std::min(slices[i].low, raw[j].low);
            slices[i].high = std::max(slices[i].high, raw[j].high);
        }
    }
}

/// Centred means over `width` slices; narrower towards the ends of a stretch of limits, so that its ends stay
/// where they are.
void smooth(std::vector<LimitSlice>& slices, int width) {
    const auto reach = static_cast<std::size_t>(width / 2);
    const std::vector<LimitSlice> raw = slices;
    std::size_t begin = 0;
    while (begin < raw.size()) {
        if (!std::isfinite(raw[begin].low)) {
            ++begin;
            continue;
        }
        std::size_t end = begin;
        while (end < raw.size() && std::isfinite(raw[end].low)) ++end;
        for (std::size_t i = begin; i < end; ++i) {
            const std::size_t w = std::min({reach, i - begin, end - 1 - i});
            double low = 0, centre = 0, high = 0;
            for (std::size_t j = i - w; j <= i + w; ++j)
                low += raw[j].low, centre += raw[j].centre, high += raw[j].high;
            const auto n = static_cast<double>(2 * w + 1);
            slices[i].low = low / n, slices[i].centre = centre / n, slices[i].high = high / n;
        }
        begin = end;
    }
}

}  // namespace

Result<LimitMethod> limitMethodNamed(const std::string& name) {
    for (const auto& [method, known] : kMethods)
        if (name == known) return method;
    return Error{
        fmt::format("`{}` is not a method; mean-sd, tolerance, median-mad, quantile and envelope are", name)};
}

const char* limitMethodName(LimitMethod method) {
    for (const auto& [m, name] : kMethods)
        if (m == method) return name;
    return "";
}

double AlignedRun::at(std::int64_t slice) const {
    const std::int64_t i = slice - first;
    return i >= 0 && i < static_cast<std::int64_t>(values.size()) ? values[static_cast<std::size_t>(i)]
                                                                  : kMissing;
}

AlignedRun alignRun(const SeriesView& series, const Bridging& bridging, SpanId run, const RunScale& scale,
                    Duration every) {
    AlignedRun out{run, {}, 0};
    if (scale.empty()) return out;
    out.first = -sliceAtOrBefore(-scale.firstPlace().time_since_epoch(), every);  // rounded up
    const std::int64_t last = sliceAtOrBefore(scale.lastPlace().time_since_epoch(), every);
    ValueWalk walk(series, bridging);
    for (std::int64_t i = out.first; i <= last; ++i) {
        const auto t = scale.timeOf(Place(i * every));
        out.values.push_back(t ? walk.at(*t) : kMissing);
    }
    return out;
}

GoldenLimits widenedBy(GoldenLimits limits, double factor) {
    for (LimitSlice& s : limits.slices) {
        s.low = s.centre - factor * (s.centre - s.low);
        s.high = s.centre + factor * (s.high - s.centre);
    }
    limits.widened *= factor;
    return limits;
}

GoldenStack::GoldenStack(const LimitSpec& spec, std::span<const AlignedRun> golden, double widened)
    : spec_(spec), widened_(widened) {
    std::int64_t first = std::numeric_limits<std::int64_t>::max(), end = -first;
    for (const AlignedRun& r : golden) {
        if (r.values.empty()) continue;
        first = std::min(first, r.first);
        end = std::max(end, r.first + static_cast<std::int64_t>(r.values.size()));
    }
    if (first >= end) return;
    first_ = first;
    columns_.resize(static_cast<std::size_t>(end - first));
    for (const AlignedRun& r : golden)
        for (std::size_t i = 0; i < r.values.size(); ++i)
            if (std::isfinite(r.values[i]))
                columns_[static_cast<std::size_t>(r.first - first) + i].sorted.push_back(r.values[i]);
    for (Column& c : columns_) {
        c.mean = mean(c.sorted);
        for (const double v : c.sorted) c.squares += (v - c.mean) * (v - c.mean);
        std::sort(c.sorted.begin(), c.sorted.end());
        if (spec.method == LimitMethod::MedianMad && c.sorted.size() > 1)
            c.deviations = deviationsOf(c.sorted);
    }
    factors_.assign(golden.size() + 1, spec.k);
    if (spec.method != LimitMethod::Tolerance) return;
    std::fill(factors_.begin(), factors_.end(), kMissing);
    for (const Column& c : columns_)
        for (const std::size_t n : {c.sorted.size(), c.sorted.size() - 1})  // of all, and without one
            if (n >= 2 && n < factors_.size() && std::isnan(factors_[n]))
                factors_[n] = toleranceFactor(static_cast<int>(n), spec.coverage, spec.confidence);
}

GoldenStack::Deviations GoldenStack::deviationsOf(const std::vector<double>& sorted) {
    const std::size_t n = sorted.size();
    // All medians that there are without one: without one of the lower half, of the upper half, the middle.
    const std::array<double, 3> left{sorted.front(), sorted.back(), sorted[n / 2]};
    Deviations out;
    for (std::size_t c = 0; c < left.size(); ++c) {
        out[c].centre = LeftOut(sorted, &left[c]).quantile(0.5);
        const std::size_t middle = (n - 1) / 2;
        for (std::size_t k = 0; k < 3; ++k)
            if (middle + k >= 1 && middle + k - 1 < n)
                out[c].near[k] = kthDistance(sorted, middle + k - 1, out[c].centre);
    }
    return out;
}

/// The median distance from the centre. Without one value it lies beside the middle of all distances, on the
/// side that the lost distance leaves.
double GoldenStack::medianDistance(const Column& column, double centre, const double* without) {
    const std::size_t n = column.sorted.size() - (without ? 1 : 0), middle = n / 2;
    const auto halfWay = [n](double lower, double upper) { return n % 2 ? upper : (lower + upper) / 2; };
    if (!without)
        return halfWay(middle > 0 ? kthDistance(column.sorted, middle - 1, centre) : 0,
                       kthDistance(column.sorted, middle, centre));
    const auto found = std::find_if(column.deviations.begin(), column.deviations.end(),
                                    [&](const Deviation& d) { return d.centre == centre; });
    assert(found != column.deviations.end());
    const double lost = std::abs(*without - centre);
    const auto left = [&](std::size_t k) { return found->near[lost <= found->near[k] ? k + 1 : k]; };
    return halfWay(left(0), left(1));
}

LimitSlice GoldenStack::sliceOf(const Column& column, Place offset, const double* without) const {
    const std::size_t n = column.sorted.size() - (without ? 1 : 0);
    LimitSlice out{offset, static_cast<int>(n), kMissing, kMissing, kMissing};
    if (out.n < spec_.leastRuns || n == 0) return out;
    if (spec_.method == LimitMethod::MeanSd || spec_.method == LimitMethod::Tolerance) {
        if (n < 2) return out;
        double squares = column.squares;
        out.centre = column.mean;
        if (without) {
            out.centre += (column.mean - *without) / static_cast<double>(n);
            squares = std::max(0.0, squares - (*without - column.mean) * (*without - out.centre));
        }
        const double half = factors_[n] * std::sqrt(squares / static_cast<double>(n - 1));
        out.low = out.centre - half;
        out.high = out.centre + half;
        return out;
    }
    const LeftOut x(column.sorted, without);
    out.centre = x.quantile(0.5);
    if (spec_.method == LimitMethod::MedianMad) {
        const double half = spec_.k * kMadToSd * medianDistance(column, out.centre, without);
        out.low = out.centre - half;
        out.high = out.centre + half;
        return out;
    }
    const double q = spec_.method == LimitMethod::Envelope ? 0 : spec_.q;
    out.low = x.quantile(q);
    out.high = x.quantile(1 - q);
    return out;
}

GoldenLimits GoldenStack::build(const AlignedRun* without) const {
    GoldenLimits out{spec_, {}, {}};
    out.slices.reserve(columns_.size());
    for (std::size_t i = 0; i < columns_.size(); ++i) {
        const std::int64_t slice = first_ + static_cast<std::int64_t>(i);
        const double own = without ? without->at(slice) : kMissing;
        out.slices.push_back(
            sliceOf(columns_[i], Place(slice * spec_.every), std::isfinite(own) ? &own : nullptr));
    }
    if (spec_.slack >= spec_.every) widen(out.slices, static_cast<std::size_t>(spec_.slack / spec_.every));
    if (spec_.smooth > 1) smooth(out.slices, spec_.smooth);
    return widened_ == 1 ? out : widenedBy(std::move(out), widened_);
}

GoldenLimits GoldenStack::limits() const {
    return build(nullptr);
}

GoldenLimits GoldenStack::without(const AlignedRun& run) const {
    return build(&run);
}

double GoldenStack::shareBelow(std::int64_t slice, double value) const {
    const std::int64_t i = slice - first_;
    if (i < 0 || i >= static_cast<std::int64_t>(columns_.size()) || !std::isfinite(value)) return kMissing;
    const auto& x = columns_[static_cast<std::size_t>(i)].sorted;
    if (x.empty()) return kMissing;
    const auto [low, high] = std::equal_range(x.begin(), x.end(), value);
    const auto below = static_cast<double>(low - x.begin()), ties = static_cast<double>(high - low);
    return (below + ties / 2) / static_cast<double>(x.size());
}

GoldenLimits buildLimits(const LimitSpec& spec, std::span<const AlignedRun> golden) {
    return GoldenStack(spec, golden).limits();
}

GoldenLimits buildLimitsWithout(const LimitSpec& spec, std::span<const AlignedRun> golden, SpanId without) {
    const GoldenStack stack(spec, golden);
    for (const AlignedRun& r : golden)
        if (r.run == without) return stack.without(r);
    return stack.limits();
}

LimitsAt limitsAt(const GoldenLimits& limits, Place place) {
    const auto& s = limits.slices;
    if (s.empty() || place < s.front().offset || place > s.back().offset)
        return {kMissing, kMissing, kMissing};
    const Duration from = place - s.front().offset;
    const auto i = static_cast<std::size_t>(from / limits.spec.every);
    const Duration into = from % limits.spec.every;
    if (into == Duration::zero()) return {s[i].low, s[i].centre, s[i].high};
    const double f = toNanoseconds(into) / toNanoseconds(limits.spec.every);
    const auto mix = [f](double a, double b) { return a + f * (b - a); };
    return {mix(s[i].low, s[i + 1].low), mix(s[i].centre, s[i + 1].centre), mix(s[i].high, s[i + 1].high)};
}

std::vector<LimitMoment> limitsInTime(const GoldenLimits& limits, const RunScale& scale) {
    std::vector<LimitMoment> out;
    const auto knot = [&](Instant t) {
        if (!out.empty() && t <= out.back().time) return;
        if (const auto place = scale.placeOf(t)) out.push_back({t, limitsAt(limits, *place)});
    };
    auto slice = limits.slices.begin();
    for (std::size_t i = 0; i < scale.pieces().size(); ++i) {
        const RunScale::Piece& p = scale.pieces()[i];
        knot(p.time.from);
        while (slice != limits.slices.end() && slice->offset < p.from) ++slice;
        // Where a phase is missing the limits jump at the next piece's start: the last moment before it.
        const bool jump = i + 1 < scale.pieces().size() && scale.pieces()[i + 1].from != p.to;
        const Instant last = p.time.to - (jump ? kNanosecond : Duration::zero());
        for (; slice != limits.slices.end() && slice->offset <= p.to; ++slice)
            if (const auto t = scale.timeOf(slice->offset)) knot(std::min(*t, last));
        knot(last);
        knot(p.time.to);
    }
    return out;
}

}  // namespace jacinth
