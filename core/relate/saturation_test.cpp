#include "core/relate/saturation.h"

#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <random>

#include "core/stats/nile_for_tests.h"

namespace jacinth {
namespace {

Regressor ones(std::size_t n) {
    return {"constant", std::vector<double>(n, 1.0)};
}

std::vector<double> noise(std::size_t n, unsigned seed) {
    std::mt19937_64 random(seed);
    std::normal_distribution<double> normal;
    std::vector<double> out(n);
    for (double& v : out) v = normal(random);
    return out;
}

// By statsmodels: OLS(y, [1, x1, x2]): value, standard error, t, p.
constexpr std::array<std::array<double, 4>, 3> kByStatsmodels{
    {{0.9205855855855836, 0.11531653997097419, 7.983118343797863, 0.0004978123020581382},
     {1.9915315315315312, 0.021911217510767245, 90.89095713430282, 3.0558876700438476e-09},
     {0.4072072072072097, 0.07963016127200648, 5.113730786206018, 0.0037267553274548805}}};
constexpr double kR2 = 0.9993951361052152;

TEST(LeastSquares, ValuesErrorsAndR2) {
    const std::vector<double> y{3.1, 4.9, 7.2, 8.8, 11.5, 12.6, 15.3, 16.8};
    const std::vector<Regressor> x{
        ones(8), {"x1", {1, 2, 3, 4, 5, 6, 7, 8}}, {"x2", {0.5, -0.2, 0.9, 0.1, 1.4, -0.8, 0.6, 0.3}}};
    const auto fit = leastSquares(y, x);
    ASSERT_TRUE(fit);
    EXPECT_NEAR(fit->coefficients[0].value, kByStatsmodels[0][0], 1e-10);
    for (std::size_t i = 0; i < 3; ++i) {
        EXPECT_NEAR(fit->coefficients[i].value, kByStatsmodels[i][0], 1e-10) << i;
        EXPECT_NEAR(fit->coefficients[i].error, kByStatsmodels[i][1], 1e-10) << i;
        EXPECT_NEAR(fit->coefficients[i].t, kByStatsmodels[i][2], 1e-7) << i;
        EXPECT_NEAR(fit->coefficients[i].probability, kByStatsmodels[i][3], 1e-10) << i;
    }
    EXPECT_NEAR(fit->r2, kR2, 1e-12);
}

TEST(LeastSquares, WhatCannotBeFittedIsNamed) {
    const auto fit = leastSquares(std::vector<double>{1, 2, 3, 4}, {ones(4), {"twice", {2, 2, 2, 2}}});
    ASSERT_FALSE(fit);
    EXPECT_NE(fit.error().message.find("combination"), std::string::npos);
    EXPECT_FALSE(leastSquares(std::vector<double>{1, 2}, {ones(2), {"x", {1, 2}}}))
        << "as many rows as regressors";
}

struct Gauge {
    IndicatorKind kind;
    double alpha;
    int runs;
};
class OnWhiteNoise : public ::testing::TestWithParam<Gauge> {};

/// Of n candidates about alpha·n survive by chance.
TEST_P(OnWhiteNoise, AboutAlphaNIndicatorsSurvive) {
    constexpr std::size_t n = 100;
    const Gauge g = GetParam();
    SaturationSpec spec;
    spec.alpha = g.alpha;
    spec.kinds = {g.kind};
    double sum = 0, squares = 0;
    for (int run = 0; run < g.runs; ++run) {
        const auto relation = saturate(noise(n, 500 + static_cast<unsigned>(run)), {ones(n)}, spec);
        ASSERT_TRUE(relation);
        const auto k = static_cast<double>(relation->found.size());
        sum += k, squares += k * k;
    }
    const double mean = sum / g.runs, error = std::sqrt((squares / g.runs - mean * mean) / g.runs);
    EXPECT_NEAR(mean, g.alpha * n, 3 * error) << mean << " ± " << error;
}
INSTANTIATE_TEST_SUITE_P(Saturation, OnWhiteNoise,
                         ::testing::Values(Gauge{IndicatorKind::Point, 0.01, 1000},
                                           Gauge{IndicatorKind::Level, 0.01, 300}));

/// The power of a t-test that knows where to look, Φ(λ − 2.6) for a point of λ standard deviations at alpha
/// 0.01 in 100 rows, is the most that a search can have; this one loses a few per cent of it.
TEST(Saturation, APlantedPointIsFoundWithThePowerOfATTest) {
    constexpr std::size_t n = 100;
    constexpr int kRuns = 400;
    SaturationSpec spec;
    spec.kinds = {IndicatorKind::Point};
    for (const auto& [size, power] : {std::pair{3.0, 0.655}, {4.0, 0.919}, {5.0, 0.992}}) {
        int found = 0;
        for (unsigned run = 0; run < kRuns; ++run) {
            std::vector<double> y = noise(n, 7000 + run);
            y[40] += size;
            const auto relation = saturate(y, {ones(n)}, spec);
            ASSERT_TRUE(relation);
            for (const FoundIndicator& f : relation->found) found += f.row == 40;
        }
        const double share = found / static_cast<double>(kRuns);
        const double error = std::sqrt(power * (1 - power) / kRuns);
        EXPECT_LT(share, power + 3 * error) << size;
        EXPECT_GT(share, power - 0.08) << size;
        std::cout << size << ": " << share << " of " << kRuns << "\n";
    }
}

/// A shift that a t-test at the known place would see (λ·√(n₀·n₁/n) well above 2.6) is seen; its row is as
/// sure as its size makes it.
TEST(Saturation, APlantedShiftIsSeenAndPlaced) {
    constexpr std::size_t n = 100;
    constexpr int kRuns = 60;
    SaturationSpec spec;
    spec.kinds = {IndicatorKind::Level};
    for (const auto& [size, placed] : {std::pair{1.5, 0.75}, {3.0, 0.9}}) {
        int seen = 0, near = 0;
        for (unsigned run = 0; run < kRuns; ++run) {
            std::vector<double> y = noise(n, 5000 + run);
            for (std::size_t i = 50; i < n; ++i) y[i] += size;
            const auto relation = saturate(y, {ones(n)}, spec);
            ASSERT_TRUE(relation);
            seen += !relation->found.empty();
            near += std::any_of(relation->found.begin(), relation->found.end(),
                                [](const FoundIndicator& f) { return f.row >= 47 && f.row <= 53; });
        }
        EXPECT_GE(seen, 0.95 * kRuns) << size;
        EXPECT_GE(near, placed * kRuns) << size;
    }
}

TEST(Saturation, TheNilesShiftOf1899) {
    const std::vector<double> flow(kNile.begin(), kNile.end());
    SaturationSpec spec;
    spec.alpha = 0.005;
    spec.kinds = {IndicatorKind::Level};
    const auto relation = saturate(flow, {ones(flow.size())}, spec);
    ASSERT_TRUE(relation);
    ASSERT_EQ(relation->found.size(), 1u);
    EXPECT_EQ(relation->found[0].row, 28u);  // 1899
    EXPECT_NEAR(relation->found[0].size, -247.8, 0.1);
    EXPECT_GT(relation->after.r2, relation->before.r2 + 0.3);
    EXPECT_LT(relation->diagnosticsBefore.autocorrelation, 0.001);
    EXPECT_GT(relation->diagnosticsAfter.autocorrelation, 0.01);
}

TEST(Saturation, PlantedPointsAndShiftsAreFoundBesideARegressor) {
    constexpr std::size_t n = 120;
    int points = 0, levels = 0;
    constexpr int kRuns = 40;
    for (unsigned run = 0; run < kRuns; ++run) {
        const std::vector<double> e = noise(n, 900 + run), drive = noise(n, 2000 + run);
        std::vector<double> y(n);
        for (std::size_t i = 0; i < n; ++i)
            y[i] = 2 + 1.5 * drive[i] + e[i] + (i >= 70 ? 4 : 0) + (i == 30 ? 6 : 0);
        const auto relation = saturate(y, {ones(n), {"drive", drive}}, {});
        ASSERT_TRUE(relation);
        for (const FoundIndicator& f : relation->found) {
            points += f.kind == IndicatorKind::Point && f.row == 30;
            levels += f.kind == IndicatorKind::Level && f.row >= 69 && f.row <= 71;
        }
        EXPECT_NEAR(relation->after.coefficients[1].value, 1.5, 0.4);
    }
    // A point of 6 standard deviations against a limit of about 2.8, and 4 of them for a level over 50 rows.
    EXPECT_GE(points, kRuns * 9 / 10);
    EXPECT_GE(levels, kRuns * 8 / 10) << "within a row of the true one; some runs say it with two levels";
}

TEST(Saturation, ATrendBreakIsFound) {
    constexpr std::size_t n = 100;
    std::vector<double> y = noise(n, 4);
    for (std::size_t i = 60; i < n; ++i) y[i] += 0.4 * static_cast<double>(i - 60);
    SaturationSpec spec;
    spec.kinds = {IndicatorKind::Trend};
    spec.alpha = 0.001;
    const auto relation = saturate(y, {ones(n)}, spec);
    ASSERT_TRUE(relation);
    ASSERT_FALSE(relation->found.empty());
    double slope = 0;  // at the end: what all breaks add up to
    for (const FoundIndicator& f : relation->found) slope += f.size;
    EXPECT_NEAR(slope, 0.4, 0.1);
    EXPECT_NEAR(static_cast<double>(relation->found[0].row), 60, 12);
    EXPECT_GT(relation->after.r2, 0.9);
}

TEST(Saturation, WhatCannotBeSearchedIsSaid) {
    EXPECT_FALSE(saturate(noise(10, 1), {ones(10)}, {}));
    SaturationSpec spec;
    spec.alpha = 0;
    EXPECT_FALSE(saturate(noise(50, 1), {ones(50)}, spec));
    const auto stopped = saturate(noise(100, 1), {ones(100)}, {}, [](double) { return false; });
    ASSERT_FALSE(stopped);
    EXPECT_TRUE(stopped.error().isCancelled());
    spec.alpha = 0.01;
    spec.kinds.clear();
    const auto plain = saturate(noise(50, 1), {ones(50)}, spec);
    ASSERT_TRUE(plain);
    EXPECT_TRUE(plain->found.empty());
}

}  // namespace
}  // namespace jacinth
