// Stuck stretches: found where a sensor repeats itself as it never does, left alone where it rests.
#include "core/series/stuck.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace jacinth {
namespace {

Instant minute(std::int64_t i) {
    return Instant(i * kMinute);
}

/// A noisy tag, logged once a minute, to a tenth.
Series noisy(std::size_t n, std::uint32_t seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal(50, 2);
    Series out;
    for (std::size_t i = 0; i < n; ++i)
        out.push(minute(static_cast<std::int64_t>(i)), std::round(normal(random) * 10) / 10);
    return out;
}

void hold(Series& s, std::size_t from, std::size_t to, double value) {
    for (std::size_t i = from; i < to; ++i) s.values[i] = value;
}

TEST(Stuck, IsFoundFromItsFirstToItsLastSample) {
    Series s = noisy(5000, 1);
    s.values[2999] = 40;
    hold(s, 3000, 3120, 51.3);
    s.values[3120] = 40;
    const auto found = stuckStretches(s);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].range.from, minute(3000));
    EXPECT_EQ(found[0].range.to, minute(3119));
    EXPECT_EQ(found[0].samples, 120u);
    EXPECT_EQ(found[0].value, 51.3);
    EXPECT_LE(found[0].usual, 2u);
}

TEST(Stuck, NothingIsFoundInNoise) {
    for (std::uint32_t seed = 1; seed <= 20; ++seed) EXPECT_TRUE(stuckStretches(noisy(20000, seed)).empty());
}

TEST(Stuck, ShorterThanAskedForIsNone) {
    Series s = noisy(5000, 2);
    hold(s, 1000, 1029, 51.3);  // 28 minutes
    EXPECT_TRUE(stuckStretches(s).empty());
    EXPECT_EQ(stuckStretches(s, {.least = 20 * kMinute}).size(), 1u);
    hold(s, 1000, 1005, 51.3);
    EXPECT_TRUE(stuckStretches(s, {.least = kMinute, .leastSamples = 40}).empty());
}

TEST(Stuck, ATagOfCoarseDigitsIsJudgedByItsOwn) {
    // Whole degrees that change about once an hour: an hour at one value is usual, a day is not.
    Series s;
    for (std::int64_t i = 0; i < 20 * 1440; ++i)
        s.push(minute(i), std::round(20 + 10 * std::sin(static_cast<double>(i) / 400)));
    EXPECT_TRUE(stuckStretches(s).empty());
    hold(s, 10000, 11440, 23);
    const auto found = stuckStretches(s);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_GE(found[0].samples, 1440u);
}

TEST(Stuck, AMeterAtRestIsNotStuck) {
    Series s = noisy(20000, 3);
    for (const std::size_t from : {2000u, 6000u, 9000u, 15000u}) hold(s, from, from + 600, 0);
    EXPECT_TRUE(stuckStretches(s).empty());
    hold(s, 12000, 12200, 49.9);
    const auto found = stuckStretches(s);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].value, 49.9);
}

TEST(Stuck, ATagThatIsQuieterAtRestIsJudgedByItsRest) {
    // Running it reads 4 ± 0.5, standing 0.02 ± 0.004, to a hundredth: standing it repeats itself by nature.
    std::mt19937 random(6);
    std::normal_distribution<double> normal;
    Series s;
    for (std::int64_t i = 0; i < 40000; ++i) {
        const bool stands = i % 2000 > 1500;
        const double v = stands ? 0.02 + 0.004 * normal(random) : 4 + 0.5 * normal(random);
        s.push(minute(i), std::round(v * 100) / 100);
    }
    EXPECT_TRUE(stuckStretches(s).empty());
    hold(s, 5000, 5100, 4.31);
    ASSERT_EQ(stuckStretches(s).size(), 1u);
    EXPECT_EQ(stuckStretches(s)[0].value, 4.31);
}

TEST(Stuck, BadSamplesDoNotCountAndAMissingOneEndsIt) {
    Series s = noisy(5000, 4);
    hold(s, 1000, 1100, 51.3);
    s.quality.assign(s.size(), Quality::Good);
    s.values[1050] = 99;
    s.quality[1050] = Quality::Bad;
    ASSERT_EQ(stuckStretches(s).size(), 1u);
    EXPECT_EQ(stuckStretches(s)[0].samples, 99u);
    s.quality[1050] = Quality::Missing;
    ASSERT_EQ(stuckStretches(s).size(), 2u);
    EXPECT_TRUE(stuckStretches({}).empty());
}

TEST(Stuck, CanBeStopped) {
    Series s = noisy(5000, 5);
    hold(s, 1000, 1100, 51.3);
    EXPECT_TRUE(stuckStretches(s, {}, Progress([](double) { return false; })).empty());
}

}  // namespace
}  // namespace jacinth
