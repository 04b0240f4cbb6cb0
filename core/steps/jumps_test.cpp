#include "core/steps/jumps.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/series/noise.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

Series noisy(int n, double spread, double slope = 0, unsigned seed = 3) {
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, spread);
    Series out;
    for (int i = 0; i < n; ++i) out.push(at(i * kMinute), 50 + slope * i + noise(random));
    return out;
}

TEST(Jumps, AStepIsFoundAtItsSampleWithItsSize) {
    Series s = noisy(4000, 0.3);
    for (std::size_t i = 2000; i < s.size(); ++i) s.values[i] += 4;
    const auto jumps = jumpsOf(s, 8);
    ASSERT_EQ(jumps.size(), 1u);
    EXPECT_EQ(jumps[0].before, s.times[1999]);
    EXPECT_EQ(jumps[0].after, s.times[2000]);
    EXPECT_NEAR(jumps[0].size, 4, 3 * jumps[0].error);
    EXPECT_LT(jumps[0].error, 0.3);
    EXPECT_TRUE(jumps[0].sharp);
    EXPECT_FALSE(jumps[0].unknown);
}

TEST(Jumps, ASpikeASlopeAndNoiseAreNone) {
    Series s = noisy(4000, 0.3, 0.05);
    s.values[1500] += 40;
    for (std::size_t i = 2000; i < s.size(); ++i)
        s.values[i] += 0.05 * static_cast<double>(std::min<std::size_t>(200, i - 2000));
    EXPECT_TRUE(jumpsOf(s, 8).empty());
}

TEST(Jumps, ASlowRiseIsNotSharp) {
    Series s = noisy(4000, 0.1);
    for (std::size_t i = 2000; i < s.size(); ++i)
        s.values[i] += 20 * (1 - std::exp(-static_cast<double>(i - 2000) / 6));
    for (const Jump& j : jumpsOf(s, 8)) EXPECT_FALSE(j.sharp) << j.size;
}

TEST(Jumps, BesideAGapOrAStuckValueNothingIsKnown) {
    Series gap = noisy(4000, 0.3);
    for (std::size_t i = 2000; i < gap.size(); ++i) gap.values[i] += 4, gap.times[i] += kHour;
    ASSERT_EQ(jumpsOf(gap, 8).size(), 1u);
    EXPECT_TRUE(jumpsOf(gap, 8)[0].unknown);
    Series stuck = noisy(4000, 0.3);
    for (std::size_t i = 1900; i < 2000; ++i) stuck.values[i] = 58;
    const auto jumps = jumpsOf(stuck, 8);
    ASSERT_EQ(jumps.size(), 2u);
    for (const Jump& j : jumps) EXPECT_TRUE(j.unknown);
}

TEST(Jumps, BadSamplesDoNotCount) {
    Series s = noisy(2000, 0.3);
    s.quality.assign(s.size(), Quality::Good);
    for (std::size_t i = 500; i < 700; ++i) s.values[i] += 30, s.quality[i] = Quality::Bad;
    EXPECT_TRUE(jumpsOf(s, 8).empty());
}

TEST(Jumps, ShortConstantAndEmptySeriesHaveNone) {
    EXPECT_TRUE(jumpsOf(Series{}).empty());
    EXPECT_TRUE(jumpsOf(noisy(10, 1)).empty());
    EXPECT_TRUE(jumpsOf(noisy(1000, 0)).empty());
    EXPECT_EQ(resolutionOf(noisy(1000, 0)), 0);
}

TEST(Jumps, StopWhenTold) {
    Series s = noisy(4000, 0.3);
    for (std::size_t i = 2000; i < s.size(); ++i) s.values[i] += 4;
    EXPECT_TRUE(jumpsOf(s, 8, Progress([](double) { return false; })).empty());
}

}  // namespace
}  // namespace jacinth
