#include "core/stats/segments.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/stats/stats.h"

namespace jacinth {
namespace {

struct Interval {
    double low, high;
};

/// The last change at `from`: the cost up to now as a function of the mean since then,
/// base + sum2 − 2·sum·m + n·m², and for which means no other last change was ever better.
struct Candidate {
    std::size_t from = 0;
    double base = 0, n = 0, sum = 0, sum2 = 0;
    std::vector<Interval> best;

    double least() const { return n > 0 ? base + sum2 - sum * sum / n : base; }
    /// Means for which the cost is at most `level`.
    Interval below(double level) const {
        const double mean = sum / n, room = (level - least()) / n;
        if (!(room >= 0)) return {1, 0};
        const double half = std::sqrt(room);
        return {mean - half, mean + half};
    }
};

void keepWithin(std::vector<Interval>& set, const Interval& in) {
    std::size_t kept = 0;
    for (Interval part : set) {
        part.low = std::max(part.low, in.low);
        part.high = std::min(part.high, in.high);
        if (part.low < part.high) set[kept++] = part;
    }
    set.resize(kept);
}

void takeAway(std::vector<Interval>& set, const Interval& out) {
    if (!(out.low < out.high)) return;
    std::vector<Interval> rest;
    for (const Interval& part : set) {
        if (part.low < out.low) rest.push_back({part.low, std::min(part.high, out.low)});
        if (part.high > out.high) rest.push_back({std::max(part.low, out.high), part.high});
    }
    set = std::move(rest);
}

}  // namespace

std::vector<std::size_t> meanChanges(std::span<const double> y, double penalty, const Progress& progress) {
    if (y.empty()) return {};
    const auto [least, most] = std::minmax_element(y.begin(), y.end());
    const Interval all{*least - 1, *most + 1};
    std::vector<std::size_t> lastChange(y.size() + 1, 0);
    std::vector<Candidate> candidates{{0, 0, 0, 0, 0, {all}}};
    // Sums about the middle: squares of large levels would drown small differences.
    const double middle = *least + (*most - *least) / 2;
    const Interval centred{all.low - middle, all.high - middle};
    candidates[0].best = {centred};
    for (std::size_t t = 0; t < y.size(); ++t) {
        const double v = y[t] - middle;
        double cost = std::numeric_limits<double>::infinity();
        for (Candidate& c : candidates) {
            c.n += 1;
            c.sum += v;
            c.sum2 += v * v;
            if (c.least() < cost) cost = c.least(), lastChange[t + 1] = c.from;
        }
        Candidate next{t + 1, cost + penalty, 0, 0, 0, {centred}};
        for (Candidate& c : candidates) {
            const Interval good = c.below(cost + penalty);
            keepWithin(c.best, good);
            for (const Interval& part : c.best) takeAway(next.best, part);
        }
        std::erase_if(candidates, [](const Candidate& c) { return c.best.empty(); });
        if (!next.best.empty()) candidates.push_back(std::move(next));
        if (t % 65536 == 65535 && progress.stopped(static_cast<double>(t) / static_cast<double>(y.size())))
            return {};
    }
    std::vector<std::size_t> out;
    for (std::size_t t = y.size(); lastChange[t] > 0; t = lastChange[t]) out.push_back(lastChange[t]);
    std::reverse(out.begin(), out.end());
    return out;
}

double noiseOf(std::span<const double> y) {
    if (y.size() < 2) return std::numeric_limits<double>::quiet_NaN();
    std::vector<double> differences(y.size() - 1);
    for (std::size_t i = 1; i < y.size(); ++i) differences[i - 1] = std::abs(y[i] - y[i - 1]);
    return 1.4826 * median(std::move(differences)) / std::sqrt(2.0);
}

}  // namespace jacinth
