#include "core/series/spikes.h"

#include <algorithm>
#include <cmath>

#include "core/series/noise.h"
#include "core/series/peaks.h"

namespace jacinth {
namespace {

constexpr double kOutstanding = 15, kLeastSteps = 10;
constexpr int kSpacings = 3;
constexpr std::int64_t kLeastReach = 3, kMostReach = 100;  // samples of the running median on either side

/// Usable samples less the running median around them.
struct Residual {
    std::vector<Instant> times;
    std::vector<double> values, rest;
    double resolution = 0;

    explicit Residual(const SeriesView& series) : resolution(resolutionOf(series)) {
        for (std::size_t i = 0; i < series.size(); ++i)
            if (series.usable(i)) times.push_back(series.times[i]), values.push_back(series.values[i]);
    }
    /// `reach` samples on either side.
    void lessMedian(std::size_t reach) {
        rest.resize(values.size());
        std::vector<double> around;
        for (std::size_t i = 0; i < values.size(); ++i) {
            const std::size_t from = i > reach ? i - reach : 0, to = std::min(values.size(), i + reach + 1);
            around.assign(values.begin() + static_cast<std::ptrdiff_t>(from),
                          values.begin() + static_cast<std::ptrdiff_t>(to));
            const auto middle = around.begin() + static_cast<std::ptrdiff_t>(around.size() / 2);
            std::nth_element(around.begin(), middle, around.end());
            rest[i] = values[i] - *middle;
        }
    }
};

}  // namespace

std::vector<Spike> findSpikes(const SeriesView& series, const SpikeSearch& search) {
    Residual usable(series);
    if (usable.values.size() < 3 || usable.resolution == 0) return {};
    const Duration spacing = std::max<Duration>(medianSpacing(usable.times), kNanosecond);
    PeakSearch peaks;
    peaks.greatestWidth = search.width.value_or(kSpacings * spacing);
    peaks.leastProminence = search.prominence.value_or(kLeastSteps * usable.resolution);
    usable.lessMedian(static_cast<std::size_t>(
        std::clamp<std::int64_t>(peaks.greatestWidth / spacing + 1, kLeastReach, kMostReach)));
    const NearbyNoise noise(usable.rest);
    const SeriesView rest{usable.times, usable.rest, {}};
    std::vector<Spike> out;
    for (const bool down : {false, true}) {
        peaks.troughs = down;
        for (const Peak& p : findPeaks(rest, peaks)) {
            const bool stands = down ? usable.rest[p.index] < 0 : usable.rest[p.index] > 0;
            const double size = std::min(p.prominence, std::abs(usable.rest[p.index]));
            if (!stands || size < search.prominence.value_or(std::max(kOutstanding * noise.at(p.index),
                                                                      kLeastSteps * usable.resolution)))
                continue;
            std::size_t first = p.index, last = p.index;
            while (first > 0 && usable.times[first - 1] >= p.left) --first;
            while (last + 1 < usable.times.size() && usable.times[last + 1] <= p.right) ++last;
            out.push_back(
                {usable.times[first], usable.times[last], p.time, usable.values[p.index], size, down});
        }
    }
    std::sort(out.begin(), out.end(), [](const Spike& a, const Spike& b) { return a.peak < b.peak; });
    return out;
}

}  // namespace jacinth
