#include "core/mend/interpolate.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

const std::vector<double> kX{0, 1, 3, 4, 7}, kY{0, 1, 2, 5, 5};

TEST(MonotoneCubic, GoesThroughItsPointsAndKeepsTheShape) {
    const auto curve = PiecewiseCubic::monotone(kX, kY);
    for (std::size_t i = 0; i < kX.size(); ++i) EXPECT_NEAR(curve.at(kX[i]), kY[i], 1e-12);
    double before = -1;
    for (int i = 0; i <= 700; ++i) {
        const double x = 0.01 * i;
        EXPECT_GE(curve.at(x), before - 1e-12);
        EXPECT_LE(curve.at(x), 5 + 1e-12);
        before = curve.at(x);
    }
}

TEST(MonotoneCubic, ByHand) {
    // Secants 1, 0.5, 3, 0. At 1: w1 = 2·2 + 1, w2 = 2 + 2·1: 9 / (5/1 + 4/0.5) = 9/13. At 3: w1 = 2·1 + 2,
    // w2 = 1 + 2·2: 9 / (4/0.5 + 5/3) = 27/29. In the middle of both: (1 + 2)/2 + 2·(9/13 − 27/29)/8.
    const auto curve = PiecewiseCubic::monotone(kX, kY);
    EXPECT_NEAR(curve.at(2), 1.5 + 2 * (9.0 / 13 - 27.0 / 29) / 8, 1e-12);
    // A turn is flat.
    const auto turn = PiecewiseCubic::monotone(std::vector<double>{0, 1, 2}, std::vector<double>{0, 1, 0});
    EXPECT_NEAR(turn.at(1.0001), 1, 1e-7);
}

TEST(NaturalSpline, ByHand) {
    // Through (0,0), (1,1), (2,0): second derivative −3 in the middle; at 0.5: 0.5 + 3·0.5·(1 − 0.25)/6.
    const auto curve = PiecewiseCubic::natural(std::vector<double>{0, 1, 2}, std::vector<double>{0, 1, 0});
    EXPECT_NEAR(curve.at(0.5), 0.6875, 1e-12);
    EXPECT_NEAR(curve.at(1.5), 0.6875, 1e-12);
    EXPECT_NEAR(curve.at(1), 1, 1e-12);
}

TEST(NaturalSpline, IsSmoothAtItsPoints) {
    const auto curve = PiecewiseCubic::natural(kX, kY);
    const double h = 1e-4;
    for (std::size_t i = 1; i + 1 < kX.size(); ++i) {
        EXPECT_NEAR(curve.at(kX[i]), kY[i], 1e-12);
        const auto second = [&](double x) {
            return (curve.at(x + h) - 2 * curve.at(x) + curve.at(x - h)) / (h * h);
        };
        EXPECT_NEAR(second(kX[i] - 2 * h), second(kX[i] + 2 * h), 5e-2);
    }
}

TEST(PiecewiseCubics, OfALineAreTheLineAndOfTwoPointsToo) {
    std::vector<double> x, y;
    for (int i = 0; i < 9; ++i) x.push_back(i * i + i), y.push_back(3 - 0.5 * (i * i + i));
    for (const auto& curve : {PiecewiseCubic::monotone(x, y), PiecewiseCubic::natural(x, y)})
        for (int i = 0; i < 100; ++i) EXPECT_NEAR(curve.at(0.7 * i), 3 - 0.35 * i, 1e-9);
    const auto two = PiecewiseCubic::natural(std::vector<double>{0, 4}, std::vector<double>{1, 3});
    EXPECT_NEAR(two.at(1), 1.5, 1e-12);
}

}  // namespace
}  // namespace jacinth
