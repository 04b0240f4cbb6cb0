#include "core/label/clock_match.h"

#include <cmath>

#include "core/series/value_at.h"

namespace jacinth {
namespace {

constexpr std::size_t kLeastPictures = 30;

/// NaN where there are too few pairs, or one side does not change.
double correlationAt(const std::vector<Instant>& times, const std::vector<double>& brightness,
                     const SeriesView& values, const Bridging& bridging, Duration offset) {
    ValueWalk walk(values, bridging);
    std::vector<std::pair<double, double>> pairs;
    double meanA = 0, meanB = 0;
    for (std::size_t i = 0; i < times.size(); ++i) {
        const double v = walk.at(times[i] + offset);
        if (!std::isfinite(v) || !std::isfinite(brightness[i])) continue;
        pairs.emplace_back(brightness[i], v);
        meanA += brightness[i];
        meanB += v;
    }
    if (pairs.size() < kLeastPictures) return std::nan("");
    meanA /= static_cast<double>(pairs.size());
    meanB /= static_cast<double>(pairs.size());
    double aa = 0, bb = 0, ab = 0;
    for (const auto& [a, b] : pairs) {
        aa += (a - meanA) * (a - meanA);
        bb += (b - meanB) * (b - meanB);
        ab += (a - meanA) * (b - meanB);
    }
    const double size = std::sqrt(aa * bb);
    return size > 0 ? ab / size : std::nan("");
}

}  // namespace

Result<ClockMatch> matchClock(const std::vector<Instant>& times, const std::vector<double>& brightness,
                              const SeriesView& values, const Bridging& bridging, Duration most,
                              Duration step) {
    std::vector<std::pair<Duration, double>> all;
    for (Duration offset = -most; offset <= most; offset += step)
        if (const double r = correlationAt(times, brightness, values, bridging, offset); std::isfinite(r))
            all.emplace_back(offset, r);
    if (all.empty())
        return Error{
            "the pictures and the tag have too little in common: too few pictures, or nothing changes"};
    ClockMatch best{all.front().first, all.front().second, 0};
    for (const auto& [offset, r] : all)
        if (std::abs(r) > std::abs(best.correlation)) best = {offset, r, 0};
    for (const auto& [offset, r] : all)
        if (std::chrono::abs(offset - best.offset) >= most / 10)
            best.elsewhere = std::max(best.elsewhere, std::abs(r));
    return best;
}

}  // namespace jacinth
