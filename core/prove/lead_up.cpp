#include "core/prove/lead_up.h"

#include <algorithm>
#include <cmath>
#include <random>

#include "core/base/random_share.h"
#include "core/span/span.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

/// Samples that fell into a column, before their mean is known.
struct Bin {
    double sum = 0, least = kMissing, greatest = kMissing;
    std::size_t n = 0;
};

}  // namespace

LeadUpLine leadUpLine(const std::vector<Summary>& columns, TimeRange range, int bins) {
    std::vector<Bin> in(static_cast<std::size_t>(bins));
    const double step = toNanoseconds(range.length()) / bins;
    const auto binOf = [&](Instant t) {
        return std::clamp<std::int64_t>(static_cast<std::int64_t>(toNanoseconds(t - range.from) / step), 0,
                                        bins - 1);
    };
    for (const Summary& c : columns) {
        if (c.usable == 0 || c.lastTime < range.from || c.firstTime >= range.to) continue;
        for (auto b = binOf(c.firstTime); b <= binOf(c.lastTime); ++b) {
            Bin& bin = in[static_cast<std::size_t>(b)];
            bin.sum += c.sum;
            bin.n += c.usable;
            bin.least = bin.least <= c.least ? bin.least : c.least;
            bin.greatest = bin.greatest >= c.greatest ? bin.greatest : c.greatest;
        }
    }
    LeadUpLine out;
    for (const Bin& bin : in) {
        out.mean.push_back(bin.n > 0 ? bin.sum / static_cast<double>(bin.n) : kMissing);
        out.least.push_back(bin.least);
        out.greatest.push_back(bin.greatest);
    }
    return out;
}

LeadUpBand leadUpBand(const std::vector<LeadUpLine>& lines) {
    constexpr std::size_t kLeast = 3;
    LeadUpBand out;
    const std::size_t bins = lines.empty() ? 0 : lines.front().mean.size();
    for (std::size_t b = 0; b < bins; ++b) {
        std::vector<double> means;
        double least = kMissing, greatest = kMissing;
        for (const LeadUpLine& line : lines) {
            if (!std::isfinite(line.mean[b])) continue;
            means.push_back(line.mean[b]);
            least = least <= line.least[b] ? least : line.least[b];
            greatest = greatest >= line.greatest[b] ? greatest : line.greatest[b];
        }
        std::sort(means.begin(), means.end());
        const auto at = [&](double q) {
            return means.size() < kLeast ? kMissing : quantileOfSorted(means, q);
        };
        out.low.push_back(at(0.1));
        out.lowMiddle.push_back(at(0.25));
        out.median.push_back(at(0.5));
        out.highMiddle.push_back(at(0.75));
        out.high.push_back(at(0.9));
        out.least.push_back(least);
        out.greatest.push_back(greatest);
    }
    return out;
}

std::vector<Instant> quietMoments(const std::vector<Instant>& failures, TimeRange record, Duration before,
                                  Duration after, std::size_t count, unsigned seed) {
    std::vector<TimeRange> taken;
    for (const Instant f : failures) taken.push_back({f - after, f + before});
    std::vector<TimeRange> whole;
    if (record.from + before < record.to) whole.push_back({record.from + before, record.to});
    const std::vector<TimeRange> free = subtract(whole, joined(std::move(taken)));
    const double all = toNanoseconds(totalLength(free));
    std::vector<Instant> out;
    if (all <= 0) return out;
    std::mt19937_64 random(seed);
    for (std::size_t i = 0; i < count; ++i)
        if (const auto moment = momentIn(free, fromNanoseconds(randomShare(random) * all)))
            out.push_back(*moment);
    return out;
}

}  // namespace jacinth
