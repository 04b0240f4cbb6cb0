// Made-up plants whose runs are all good: for tests and benches of how often limits flag them.
#pragma once

#include <cmath>
#include <random>

#include "core/golden/whole_runs.h"

namespace jacinth {

/// One tag over runs of one length: a shape, a level of each run, and noise.
struct GoodRunsPlant {
    /// `Heavy`: t with four degrees of freedom, sample by sample; `Jolts`: the same as what drives slow
    /// noise; `Uneven`: some runs are noisier than others.
    enum class Noise { Normal, Rounded, Mixed, Heavy, Jolts, Uneven };
    const char* name = "";
    int goldenRuns = 25;
    double slowNoise = 0;  ///< time constant of the noise, in seconds; 0 = each sample on its own
    Duration spacing = kMinute, every = 5 * kMinute;
    Noise noise = Noise::Normal;
    double levels = 0.5;  ///< standard deviation of the runs' levels, in that of the noise
    Duration length = 22 * kHour;
};

class GoodRunsOf {
  public:
    explicit GoodRunsOf(const GoodRunsPlant& plant, std::uint64_t seed = 20240)
        : plant_(plant), scale_(scaleFromStart({Instant{}, Instant(plant.length)})), random_(seed) {}

    Bridging bridging() const { return {TagKind::Continuous, 10 * plant_.spacing}; }
    const RunScale& scale() const { return scale_; }

    Series makeRun() {
        const double kept =
            plant_.slowNoise > 0 ? std::exp(-toSeconds(plant_.spacing) / plant_.slowNoise) : 0;
        const double level = plant_.levels * normal();
        const bool jolts = plant_.noise == GoodRunsPlant::Noise::Jolts;
        const double size = plant_.noise == GoodRunsPlant::Noise::Uneven ? std::exp(0.4 * normal()) : 1;
        double slow = normal();
        Series s;
        for (Instant t{}; t <= Instant(plant_.length); t += plant_.spacing) {
            slow = kept * slow + std::sqrt(1 - kept * kept) * (jolts ? heavy() : size * normal());
            s.push(t, shape(t) + level + noise(slow));
            if (plant_.noise == GoodRunsPlant::Noise::Rounded) s.values.back() = std::round(s.values.back());
        }
        return s;
    }

    /// As golden limits are made at the settings a new set begins with: at 99 %, widened for whole runs.
    GoldenLimits limitsOfNewGoldenRuns() {
        LimitSpec spec;
        spec.every = plant_.every;
        spec.method = LimitMethod::Tolerance;
        spec.smooth = 5;
        spec.slack = 3 * spec.every;
        std::vector<AlignedRun> golden;
        std::vector<Series> runs;
        for (int i = 0; i < plant_.goldenRuns; ++i) {
            runs.push_back(makeRun());
            golden.push_back(alignRun(runs.back().view(), bridging(), SpanId(i + 1), scale_, spec.every));
        }
        const GoldenStack stack(spec, golden);
        std::vector<double> factors;
        for (std::size_t i = 0; i < runs.size(); ++i)
            factors.push_back(factorToHold(runs[i].view(), bridging(), scale_, stack.without(golden[i]), {}));
        return widenedBy(stack.limits(), factorForRuns(factors, spec.coverage));
    }
    std::vector<Excursion> screen(const Series& s, const GoldenLimits& limits) const {
        return findExcursions(s.view(), bridging(), scale_, limits, {});
    }

    /// From the fifth hour.
    static constexpr TimeRange kDeparted{Instant(5 * kHour), Instant(5 * kHour + 30 * kMinute)};
    /// Three half-widths above its own value for half an hour.
    void depart(Series& s, const GoldenLimits& limits) const {
        for (std::size_t i = 0; i < s.size(); ++i) {
            if (s.times[i] < kDeparted.from || s.times[i] > kDeparted.to) continue;
            const LimitsAt l = limitsAt(limits, *scale_.placeOf(s.times[i]));
            s.values[i] += 3 * (l.high - l.low) / 2;
        }
    }
    bool finds(const Series& departed, const GoldenLimits& limits) const {
        for (const Excursion& e : screen(departed, limits))
            if (e.start <= kDeparted.to && e.end >= kDeparted.from) return true;
        return false;
    }

  private:
    double normal() { return standard_(random_); }
    static double shape(Instant t) {
        const double h = toHours(t - Instant{});
        return 20 + 40 * std::min(1.0, h / 3) + 5 * std::sin(h);
    }
    double noise(double slow) {
        if (plant_.noise == GoodRunsPlant::Noise::Mixed) return 0.7 * slow + 0.7 * normal();
        return plant_.noise == GoodRunsPlant::Noise::Heavy ? heavy() : slow;
    }
    double heavy() { return normal() / std::sqrt(std::chi_squared_distribution<>(4)(random_) / 4) / 1.41; }
    GoodRunsPlant plant_;
    RunScale scale_;
    std::mt19937_64 random_;
    std::normal_distribution<double> standard_;
};

}  // namespace jacinth
