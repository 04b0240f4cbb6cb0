#include "core/stats/segments.h"

#include <gtest/gtest.h>

#include <chrono>
#include <cmath>
#include <numeric>
#include <random>

#include "core/stats/nile_for_tests.h"

namespace jacinth {
namespace {

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
