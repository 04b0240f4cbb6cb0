#include "core/stats/segments.h"

#include <gtest/gtest.h>

#include <chrono>
#include <cmath>
#include <numeric>
#include <random>

namespace jacinth {
namespace {

/// Annual flow of the Nile at Aswan, 1871 to 1970, in 10⁸ m³ (Cobb 1978; in many statistics packages).
const std::vector<double> kNile{
    1120, 1160, 963,  1210, 1160, 1160, 813,  1230, 1370, 1140, 995,  935,  1110, 994, 1020, 960,  1180,
    799,  958,  1140, 1100, 1210, 1150, 1250, 1260, 1220, 1030, 1100, 774,  840,  874, 694,  940,  833,
    701,  916,  692,  1020, 1050, 969,  831,  726,  456,  824,  702,  1120, 1100, 832, 764,  821,  768,
    845,  864,  862,  698,  845,  744,  796,  1040, 759,  781,  865,  845,  944,  984, 897,  822,  1010,
    771,  676,  649,  846,  812,  742,  801,  1040, 860,  874,  848,  890,  744,  749, 838,  1050, 918,
    986,  797,  923,  975,  815,  1020, 906,  901,  1170, 912,  746,  919,  718,  714, 740};

double meanOfPart(const std::vector<double>& y, std::size_t from, std::size_t to) {
    return std::accumulate(y.begin() + static_cast<std::ptrdiff_t>(from),
                           y.begin() + static_cast<std::ptrdiff_t>(to), 0.0) /
           static_cast<double>(to - from);
}

double costOf(const std::vector<double>& y, std::vector<std::size_t> changes, double penalty) {
    double cost = penalty * static_cast<double>(changes.size());
    changes.push_back(y.size());
    std::size_t from = 0;
    for (const std::size_t to : changes) {
        const double m = meanOfPart(y, from, to);
        for (std::size_t i = from; i < to; ++i) cost += (y[i] - m) * (y[i] - m);
        from = to;
    }
    return cost;
}

/// The least cost over all ways to cut, by trying every last change.
double leastCost(const std::vector<double>& y, double penalty) {
    std::vector<double> best(y.size() + 1, -penalty);
    for (std::size_t t = 1; t <= y.size(); ++t) {
        best[t] = INFINITY;
        for (std::size_t s = 0; s < t; ++s) {
            const double m = meanOfPart(y, s, t);
            double cost = best[s] + penalty;
            for (std::size_t i = s; i < t; ++i) cost += (y[i] - m) * (y[i] - m);
            best[t] = std::min(best[t], cost);
        }
    }
    return best[y.size()];
}

TEST(MeanChanges, TheNileFellOnceIn1899) {
    const double s = noiseOf(kNile);
    const auto changes = meanChanges(kNile, 2 * s * s * std::log(100.0));
    ASSERT_EQ(changes, std::vector<std::size_t>{28});  // 1899 is the first year of the new level
    EXPECT_NEAR(meanOfPart(kNile, 28, 100) - meanOfPart(kNile, 0, 28), -247.8, 0.05);
}

TEST(MeanChanges, AreTheBestOfAllWaysToCut) {
    for (unsigned seed = 0; seed < 60; ++seed) {
        std::mt19937 random(seed);
        std::normal_distribution<double> noise;
        std::vector<double> y;
        double level = 1e6;
        for (int i = 0; i < 70; ++i) {
            if (random() % 12 == 0) level += 4 * noise(random);
            y.push_back(level + noise(random));
        }
        const double penalty = 0.5 + seed % 7;
        EXPECT_NEAR(costOf(y, meanChanges(y, penalty), penalty), leastCost(y, penalty), 1e-6) << seed;
    }
}

TEST(MeanChanges, WhiteNoiseHasHardlyAny) {
    int withChange = 0;
    for (unsigned seed = 0; seed < 200; ++seed) {
        std::mt19937 random(seed);
        std::normal_distribution<double> noise;
        std::vector<double> y(500);
        for (double& v : y) v = noise(random);
        withChange += !meanChanges(y, 2 * std::log(500.0)).empty();
    }
    EXPECT_LT(withChange, 20);
}

TEST(MeanChanges, OfNothingOneAndAllTheSame) {
    EXPECT_TRUE(meanChanges({}, 1).empty());
    EXPECT_TRUE(meanChanges(std::vector<double>{5}, 1).empty());
    EXPECT_TRUE(meanChanges(std::vector<double>(1000, 3.3), 1e-9).empty());
    std::vector<double> step(10, 0);
    step.resize(20, 1);
    EXPECT_EQ(meanChanges(step, 0.1), std::vector<std::size_t>{10});
    // A single sample that stands out costs two changes.
    std::vector<double> spike(21, 0);
    spike[10] = 5;
    EXPECT_EQ(meanChanges(spike, 3), (std::vector<std::size_t>{10, 11}));
    EXPECT_TRUE(meanChanges(spike, 20).empty());
}

TEST(MeanChanges, CanBeStopped) {
    const std::vector<double> y(200'000, 1.0);
    EXPECT_TRUE(meanChanges(y, 1, Progress([](double) { return false; })).empty());
}

TEST(Noise, IsNotMisledByLevels) {
    std::mt19937 random(4);
    std::normal_distribution<double> noise(0, 2);
    std::vector<double> y;
    for (int i = 0; i < 20000; ++i) {
        const int level = i / 1000;
        y.push_back(noise(random) + level * 50);
    }
    EXPECT_NEAR(noiseOf(y), 2, 0.06);
    EXPECT_TRUE(std::isnan(noiseOf(std::vector<double>{1})));
}

}  // namespace
}  // namespace jacinth
