#include "core/steps/jumps.h"

#include <algorithm>
#include <cmath>

#include "core/series/noise.h"
#include "core/stats/stats.h"

namespace jacinth {
namespace {

constexpr std::size_t kReach = 5;                       // samples of a level in the scan
constexpr std::size_t kApart = 10;                      // least distance of two jumps
constexpr std::size_t kAround = NearbyNoise::kStretch;  // samples on either side that say how sure a size is
constexpr std::size_t kStuck = 10;                      // equal samples that make a value look stuck
constexpr double kMeasured = 8;                         // score from which on the size is measured again
constexpr double kRobust = 1.4826;                      // MAD → standard deviation
constexpr double kLongGap = 5;                          // median spacings

double middleOf(double a, double b, double c) {
    return std::max(std::min(a, b), std::min(std::max(a, b), c));
}

/// Usable samples without single spikes, with running sums.
class Levels {
  public:
    explicit Levels(const SeriesView& series) {
        for (std::size_t i = 0; i < series.size(); ++i)
            if (series.usable(i)) times_.push_back(series.times[i]), raw_.push_back(series.values[i]);
        values_ = raw_;
        for (std::size_t i = 1; i + 1 < raw_.size(); ++i)
            values_[i] = middleOf(raw_[i - 1], raw_[i], raw_[i + 1]);
        if (!raw_.empty()) offset_ = raw_.front();
        sums_.resize(raw_.size() + 1);
        for (std::size_t i = 0; i < values_.size(); ++i) sums_[i + 1] = sums_[i] + (values_[i] - offset_);
        spacing_ = medianSpacing(times_);
        std::size_t equal = 0;
        for (std::size_t i = 1; i < raw_.size(); ++i) equal += raw_[i] == raw_[i - 1];
        coarse_ = 2 * equal > raw_.size();
    }
    std::size_t size() const { return raw_.size(); }
    const std::vector<Instant>& times() const { return times_; }
    const std::vector<double>& values() const { return values_; }
    const std::vector<double>& raw() const { return raw_; }

    /// Mean of the `k` samples from i on − that of the `k` before it; 0 near the ends.
    double difference(std::size_t i, std::size_t k) const {
        if (i < k || i + k > size()) return 0;
        return (sums_[i + k] - 2 * sums_[i] + sums_[i - k]) / static_cast<double>(k);
    }
    /// The same without what the slope on either side makes.
    double withoutSlope(std::size_t i, std::size_t k) const {
        if (i < 2 * k || i + 2 * k > size()) return 0;
        return difference(i, k) - (difference(i - k, k) + difference(i + k, k)) / 2;
    }
    bool coarse() const { return coarse_; }  ///< neighbours are mostly equal: that says nothing of a sensor
    bool gapAt(std::size_t i) const {
        return i > 0 && toNanoseconds(times_[i] - times_[i - 1]) > kLongGap * toNanoseconds(spacing_);
    }

  private:
    std::vector<Instant> times_;
    std::vector<double> raw_, values_, sums_;
    double offset_ = 0;
    Duration spacing_{};
    bool coarse_ = false;
};

/// Equal values on one side of i, where neighbours of this tag are mostly not equal.
bool stuckBeside(const Levels& levels, std::size_t i) {
    if (levels.coarse()) return false;
    const auto& raw = levels.raw();
    const auto equal = [&](std::size_t from, std::size_t to) {
        if (to > raw.size() || from >= to || to - from < kStuck) return false;
        return std::all_of(raw.begin() + static_cast<std::ptrdiff_t>(from),
                           raw.begin() + static_cast<std::ptrdiff_t>(to),
                           [&](double v) { return v == raw[from]; });
    };
    return (i >= kStuck && equal(i - kStuck, i)) || equal(i, std::min(raw.size(), i + kStuck));
}

/// Where the change is steepest, near i and in its direction: the first sample of the new level.
std::size_t steepest(const Levels& levels, std::size_t i, double sign) {
    const auto& v = levels.values();
    std::size_t best = i;
    for (std::size_t j = i >= kReach ? i - kReach + 1 : 1; j < std::min(levels.size(), i + kReach); ++j)
        if (sign * (v[j] - v[j - 1]) > sign * (v[best] - v[best - 1])) best = j;
    return best;
}

/// Size and its error over the number of samples that is least uncertain here. Where the numbers of samples
/// and the ways with and without slope disagree, the error says so.
void measure(const Levels& levels, std::size_t i, double least, Jump& jump) {
    jump.error = -1;
    const std::size_t from = i > kAround ? i - kAround : 0, to = std::min(levels.size(), i + kAround);
    std::vector<double> elsewhere, sizes;
    for (const std::size_t k : {2, 4, 8, 16})
        for (const bool slope : {false, true}) {
            const auto figure = [&](std::size_t j) {
                return slope ? levels.withoutSlope(j, k) : levels.difference(j, k);
            };
            elsewhere.clear();
            for (std::size_t j = from; j < to; ++j)
                if (j + 2 * k < i || j > i + 2 * k) elsewhere.push_back(std::abs(figure(j)));
            if (elsewhere.size() < kReach) continue;
            sizes.push_back(figure(i));
            const double error =
                std::max(kRobust * median(elsewhere), least / std::sqrt(static_cast<double>(k)));
            if (jump.error >= 0 && error >= jump.error) continue;
            jump.error = error;
            jump.size = sizes.back();
        }
    if (sizes.empty()) return;
    for (double& size : sizes) size = std::abs(size - jump.size);
    jump.error = std::hypot(jump.error, median(std::move(sizes)));
}

Jump jumpAt(const Levels& levels, std::size_t peak, double figure, double usual, double resolution) {
    Jump out;
    const std::size_t i = steepest(levels, peak, figure < 0 ? -1 : 1);
    out.before = levels.times()[i - 1];
    out.after = levels.times()[i];
    out.score = std::abs(figure) / usual;
    out.error = -1;
    if (out.score >= kMeasured) measure(levels, i, resolution / 4, out);
    if (out.error < 0 || out.size * figure <= 0) out.size = figure, out.error = usual;
    const double move = levels.values()[i] - levels.values()[i - 1];
    out.sharp = move * out.size > 0 && std::abs(move) >= std::abs(out.size) / 2;
    for (std::size_t j = i > 2 * kReach ? i - 2 * kReach : 1; j < std::min(levels.size(), i + 2 * kReach);
         ++j)
        out.unknown = out.unknown || levels.gapAt(j);
    out.unknown = out.unknown || stuckBeside(levels, i);
    return out;
}

}  // namespace

std::vector<Jump> jumpsOf(const SeriesView& series, double score, const Progress& progress) {
    return scanJumps(series, score, progress).jumps;
}

JumpScan scanJumps(const SeriesView& series, double score, const Progress& progress) {
    const Levels levels(series);
    const std::size_t n = levels.size();
    if (n < 6 * kReach || progress.stopped(0.3)) return {};
    std::vector<double> figure(n);
    for (std::size_t i = 0; i < n; ++i) figure[i] = levels.withoutSlope(i, kReach);
    const double resolution = resolutionOf(series);
    if (resolution == 0) return {};
    const NearbyNoise noise(figure);
    const auto usual = [&](std::size_t i) { return std::max(noise.at(i), resolution / 2); };
    if (progress.stopped(0.7)) return {};
    // The greatest of its surroundings, in one walk: a peak stands until a greater one comes near.
    std::vector<std::size_t> peaks;
    for (std::size_t i = 0; i < n; ++i) {
        const double size = std::abs(figure[i]);
        if (size < score * usual(i)) continue;
        if (!peaks.empty() && i - peaks.back() <= kApart) {
            if (size > std::abs(figure[peaks.back()])) peaks.back() = i;
        } else {
            peaks.push_back(i);
        }
    }
    JumpScan out;
    for (const std::size_t i : peaks) {
        out.jumps.push_back(jumpAt(levels, i, figure[i], usual(i), resolution));
        if (out.jumps.size() % 256 == 0 && progress.stopped(0.9)) return {};
    }
    for (double& f : figure) f = std::abs(f);
    out.usual = std::max(kRobust * median(std::move(figure)), resolution / 2);
    return out;
}

}  // namespace jacinth
