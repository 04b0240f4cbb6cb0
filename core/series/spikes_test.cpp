#include "core/series/spikes.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

/// A plateau at 80 with noise of 0.2, then a slope down to 20.
Series plateauAndSlope() {
    std::mt19937 random(4);
    std::normal_distribution<double> noise(0, 0.2);
    Series s;
    for (int i = 0; i < 2000; ++i)
        s.push(at(i * kMinute), (i < 1000 ? 80 : 80 - 0.06 * (i - 1000)) + noise(random));
    return s;
}

TEST(Spikes, StandOutOnAPlateauOnASlopeAndDownwards) {
    Series s = plateauAndSlope();
    s.values[400] += 20;
    s.values[1500] += 20;
    s.values[1700] -= 15;
    const auto spikes = findSpikes(s);
    ASSERT_EQ(spikes.size(), 3u);
    EXPECT_EQ(spikes[0].peak, s.times[400]);
    EXPECT_EQ(spikes[0].from, s.times[400]);
    EXPECT_EQ(spikes[0].to, s.times[400]);
    EXPECT_NEAR(spikes[0].prominence, 20, 1);
    EXPECT_EQ(spikes[1].value, s.values[1500]);
    EXPECT_FALSE(spikes[1].down);
    EXPECT_TRUE(spikes[2].down);
    EXPECT_NEAR(spikes[2].prominence, 15, 1);
}

TEST(Spikes, ByProminenceAndWidth) {
    Series s = plateauAndSlope();
    s.values[400] += 20;
    s.values[600] += 5;
    for (int i = 800; i < 806; ++i) s.values[static_cast<std::size_t>(i)] += 20;  // six minutes wide
    EXPECT_EQ(findSpikes(s).size(), 2u);
    SpikeSearch search;
    search.prominence = 10;
    EXPECT_EQ(findSpikes(s, search).size(), 1u);
    search.width = 8 * kMinute;
    const auto wide = findSpikes(s, search);
    ASSERT_EQ(wide.size(), 2u);
    EXPECT_EQ(wide[1].from, s.times[800]);
    EXPECT_EQ(wide[1].to, s.times[805]);
}

TEST(Spikes, NoiseStepsAndBadSamplesAreNone) {
    Series s = plateauAndSlope();
    for (std::size_t i = 700; i < s.size(); ++i) s.values[i] += 30;
    s.quality.assign(s.size(), Quality::Good);
    s.values[300] += 50;
    s.quality[300] = Quality::Bad;
    EXPECT_TRUE(findSpikes(s).empty());
    EXPECT_TRUE(findSpikes(Series{}).empty());
    Series flat;
    for (int i = 0; i < 100; ++i) flat.push(at(i * kMinute), 7);
    EXPECT_TRUE(findSpikes(flat).empty());
}

}  // namespace
}  // namespace jacinth
