// Every method of golden limits: published figures, and properties against the plain definition.
#include <gtest/gtest.h>

#include <algorithm>
#include <random>

#include "core/golden/golden_limits.h"
#include "core/stats/distributions.h"
#include "core/stats/stats.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

TEST(Tolerance, AgreesWithPublishedFactors) {
    struct Published {
        int n;
        double coverage, confidence, factor, within;
    };
    // Two-sided factors for a normal population with unknown mean and deviation, as statistics tables print
    // them (exact ones); Howe's are within the share given.
    const std::array<Published, 8> table{{{5, 0.95, 0.95, 5.079, 0.004},
                                          {10, 0.95, 0.95, 3.379, 0.002},
                                          {30, 0.95, 0.95, 2.549, 0.001},
                                          {100, 0.95, 0.95, 2.233, 0.001},
                                          {5, 0.99, 0.95, 6.634, 0.012},
                                          {10, 0.99, 0.95, 4.433, 0.004},
                                          {30, 0.99, 0.95, 3.350, 0.001},
                                          {100, 0.99, 0.95, 2.934, 0.001}}};
    for (const Published& p : table)
        EXPECT_NEAR(toleranceFactor(p.n, p.coverage, p.confidence) / p.factor, 1, p.within)
            << p.n << " " << p.coverage << ": " << toleranceFactor(p.n, p.coverage, p.confidence);
}

TEST(Tolerance, ChiSquareAndNormalQuantilesFromTables) {
    EXPECT_NEAR(normalQuantile(0.975), 1.959963984540054, 1e-14);
    EXPECT_NEAR(normalQuantile(0.5), 0, 1e-16);
    EXPECT_NEAR(normalQuantile(1e-10), -6.361340902404056, 1e-12);
    EXPECT_NEAR(chiSquareQuantile(0.05, 4), 0.710723021397324, 1e-12);
    EXPECT_NEAR(chiSquareQuantile(0.95, 1), 3.841458820694124, 1e-12);
    EXPECT_NEAR(chiSquareQuantile(0.05, 99), 77.04633186376, 1e-9);
    EXPECT_TRUE(std::isnan(toleranceFactor(1, 0.95, 0.95)));
    EXPECT_TRUE(std::isnan(chiSquareQuantile(0, 3)));
}

std::vector<AlignedRun> randomRuns(unsigned seed, int n, int slices, bool rounded) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal(50, 4);
    std::uniform_real_distribution<double> share;
    std::vector<AlignedRun> out;
    for (int r = 0; r < n; ++r) {
        AlignedRun run{SpanId(r + 1), {}, static_cast<std::int64_t>(share(random) * 4) - 2};
        for (int i = 0; i < slices; ++i) {
            const double v = normal(random);
            run.values.push_back(share(random) < 0.1 ? std::nan("") : rounded ? std::round(v) : v);
        }
        out.push_back(std::move(run));
    }
    return out;
}

/// The definition, without any short cut.
LimitSlice plain(const LimitSpec& spec, std::vector<double> x) {
    LimitSlice out{Place(), static_cast<int>(x.size()), std::nan(""), std::nan(""), std::nan("")};
    if (out.n < spec.leastRuns) return out;
    switch (spec.method) {
        case LimitMethod::MeanSd:
        case LimitMethod::Tolerance: {
            const double k = spec.method == LimitMethod::MeanSd
                                 ? spec.k
                                 : toleranceFactor(out.n, spec.coverage, spec.confidence);
            out.centre = mean(x);
            out.low = out.centre - k * standardDeviation(x);
            out.high = out.centre + k * standardDeviation(x);
            break;
        }
        case LimitMethod::MedianMad:
            out.centre = median(x);
            out.low = out.centre - spec.k * 1.4826 * medianAbsoluteDeviation(x);
            out.high = out.centre + spec.k * 1.4826 * medianAbsoluteDeviation(x);
            break;
        case LimitMethod::Quantile:
        case LimitMethod::Envelope: {
            const double q = spec.method == LimitMethod::Envelope ? 0 : spec.q;
            out.low = quantile(x, q);
            out.centre = median(x);
            out.high = quantile(x, 1 - q);
            break;
        }
    }
    return out;
}

class EveryMethod : public ::testing::TestWithParam<LimitMethod> {};

TEST_P(EveryMethod, EqualsItsDefinitionAlsoWithoutOneRun) {
    for (unsigned seed = 1; seed <= 12; ++seed) {
        LimitSpec spec;
        spec.method = GetParam();
        spec.every = kMinute;
        const auto runs = randomRuns(seed, 2 + static_cast<int>(seed), 30, seed % 2 == 0);
        for (std::size_t nth = 0; nth <= runs.size(); ++nth) {
            const SpanId without(nth);
            const GoldenLimits g =
                !without ? buildLimits(spec, runs) : buildLimitsWithout(spec, runs, without);
            for (const LimitSlice& s : g.slices) {
                std::vector<double> x;
                for (const AlignedRun& r : runs)
                    if (r.run != without && std::isfinite(r.at(s.offset.time_since_epoch() / kMinute)))
                        x.push_back(r.at(s.offset.time_since_epoch() / kMinute));
                const LimitSlice p = plain(spec, x);
                ASSERT_EQ(s.n, p.n);
                ASSERT_EQ(std::isfinite(s.low), std::isfinite(p.low));
                if (!std::isfinite(p.low)) continue;
                EXPECT_NEAR(s.low, p.low, 1e-9) << "without " << without;
                EXPECT_NEAR(s.centre, p.centre, 1e-9);
                EXPECT_NEAR(s.high, p.high, 1e-9);
            }
        }
    }
}

INSTANTIATE_TEST_SUITE_P(Limits, EveryMethod,
                         ::testing::Values(LimitMethod::MeanSd, LimitMethod::Tolerance,
                                           LimitMethod::MedianMad, LimitMethod::Quantile,
                                           LimitMethod::Envelope),
                         [](const auto& tested) {
                             std::string name = limitMethodName(tested.param);
                             std::erase(name, '-');
                             return name;
                         });

TEST(Tolerance, FewRunsGiveWideLimits) {
    LimitSpec spec;
    spec.method = LimitMethod::Tolerance;
    const auto many = randomRuns(3, 40, 1, false);
    const std::vector<AlignedRun> few(many.begin(), many.begin() + 4);
    const auto width = [&](const std::vector<AlignedRun>& runs) {
        std::vector<AlignedRun> at0;
        for (const AlignedRun& r : runs) at0.push_back({r.run, {r.values[0]}, 0});
        const LimitSlice s = buildLimits(spec, at0).slices[0];
        std::vector<double> x;
        for (const AlignedRun& r : at0)
            if (std::isfinite(r.values[0])) x.push_back(r.values[0]);
        return (s.high - s.low) / standardDeviation(x);
    };
    EXPECT_GT(width(few), 2.5 * width(many));
}

TEST(Smoothing, KeepsAStraightCorridorAndItsEnds) {
    LimitSpec spec;
    spec.every = kMinute;
    spec.smooth = 5;
    std::vector<AlignedRun> runs;
    for (int r = 0; r < 3; ++r) {
        AlignedRun run{SpanId(r + 1), {}, 0};
        for (int i = 0; i < 20; ++i) run.values.push_back(2.0 * i + r);
        runs.push_back(run);
    }
    const GoldenLimits g = buildLimits(spec, runs);
    for (std::size_t i = 0; i < g.slices.size(); ++i)
        EXPECT_NEAR(g.slices[i].centre, 2.0 * static_cast<double>(i) + 1, 1e-12);
    runs[0].values[10] = 500;  // one wild slice is spread over five
    runs[1].values[10] = 500;
    runs[2].values[10] = 500;
    const GoldenLimits wild = buildLimits(spec, runs);
    EXPECT_NEAR(wild.slices[10].centre, (17 + 19 + 500 + 23 + 25) / 5.0, 1e-9);
    EXPECT_NEAR(wild.slices[12].centre, (500 + 23 + 25 + 27 + 29) / 5.0, 1e-9);
    EXPECT_NEAR(wild.slices[13].centre, 27, 1e-9);
}

TEST(Smoothing, DoesNotReachOverSlicesWithoutLimits) {
    LimitSpec spec;
    spec.every = kMinute;
    spec.smooth = 3;
    std::vector<AlignedRun> runs;
    for (int r = 0; r < 3; ++r) runs.push_back({SpanId(r + 1), {1, 2, std::nan(""), 10, 20, 30}, 0});
    const GoldenLimits g = buildLimits(spec, runs);
    EXPECT_TRUE(std::isnan(g.slices[2].centre));
    EXPECT_DOUBLE_EQ(g.slices[1].centre, 2);
    EXPECT_DOUBLE_EQ(g.slices[3].centre, 10);
    EXPECT_DOUBLE_EQ(g.slices[4].centre, 20);
}

TEST(Slack, WidensOnlyWhereGoodRunsAreSteep) {
    LimitSpec spec;
    spec.every = kMinute;
    spec.method = LimitMethod::Envelope;
    spec.slack = 90 * kSecond;  // one slice on either side
    std::vector<AlignedRun> runs;
    for (int r = 0; r < 3; ++r) runs.push_back({SpanId(r + 1), {10, 10, 10, 50, 90, 90, 90}, 0});
    const GoldenLimits g = buildLimits(spec, runs);
    EXPECT_DOUBLE_EQ(g.slices[1].high, 10);
    EXPECT_DOUBLE_EQ(g.slices[2].low, 10);
    EXPECT_DOUBLE_EQ(g.slices[2].high, 50);
    EXPECT_DOUBLE_EQ(g.slices[3].low, 10);
    EXPECT_DOUBLE_EQ(g.slices[3].high, 90);
    EXPECT_DOUBLE_EQ(g.slices[3].centre, 50);
    EXPECT_DOUBLE_EQ(g.slices[6].low, 90);
}

TEST(GoldenStack, TheQuantileOfARunAtAMoment) {
    std::vector<AlignedRun> runs;
    for (int r = 1; r <= 4; ++r) runs.push_back({SpanId(r), {static_cast<double>(r)}, 0});
    const GoldenStack stack({}, runs);
    EXPECT_DOUBLE_EQ(stack.shareBelow(0, 0), 0);
    EXPECT_DOUBLE_EQ(stack.shareBelow(0, 2.5), 0.5);
    EXPECT_DOUBLE_EQ(stack.shareBelow(0, 2), 0.375);  // one below, half of its equal
    EXPECT_DOUBLE_EQ(stack.shareBelow(0, 9), 1);
    EXPECT_TRUE(std::isnan(stack.shareBelow(1, 2)));
}

}  // namespace
}  // namespace jacinth
