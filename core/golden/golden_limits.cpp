#include "core/golden/golden_limits.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <limits>

#include "core/series/value_at.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr double kMissing = std::numeric_limits<double>::quiet_NaN();
constexpr double kMadToSd = 1.4826;  // MAD of a normal distribution is 1/1.4826 of its standard deviation
constexpr std::array<std::pair<LimitMethod, const char*>, 4> kMethods{{{LimitMethod::MeanSd, "mean-sd"},
                                                                       {LimitMethod::MedianMad, "median-mad"},
                                                                       {LimitMethod::Quantile, "quantile"},
                                                                       {LimitMethod::Envelope, "envelope"}}};

LimitSlice sliceOf(const LimitSpec& spec, Duration offset, std::vector<double> x) {
    LimitSlice out{offset, static_cast<int>(x.size()), kMissing, kMissing, kMissing};
    if (out.n < spec.leastRuns || out.n == 0) return out;
    switch (spec.method) {
        case LimitMethod::MeanSd: {
            const double half = spec.k * standardDeviation(x);
            out.centre = mean(x);
            out.low = out.centre - half;
            out.high = out.centre + half;
            break;
        }
        case LimitMethod::MedianMad: {
            const double half = spec.k * kMadToSd * medianAbsoluteDeviation(x);
            out.centre = median(x);
            out.low = out.centre - half;
            out.high = out.centre + half;
            break;
        }
        case LimitMethod::Quantile:
        case LimitMethod::Envelope: {
            const double q = spec.method == LimitMethod::Envelope ? 0 : spec.q;
            std::sort(x.begin(), x.end());
            out.low = quantileOfSorted(x, q);
            out.centre = quantileOfSorted(x, 0.5);
            out.high = quantileOfSorted(x, 1 - q);
            break;
        }
    }
    return out;
}

}  // namespace

Result<LimitMethod> limitMethodNamed(const std::string& name) {
    for (const auto& [method, known] : kMethods)
        if (name == known) return method;
    return Error{fmt::format("`{}` is no method; mean-sd, median-mad, quantile and envelope are", name)};
}

const char* limitMethodName(LimitMethod method) {
    for (const auto& [m, name] : kMethods)
        if (m == method) return name;
    return "";
}

Result<LineUp> lineUpNamed(const std::string& name) {
    if (name == "start") return LineUp::Start;
    if (name == "end") return LineUp::End;
    return Error{fmt::format("`{}` is no way to line up runs; start and end are", name)};
}

const char* lineUpName(LineUp lineUp) {
    return lineUp == LineUp::Start ? "start" : "end";
}

AlignedRun alignRun(const SeriesView& series, const Bridging& bridging, const Span& run,
                    const LimitSpec& spec) {
    AlignedRun out{run.id, {}};
    const Duration length = run.end - run.start;
    for (Duration offset = 0; offset <= length; offset += spec.every) {
        const Instant t = spec.lineUp == LineUp::Start ? run.start + offset : run.end - offset;
        out.values.push_back(valueAt(series, bridging, t));
    }
    return out;
}

GoldenLimits buildLimitsWithout(const LimitSpec& spec, std::span<const AlignedRun> golden,
                                std::int64_t without) {
    std::size_t longest = 0;
    for (const AlignedRun& r : golden)
        if (r.run != without) longest = std::max(longest, r.values.size());
    GoldenLimits out{spec, {}};
    out.slices.reserve(longest);
    std::vector<double> x;
    for (std::size_t i = 0; i < longest; ++i) {
        x.clear();
        for (const AlignedRun& r : golden)
            if (r.run != without && i < r.values.size() && std::isfinite(r.values[i]))
                x.push_back(r.values[i]);
        out.slices.push_back(sliceOf(spec, static_cast<Duration>(i) * spec.every, x));
    }
    return out;
}

GoldenLimits buildLimits(const LimitSpec& spec, std::span<const AlignedRun> golden) {
    return buildLimitsWithout(spec, golden, std::numeric_limits<std::int64_t>::min());
}

LimitsAt limitsAt(const GoldenLimits& limits, Duration offset) {
    const auto& s = limits.slices;
    if (offset < 0 || s.empty()) return {kMissing, kMissing, kMissing};
    const auto i = static_cast<std::size_t>(offset / limits.spec.every);
    const Duration into = offset % limits.spec.every;
    if (i >= s.size() || (into > 0 && i + 1 >= s.size())) return {kMissing, kMissing, kMissing};
    if (into == 0) return {s[i].low, s[i].centre, s[i].high};
    const double f = static_cast<double>(into) / static_cast<double>(limits.spec.every);
    const auto mix = [f](double a, double b) { return a + f * (b - a); };
    return {mix(s[i].low, s[i + 1].low), mix(s[i].centre, s[i + 1].centre), mix(s[i].high, s[i + 1].high)};
}

}  // namespace jacinth
