#include "core/series/peaks.h"
#include "core/time/times_for_tests.h"

#include <gtest/gtest.h>

#include <functional>
#include <random>

namespace jacinth {
namespace {

Series of(const std::vector<double>& x, Duration step = kSecond) {
    Series s;
    for (std::size_t i = 0; i < x.size(); ++i) s.push(Instant(static_cast<int>(i) * step), x[i]);
    return s;
}
std::vector<Instant> timesOf(const std::vector<Peak>& peaks) {
    std::vector<Instant> out;
    for (const Peak& p : peaks) out.push_back(at(p.time.time_since_epoch() / kSecond));
    return out;
}

TEST(Peaks, ProminenceAndWidthByHand) {
    // Two peaks: 5 above ground 0, and 3 with a saddle of 1 between them.
    const auto peaks = findPeaks(of({0, 5, 1, 3, 0}), {});
    ASSERT_EQ(timesOf(peaks), (instants(1, 3)));
    EXPECT_EQ(peaks[0].prominence, 5);
    EXPECT_EQ(peaks[1].prominence, 2);
    // Half way down the first is 2.5: 0.5 s before it, and at 1 + 2.5/4 s after the start of the right flank.
    EXPECT_EQ(peaks[0].left, at(kSecond / 2));
    EXPECT_EQ(peaks[0].right, at(kSecond + kSecond * 5 / 8));
}

TEST(Peaks, AFlatTopCountsOnceAndEndsAreNoPeaks) {
    EXPECT_EQ(timesOf(findPeaks(of({9, 1, 4, 4, 4, 1, 9}), {})), instants(3));
    EXPECT_EQ(timesOf(findPeaks(of({0, 4, 4, 0}), {})), instants(1));
    EXPECT_TRUE(findPeaks(of({0, 4, 4}), {}).empty());
    EXPECT_TRUE(findPeaks(of({1, 1, 1, 1}), {}).empty());
    EXPECT_TRUE(findPeaks(of({}), {}).empty());
}

TEST(Peaks, OfTwoTooCloseTheLowerGoes) {
    PeakSearch search;
    search.leastDistance = 3 * kSecond;
    EXPECT_EQ(timesOf(findPeaks(of({0, 3, 0, 5, 0, 0, 4, 0}), search)), (instants(3, 6)));
}

TEST(Peaks, TroughsAreGivenAsTheyAre) {
    PeakSearch search;
    search.troughs = true;
    const auto low = findPeaks(of({5, 2, 5, -1, 5}), search);
    ASSERT_EQ(low.size(), 2u);
    EXPECT_EQ(low[0].height, 2);
    EXPECT_EQ(low[1].height, -1);
    EXPECT_EQ(low[1].prominence, 6);
}

TEST(Peaks, BadSamplesAreNotThere) {
    Series s;
    for (int i = 0; i < 5; ++i)
        s.push(at(i * kSecond), i == 2 ? 100 : i == 3 ? 2 : 1, i == 2 ? Quality::Bad : Quality::Good);
    EXPECT_EQ(timesOf(findPeaks(s, {})), instants(3));
}

/// Prominence by its definition, walking out from every peak.
double prominenceOf(const std::vector<double>& x, std::size_t peak) {
    double left = x[peak], right = x[peak];
    for (std::size_t i = peak; i-- > 0 && x[i] <= x[peak];) left = std::min(left, x[i]);
    for (std::size_t i = peak; i < x.size() && x[i] <= x[peak]; ++i) right = std::min(right, x[i]);
    return x[peak] - std::max(left, right);
}

TEST(Peaks, ProminenceAgreesWithItsDefinitionOnRandomSeries) {
    std::mt19937 random(9);
    for (int round = 0; round < 60; ++round) {
        std::vector<double> x;
        for (int i = 0; i < 200; ++i) x.push_back(static_cast<double>(random() % 12));
        for (const Peak& p : findPeaks(of(x), {})) {
            EXPECT_EQ(p.prominence, prominenceOf(x, p.index));
            EXPECT_LE(p.left, p.time);
            EXPECT_GE(p.right, p.time);
        }
    }
}

TEST(Peaks, NarrowAndBroadPartWhereTheirWidthsDo) {
    std::vector<Peak> peaks;
    for (const int w : {2, 3, 2, 3, 4, 300, 400, 350})
        peaks.push_back({0, at(0), 0, 0, at(0), at(w * kSecond)});
    const Duration bound = narrowBelow(peaks);
    EXPECT_GT(bound, 4 * kSecond);
    EXPECT_LT(bound, 300 * kSecond);
    for (Peak& p : peaks) p.right = at(5 * kSecond);
    EXPECT_EQ(narrowBelow(peaks), Duration());
    EXPECT_EQ(narrowBelow({}), Duration());
}

std::vector<Peak> ofWidths(int n, const std::function<double()>& logSeconds) {
    std::vector<Peak> out;
    for (int i = 0; i < n; ++i)
        out.push_back({0, at(0), 0, 0, at(0), at(fromSeconds(60 * std::exp(logSeconds())))});
    return out;
}
/// The share of many draws in which the widths part.
double partedShare(int n, const std::function<double()>& logSeconds) {
    int parted = 0;
    for (int i = 0; i < 200; ++i) parted += narrowBelow(ofWidths(n, logSeconds)) > Duration::zero();
    return parted / 200.0;
}

TEST(Peaks, WidthsOfOneKindHaveNoClearDivision) {
    std::mt19937 random(11);
    std::normal_distribution<double> normal(0, 1.5);
    std::uniform_real_distribution<double> even(0, 5);
    std::exponential_distribution<double> exponential(1);
    std::student_t_distribution<double> heavy(3);
    const std::vector<std::function<double()>> kinds{
        [&] { return normal(random); }, [&] { return even(random); }, [&] { return heavy(random); },
        [&] { return std::log(exponential(random)); }, [&] { return 1.5 * exponential(random); }};
    for (std::size_t k = 0; k < kinds.size(); ++k)
        for (const int n : {8, 15, 40, 200}) EXPECT_LE(partedShare(n, kinds[k]), 0.1) << k << " " << n;
}

TEST(Peaks, WidthsOfTwoKindsPart) {
    std::mt19937 random(12);
    std::normal_distribution<double> normal(0, 0.5);
    std::bernoulli_distribution isBroad(0.5);
    const auto two = [&] { return normal(random) + (isBroad(random) ? std::log(50) : 0); };
    for (const int n : {15, 40, 200}) EXPECT_GE(partedShare(n, two), 0.85) << n;
}

TEST(Peaks, NoiseProminenceIsPastTheNoise) {
    std::mt19937 random(3);
    std::normal_distribution<double> noise(0, 2);
    std::vector<double> x;
    for (int i = 0; i < 20000; ++i) x.push_back(noise(random));
    PeakSearch search;
    search.leastProminence = noiseProminence(of(x));
    EXPECT_NEAR(search.leastProminence, 12, 0.5);
    const std::size_t left = findPeaks(of(x), search).size();
    EXPECT_LT(left, 20u);
    x[5000] += 30;
    EXPECT_GE(findPeaks(of(x), search).size(), left);
    EXPECT_EQ(noiseProminence(of({1, 2})), 0);
}

}  // namespace
}  // namespace jacinth
