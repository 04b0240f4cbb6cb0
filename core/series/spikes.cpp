#include "core/series/spikes.h"

#include <algorithm>
#include <cmath>

#include "core/series/peaks.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::size_t kNearby = 256;
constexpr double kOutstanding = 15, kLeastSteps = 10;
constexpr int kSpacings = 3;
constexpr std::int64_t kLeastReach = 3, kMostReach = 100;  // samples of the running median on either side

/// Usable samples less the running median around them, and the noise of each stretch of what is left.
struct Residual {
    std::vector<Instant> times;
    std::vector<double> values, rest, noise;
    double resolution = 0;

    explicit Residual(const SeriesView& series) {
        for (std::size_t i = 0; i < series.size(); ++i)
            if (series.usable(i)) times.push_back(series.times[i]), values.push_back(series.values[i]);
        for (std::size_t i = 1; i < values.size(); ++i) {
            const double apart = std::abs(values[i] - values[i - 1]);
            if (apart > 0 && (resolution == 0 || apart < resolution)) resolution = apart;
        }
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
        std::vector<double> own;
        for (std::size_t from = 0; from < rest.size(); from += kNearby) {
            std::vector<double> part(
                rest.begin() + static_cast<std::ptrdiff_t>(from),
                rest.begin() + static_cast<std::ptrdiff_t>(std::min(rest.size(), from + kNearby)));
            for (double& v : part) v = std::abs(v);
            own.push_back(1.4826 * median(std::move(part)));
        }
        // The greater of the neighbours: where a quiet stretch meets a noisy one, noise is no spike.
        noise = own;
        for (std::size_t b = 0; b < own.size(); ++b) {
            if (b > 0) noise[b] = std::max(noise[b], own[b - 1]);
            if (b + 1 < own.size()) noise[b] = std::max(noise[b], own[b + 1]);
        }
    }
    double outstanding(std::size_t i) const {
        return std::max(kOutstanding * noise[i / kNearby], kLeastSteps * resolution);
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
    const SeriesView rest{usable.times, usable.rest, {}};
    std::vector<Spike> out;
    for (const bool down : {false, true}) {
        peaks.troughs = down;
        for (const Peak& p : findPeaks(rest, peaks)) {
            const bool stands = down ? usable.rest[p.index] < 0 : usable.rest[p.index] > 0;
            const double size = std::min(p.prominence, std::abs(usable.rest[p.index]));
            if (!stands || size < search.prominence.value_or(usable.outstanding(p.index))) continue;
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
