// How often limits flag good runs and how surely they find departures, on made-up runs of many kinds of
// noise.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/golden/whole_runs.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

struct Plant {
    const char* name;
    int goldenRuns;
    double slowNoise;  ///< time constant of the noise, in seconds; 0 = each sample on its own
    Duration spacing, every;
    enum class Noise { Normal, Rounded, Mixed, Heavy } noise = Noise::Normal;
};

class GoodRuns : public testing::TestWithParam<Plant> {
  protected:
    static constexpr Duration kLength = 22 * kHour;

    Series makeRun() {
        const Plant& p = GetParam();
        const double kept = p.slowNoise > 0 ? std::exp(-toSeconds(p.spacing) / p.slowNoise) : 0;
        const double level = 0.5 * normal();
        double slow = normal();
        Series s;
        for (Instant t{}; t <= Instant(kLength); t += p.spacing) {
            slow = kept * slow + std::sqrt(1 - kept * kept) * normal();
            s.push(t, shape(t) + level + noise(slow));
            if (p.noise == Plant::Noise::Rounded) s.values.back() = std::round(s.values.back());
        }
        return s;
    }
    /// Three half-widths above its own value for half an hour, from the fifth hour.
    void depart(Series& s, const GoldenLimits& limits) {
        for (std::size_t i = 0; i < s.size(); ++i) {
            if (s.times[i] < kFrom || s.times[i] > kTo) continue;
            const LimitsAt l = limitsAt(limits, *scale.placeOf(s.times[i]));
            s.values[i] += 3 * (l.high - l.low) / 2;
        }
    }
    GoldenLimits fromGoldenRuns() {
        LimitSpec spec;
        spec.every = GetParam().every;
        spec.method = LimitMethod::Tolerance;
        spec.smooth = 5;
        spec.slack = 3 * spec.every;
        std::vector<AlignedRun> golden;
        std::vector<Series> runs;
        for (int i = 0; i < GetParam().goldenRuns; ++i) {
            runs.push_back(makeRun());
            golden.push_back(alignRun(runs.back().view(), bridging(), SpanId(i + 1), scale, spec.every));
        }
        const GoldenStack stack(spec, golden);
        std::vector<double> factors;
        for (std::size_t i = 0; i < runs.size(); ++i)
            factors.push_back(factorToHold(runs[i].view(), bridging(), scale, stack.without(golden[i]), {}));
        return widenedBy(stack.limits(), factorForRuns(factors, spec.coverage));
    }
    std::vector<Excursion> screen(const Series& s, const GoldenLimits& limits) {
        return findExcursions(s.view(), bridging(), scale, limits, {});
    }
    static Bridging bridging() { return {TagKind::Continuous, 10 * GetParam().spacing}; }

    static constexpr Instant kFrom{5 * kHour}, kTo{5 * kHour + 30 * kMinute};
    const RunScale scale = scaleFromStart({Instant{}, Instant(kLength)});

  private:
    double normal() { return standard_(random_); }
    static double shape(Instant t) {
        const double h = toHours(t - Instant{});
        return 20 + 40 * std::min(1.0, h / 3) + 5 * std::sin(h);
    }
    double noise(double slow) {
        if (GetParam().noise == Plant::Noise::Mixed) return 0.7 * slow + 0.7 * normal();
        if (GetParam().noise == Plant::Noise::Heavy)
            return normal() / std::sqrt(std::chi_squared_distribution<>(4)(random_) / 4) / 1.41;
        return slow;
    }
    std::mt19937_64 random_{20240};
    std::normal_distribution<double> standard_;
};

TEST_P(GoodRuns, AreRarelyFlaggedAndDeparturesAlwaysFound) {
    constexpr int kSets = 20, kRunsEach = 50;
    int flagged = 0, found = 0;
    for (int set = 0; set < kSets; ++set) {
        const GoldenLimits limits = fromGoldenRuns();
        for (int run = 0; run < kRunsEach; ++run) {
            Series s = makeRun();
            flagged += screen(s, limits).empty() ? 0 : 1;
            depart(s, limits);
            for (const Excursion& e : screen(s, limits))
                if (e.start <= kTo && e.end >= kFrom) {
                    ++found;
                    break;
                }
        }
    }
    EXPECT_LE(flagged, kSets * kRunsEach * 2 / 100) << "more than 2 % of good runs are flagged";
    EXPECT_EQ(found, kSets * kRunsEach);
}

using enum Plant::Noise;
INSTANTIATE_TEST_SUITE_P(Plants, GoodRuns,
                         testing::Values(Plant{"Plain12", 12, 0, kMinute, 5 * kMinute},
                                         Plant{"Minutes25", 25, 600, kMinute, 5 * kMinute},
                                         Plant{"Hour25", 25, 3600, kMinute, 5 * kMinute},
                                         Plant{"Hours12", 12, 14400, 5 * kMinute, 5 * kMinute},
                                         Plant{"Sparse25", 25, 0, 15 * kMinute, 5 * kMinute},
                                         Plant{"Rounded25", 25, 0, kMinute, 2 * kMinute, Rounded},
                                         Plant{"RoundedHour25", 25, 3600, kMinute, 5 * kMinute, Rounded},
                                         Plant{"Mixed25", 25, 3600, kMinute, 5 * kMinute, Mixed},
                                         Plant{"Heavy25", 25, 0, kMinute, 5 * kMinute, Heavy},
                                         Plant{"Hour60", 60, 3600, kMinute, 5 * kMinute},
                                         Plant{"Hours60", 60, 14400, 5 * kMinute, 5 * kMinute},
                                         Plant{"Minutes150", 150, 600, 2 * kMinute, 5 * kMinute},
                                         Plant{"Hours150", 150, 14400, 5 * kMinute, 10 * kMinute},
                                         Plant{"Mixed150", 150, 3600, 2 * kMinute, 5 * kMinute, Mixed},
                                         Plant{"Rounded60", 60, 3600, 2 * kMinute, 2 * kMinute, Rounded}),
                         [](const auto& plant) { return std::string(plant.param.name); });

}  // namespace
}  // namespace jacinth
