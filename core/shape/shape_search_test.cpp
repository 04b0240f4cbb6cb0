// Shapes: sliding products and distances against plain loops, hits against the definition.
#include "core/shape/shape_search.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/base/missing.h"
#include "core/shape/sliding_products.h"

namespace jacinth {
namespace {

std::vector<double> walk(std::size_t n, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    std::vector<double> out(n);
    double v = 50;
    for (double& x : out) x = v += normal(random);
    return out;
}

std::vector<double> part(const std::vector<double>& x, std::size_t from, std::size_t n) {
    return {x.begin() + static_cast<std::ptrdiff_t>(from), x.begin() + static_cast<std::ptrdiff_t>(from + n)};
}

/// Straight from the definition.
double distanceByHand(std::vector<double> a, std::vector<double> b, bool level) {
    const auto n = static_cast<double>(a.size());
    const auto moments = [&](const std::vector<double>& x) {
        double mean = 0, squares = 0;
        for (const double v : x) mean += v / n;
        for (const double v : x) squares += (v - mean) * (v - mean) / n;
        return std::pair(mean, std::sqrt(squares));
    };
    const auto [meanA, sA] = moments(a);
    const auto [meanB, sB] = moments(b);
    double sum = 0;
    for (std::size_t i = 0; i < a.size(); ++i) {
        const double d = level ? (a[i] - b[i]) / sB : (a[i] - meanA) / sA - (b[i] - meanB) / sB;
        sum += d * d;
    }
    return std::sqrt(sum / n);
}

TEST(SlidingProducts, AreThoseOfAPlainLoop) {
    const std::vector<double> x = walk(5000, 1);
    for (const std::size_t n : {1u, 7u, 33u, 100u, 999u, 4999u, 5000u}) {
        const std::vector<double> q = walk(n, 2);
        const std::vector<double> fast = slidingProducts(x, q);
        ASSERT_EQ(fast.size(), x.size() - n + 1);
        for (std::size_t i = 0; i < fast.size(); i += 1 + fast.size() / 50) {
            double plain = 0;
            for (std::size_t j = 0; j < n; ++j) plain += q[j] * x[i + j];
            EXPECT_NEAR(fast[i], plain, 1e-9 * std::abs(plain) + 1e-6) << n << " " << i;
        }
    }
    EXPECT_TRUE(slidingProducts(x, {}).empty());
    EXPECT_TRUE(slidingProducts(walk(5, 1), walk(6, 1)).empty());
}

TEST(ShapeSearch, DistancesAreThoseOfTheDefinition) {
    const std::vector<double> x = walk(3000, 3);
    const ShapeTag example{part(x, 700, 150), 0};
    for (const bool level : {false, true}) {
        ShapeSpec spec;
        spec.level = level;
        const auto hits = findShape({{x, 0}}, {example}, spec);
        ASSERT_TRUE(hits);
        ASSERT_GT(hits->size(), 10u);
        EXPECT_EQ((*hits)[0].start, 700u);
        EXPECT_NEAR((*hits)[0].distance, 0, 1e-6);
        for (const ShapeHit& hit : *hits)
            EXPECT_NEAR(hit.distance, distanceByHand(part(x, hit.start, 150), example.values, level), 1e-6);
        for (std::size_t i = 1; i < hits->size(); ++i)
            EXPECT_LE((*hits)[i - 1].distance, (*hits)[i].distance);
    }
}

TEST(ShapeSearch, OfOverlappingHitsTheNearestStays) {
    const std::vector<double> x = walk(2000, 4);
    ShapeSpec spec;
    spec.most = 1000;
    const auto hits = findShape({{x, 0}}, {{part(x, 500, 100), 0}}, spec);
    ASSERT_TRUE(hits);
    // By hand: every place, the nearest first, those closer than half the example left out.
    std::vector<std::pair<double, std::size_t>> all;
    for (std::size_t i = 0; i + 100 <= x.size(); ++i)
        all.emplace_back(distanceByHand(part(x, i, 100), part(x, 500, 100), false), i);
    std::sort(all.begin(), all.end());
    std::vector<std::size_t> taken;
    for (const auto& [d, i] : all)
        if (std::none_of(taken.begin(), taken.end(),
                         [&](std::size_t t) { return (i > t ? i - t : t - i) < 50; }))
            taken.push_back(i);
    ASSERT_EQ(hits->size(), taken.size());
    for (std::size_t k = 0; k < taken.size(); ++k) EXPECT_EQ((*hits)[k].start, taken[k]) << k;
}

TEST(ShapeSearch, AShapeIsFoundAtAnotherLevelHeightAndLength) {
    std::mt19937 random(5);
    std::normal_distribution<double> normal;
    std::vector<double> x(6000);
    for (double& v : x) v = 20 + 0.1 * normal(random);
    const auto dip = [&](std::size_t at, std::size_t n, double depth) {
        for (std::size_t i = 0; i < n; ++i)
            x[at + i] -= depth * std::sin(3.14159265 * static_cast<double>(i) / static_cast<double>(n));
    };
    dip(1000, 200, 8), dip(3000, 200, 3), dip(5000, 220, 8);
    for (std::size_t i = 2500; i < 4000; ++i) x[i] += 30;
    const ShapeTag example{part(x, 1000, 200), 0};
    ShapeSpec spec;
    spec.stretch = 0.1;
    spec.most = 3;
    const double noise = noiseOf(x);
    const auto hits = findShape({{x, noise}}, {example}, spec);
    ASSERT_TRUE(hits);
    ASSERT_EQ(hits->size(), 3u);
    EXPECT_EQ((*hits)[0].start, 1000u);
    std::vector<std::size_t> starts{(*hits)[1].start, (*hits)[2].start};
    std::sort(starts.begin(), starts.end());
    EXPECT_NEAR(static_cast<double>(starts[0]), 3000, 6);
    EXPECT_NEAR(static_cast<double>(starts[1]), 5000, 6);
    for (const ShapeHit& hit : *hits) {
        if (hit.start > 4000) {
            EXPECT_NEAR(static_cast<double>(hit.length), 220, 5);
        }
    }
    spec.level = true;
    spec.stretch = 0;
    const auto alike = findShape({{x, noise}}, {example}, spec);
    EXPECT_LT((*alike)[1].distance, 0.5);
    EXPECT_NEAR(static_cast<double>((*alike)[1].start), 5010, 12) << "the one at the same level";
}

TEST(ShapeSearch, SeveralTagsCountTogether) {
    const std::vector<double> a = walk(1500, 6), b = walk(1500, 7);
    const auto hits = findShape({{a, 0}, {b, 0}}, {{part(a, 300, 80), 0}, {part(b, 300, 80), 0}}, {});
    ASSERT_TRUE(hits);
    const ShapeHit& second = (*hits)[1];
    const double da = distanceByHand(part(a, second.start, 80), part(a, 300, 80), false),
                 db = distanceByHand(part(b, second.start, 80), part(b, 300, 80), false);
    EXPECT_NEAR(second.distance, std::sqrt((da * da + db * db) / 2), 1e-6);
}

TEST(ShapeSearch, FlatStretchesAndGaps) {
    std::vector<double> x = walk(2000, 8);
    const ShapeTag example{part(x, 100, 100), 0};
    for (std::size_t i = 600; i < 900; ++i) x[i] = 42;
    for (std::size_t i = 1200; i < 1400; ++i) x[i] = kMissing;
    for (std::size_t i = 1600; i < 1605; ++i) x[i] = kMissing;
    ShapeSpec spec;
    spec.most = 1000;
    const auto hits = findShape({{x, 0.01}}, {example}, spec);
    ASSERT_TRUE(hits);
    bool bridged = false;
    for (const ShapeHit& hit : *hits) {
        EXPECT_FALSE(hit.start > 1111 && hit.start < 1389) << "more than a tenth is missing";
        if (hit.start >= 600 && hit.start <= 800) {
            EXPECT_NEAR(hit.distance, 1, 1e-9);
        }
        bridged |= hit.start > 1505 && hit.start < 1604;
    }
    EXPECT_TRUE(bridged) << "five of a hundred are bridged";
}

TEST(ShapeSearch, WhatCannotBeSearchedIsSaid) {
    const std::vector<double> x = walk(100, 9);
    EXPECT_FALSE(findShape({}, {}, {}));
    EXPECT_FALSE(findShape({{x, 0}}, {{{1, 2, 3}, 0}}, {}));
    EXPECT_FALSE(findShape({{x, 0}}, {{std::vector<double>(20, 5), 0}}, {}));
    EXPECT_FALSE(findShape({{x, 0}}, {{part(x, 0, 20), 1e9}}, {}));
    EXPECT_FALSE(findShape({{x, 0}}, {{std::vector<double>(20, kMissing), 0}}, {}));
    EXPECT_FALSE(findShape({{x, 0}, {walk(99, 1), 0}}, {{part(x, 0, 20), 0}, {part(x, 0, 20), 0}}, {}));
    EXPECT_FALSE(findShape({{x, 0}}, {{part(x, 0, 20), 0}}, {}, Progress([](double) { return false; })));
    EXPECT_TRUE(findShape({{x, 0}}, {{walk(200, 2), 0}}, {})->empty()) << "longer than the record";
}

}  // namespace
}  // namespace jacinth
