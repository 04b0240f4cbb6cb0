#include "core/series/peaks.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <span>

namespace jacinth {
namespace {

/// Usable samples, turned over for troughs.
struct Samples {
    std::vector<Instant> times;
    std::vector<double> x;
};

Samples usableOf(const SeriesView& series, bool troughs) {
    Samples out;
    for (std::size_t i = 0; i < series.size(); ++i) {
        if (!series.usable(i)) continue;
        out.times.push_back(series.times[i]);
        out.x.push_back(troughs ? -series.values[i] : series.values[i]);
    }
    return out;
}

std::vector<std::size_t> localMaxima(const std::vector<double>& x) {
    std::vector<std::size_t> out;
    for (std::size_t i = 1; i + 1 < x.size(); ++i) {
        if (!(x[i - 1] < x[i])) continue;
        std::size_t ahead = i + 1;
        while (ahead + 1 < x.size() && x[ahead] == x[i]) ++ahead;
        if (x[ahead] < x[i]) {
            out.push_back((i + ahead - 1) / 2);
            i = ahead - 1;
        }
    }
    return out;
}

/// For every sample the lowest point between it and the first higher sample on one side; the nearer of
/// equals. A stack of samples not yet topped makes this one walk.
std::vector<std::size_t> bases(const std::vector<double>& x, bool leftwards) {
    std::vector<std::size_t> out(x.size());
    std::vector<std::pair<std::size_t, std::size_t>> stack;  // sample, lowest since the one below it
    const std::size_t n = x.size();
    for (std::size_t k = 0; k < n; ++k) {
        const std::size_t i = leftwards ? k : n - 1 - k;
        std::size_t low = i;
        while (!stack.empty() && x[stack.back().first] <= x[i]) {
            if (x[stack.back().second] < x[low]) low = stack.back().second;
            stack.pop_back();
        }
        stack.emplace_back(i, low);
        out[i] = low;
    }
    return out;
}

void dropCloser(std::vector<std::size_t>& peaks, const Samples& s, Duration distance) {
    if (distance <= Duration::zero()) return;
    std::vector<std::size_t> order(peaks.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return s.x[peaks[a]] < s.x[peaks[b]]; });
    std::vector<bool> keep(peaks.size(), true);
    for (auto it = order.rbegin(); it != order.rend(); ++it) {
        if (!keep[*it]) continue;
        const Instant t = s.times[peaks[*it]];
        for (std::size_t k = *it; k-- > 0 && t - s.times[peaks[k]] < distance;) keep[k] = false;
        for (std::size_t k = *it + 1; k < peaks.size() && s.times[peaks[k]] - t < distance; ++k)
            keep[k] = false;
    }
    std::size_t at = 0;
    for (std::size_t i = 0; i < peaks.size(); ++i)
        if (keep[i]) peaks[at++] = peaks[i];
    peaks.resize(at);
}

Instant between(const Samples& s, std::size_t low, std::size_t high, double level) {
    const double share = (level - s.x[low]) / (s.x[high] - s.x[low]);
    return s.times[low] + Duration(std::llround(share * toNanoseconds(s.times[high] - s.times[low])));
}

void measureWidth(Peak& p, const Samples& s, double relativeHeight, std::size_t leftBase,
                  std::size_t rightBase) {
    const double level = s.x[p.index] - p.prominence * relativeHeight;
    std::size_t i = p.index;
    while (i > leftBase && s.x[i] > level) --i;
    p.left = s.x[i] < level ? between(s, i, i + 1, level) : s.times[i];
    i = p.index;
    while (i < rightBase && s.x[i] > level) ++i;
    p.right = s.x[i] < level ? between(s, i, i - 1, level) : s.times[i];
}

}  // namespace

std::vector<Peak> findPeaks(const SeriesView& series, const PeakSearch& search) {
    const Samples s = usableOf(series, search.troughs);
    std::vector<std::size_t> found = localMaxima(s.x);
    std::erase_if(
        found, [&](std::size_t i) { return s.x[i] < search.leastHeight || s.x[i] > search.greatestHeight; });
    dropCloser(found, s, search.leastDistance);
    const std::vector<std::size_t> left = bases(s.x, true), right = bases(s.x, false);
    std::vector<Peak> out;
    for (const std::size_t i : found) {
        Peak p;
        p.index = i;
        p.time = s.times[i];
        p.prominence = s.x[i] - std::max(s.x[left[i]], s.x[right[i]]);
        if (p.prominence < search.leastProminence || p.prominence > search.greatestProminence) continue;
        measureWidth(p, s, search.relativeHeight, left[i], right[i]);
        if (p.width() < search.leastWidth || p.width() > search.greatestWidth) continue;
        p.height = search.troughs ? -s.x[i] : s.x[i];
        out.push_back(p);
    }
    return out;
}

double noiseProminence(const SeriesView& series) {
    const Samples s = usableOf(series, false);
    if (s.x.size() < 3) return 0;
    std::vector<double> steps;
    for (std::size_t i = 1; i < s.x.size(); ++i) steps.push_back(std::abs(s.x[i] - s.x[i - 1]));
    const auto middle = steps.begin() + static_cast<std::ptrdiff_t>(steps.size() / 2);
    std::nth_element(steps.begin(), middle, steps.end());
    return 6 * 1.4826 * *middle / std::sqrt(2.0);
}

namespace {

struct Group {
    double mean = 0, variance = 0;
};
Group groupOf(std::span<const double> x) {
    Group out;
    for (const double v : x) out.mean += v / static_cast<double>(x.size());
    for (const double v : x)
        out.variance += (v - out.mean) * (v - out.mean) / static_cast<double>(x.size() - 1);
    return out;
}

/// How many of the sorted values are in the lower of the two groups that differ most.
std::size_t bestSplit(std::span<const double> sorted) {
    const double n = static_cast<double>(sorted.size());
    const double all = std::accumulate(sorted.begin(), sorted.end(), 0.0);
    double below = 0, best = -1;
    std::size_t out = 0;
    for (std::size_t i = 0; i + 1 < sorted.size(); ++i) {
        below += sorted[i];
        const double w = static_cast<double>(i + 1), low = below / w, high = (all - below) / (n - w);
        const double between = w * (n - w) * (high - low) * (high - low);
        if (between > best) best = between, out = i + 1;
    }
    return out;
}

}  // namespace

Duration narrowBelow(const std::vector<Peak>& peaks) {
    constexpr std::size_t kLeastInGroup = 3;
    std::vector<double> logs;
    for (const Peak& p : peaks) logs.push_back(std::log(std::max<double>(1, toNanoseconds(p.width()))));
    std::sort(logs.begin(), logs.end());
    const std::size_t lower = bestSplit(logs), smaller = std::min(lower, logs.size() - lower);
    if (smaller < kLeastInGroup) return {};
    const Group low = groupOf(std::span(logs).first(lower)), high = groupOf(std::span(logs).subspan(lower));
    const double apart = high.mean - low.mean, spread = std::sqrt((low.variance + high.variance) / 2);
    if (apart < std::log(4.0)) return {};
    if (apart < (5 + 10 / static_cast<double>(logs.size())) * spread) return {};
    const auto between = std::count_if(logs.begin(), logs.end(), [&](double v) {
        return v > low.mean + apart / 3 && v < high.mean - apart / 3;
    });
    if (static_cast<double>(between) > 0.1 * static_cast<double>(smaller)) return {};
    return fromNanoseconds(std::exp((logs[lower - 1] + logs[lower]) / 2));
}

}  // namespace jacinth
