// What was rejected steps back with what resembles it.
#include "core/shape/feedback.h"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

namespace jacinth {
namespace {

const double kNone = std::numeric_limits<double>::quiet_NaN();

TEST(Feedback, WithoutVerdictsTheScoreIsTheDistance) {
    const std::vector<double> example{0, 0};
    const std::vector<std::vector<double>> hits{{1, 1}, {3, 3}};
    EXPECT_EQ(scoresAfter(example, hits, {HitVerdict::Open, HitVerdict::Open}), (std::vector<double>{1, 3}));
}

TEST(Feedback, WhatResemblesARejectedOneStepsBack) {
    const std::vector<double> example{0, 0};
    // Two like the rejected one, one on the other side and a little farther away.
    const std::vector<std::vector<double>> hits{{2, 2}, {2.5, 2.5}, {-2.6, -2.6}};
    const auto scores =
        scoresAfter(example, hits, {HitVerdict::Rejected, HitVerdict::Open, HitVerdict::Open});
    EXPECT_DOUBLE_EQ(scores[1], 2.5 * 2.5 / 0.5);
    EXPECT_DOUBLE_EQ(scores[2], 2.6);
    EXPECT_GT(scores[1], scores[2]) << "it was the other way round before";
}

TEST(Feedback, WhatResemblesAnAcceptedOneComesForward) {
    const std::vector<std::vector<double>> hits{{5, 5}, {5.5, 5.5}, {-5.2, -5.2}};
    const auto scores = scoresAfter({0, 0}, hits, {HitVerdict::Accepted, HitVerdict::Open, HitVerdict::Open});
    EXPECT_DOUBLE_EQ(scores[1], 0.5);
    EXPECT_DOUBLE_EQ(scores[0], 5) << "not compared with itself";
    EXPECT_LT(scores[1], scores[2]);
}

TEST(Feedback, StretchesOfAnyLengthAndScaleAreMadeComparable) {
    const std::vector<double> slow{0, 1, 2, 3, 4, 5, 6, 7, 8}, fast{100, 120, 140};
    const auto a = comparable({slow}, 5, false, {1}), b = comparable({fast}, 5, false, {1});
    EXPECT_NEAR(shapeDistance(a, b), 0, 1e-12);
    EXPECT_NEAR(shapeDistance(comparable({slow}, 5, true, {2}), comparable({{0, 8}}, 5, true, {2})), 0,
                1e-12);
    EXPECT_GT(shapeDistance(comparable({slow}, 5, true, {2}), comparable({fast}, 5, true, {2})), 10);
    EXPECT_EQ(comparable({{0, kNone, 2, kNone, 4}}, 5, true, {1}), (std::vector<double>{0, 1, 2, 3, 4}));
    EXPECT_EQ(comparable({{kNone, 3, kNone}}, 3, true, {1}), (std::vector<double>{3, 3, 3}));
    EXPECT_EQ(comparable({{kNone, kNone}, {7, 7, 7}}, 2, false, {1, 1}), (std::vector<double>{0, 0, 0, 0}));
}

}  // namespace
}  // namespace jacinth
