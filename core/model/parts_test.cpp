#include "core/model/parts.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

namespace jacinth {
namespace {

std::vector<double> daily(int n, int period, double noise, bool multiplied = false) {
    std::mt19937 random(5);
    std::normal_distribution<double> rest(0, noise);
    std::vector<double> y;
    for (int i = 0; i < n; ++i) {
        const double level = 100 + 0.2 * i, swing = std::sin(2 * std::numbers::pi * i / period);
        y.push_back(multiplied ? level * (1 + 0.2 * swing) * std::exp(rest(random))
                               : level + 10 * swing + rest(random));
    }
    return y;
}

TEST(ClassicalParts, ByHand) {
    // A line of slope 1 with +1, −1 on top: period 2.
    std::vector<double> y;
    for (int i = 0; i < 8; ++i) y.push_back(i + (i % 2 ? -1 : 1));
    const auto p = classicalParts(y, 2, false);
    ASSERT_TRUE(p);
    EXPECT_TRUE(std::isnan(p->trend[0]));
    EXPECT_TRUE(std::isnan(p->trend[7]));
    for (int i = 1; i < 7; ++i) {
        EXPECT_DOUBLE_EQ(p->trend[static_cast<std::size_t>(i)], i);
        EXPECT_DOUBLE_EQ(p->cycle[static_cast<std::size_t>(i)], i % 2 ? -1 : 1);
        EXPECT_NEAR(p->remainder[static_cast<std::size_t>(i)], 0, 1e-12);
    }
}

TEST(Parts, PutTogetherAgainTheyAreTheSeries) {
    for (const bool multiplied : {false, true})
        for (const int period : {7, 24}) {
            const auto y = daily(480, period, multiplied ? 0.02 : 1, multiplied);
            for (const bool robust : {false, true}) {
                LoessSpans spans;
                spans.robust = robust;
                const auto p = loessParts(y, period, multiplied, spans);
                ASSERT_TRUE(p);
                for (std::size_t i = 0; i < y.size(); ++i)
                    EXPECT_NEAR(multiplied ? p->trend[i] * p->cycle[i] * p->remainder[i]
                                           : p->trend[i] + p->cycle[i] + p->remainder[i],
                                y[i], 1e-9);
            }
        }
}

TEST(LoessParts, ALineAndACleanCycleComeApartCleanly) {
    const auto y = daily(480, 24, 0);
    const auto p = *loessParts(y, 24, false);
    for (std::size_t i = 48; i + 48 < y.size(); ++i) {
        EXPECT_NEAR(p.trend[i], 100 + 0.2 * static_cast<double>(i), 0.05);
        EXPECT_NEAR(p.remainder[i], 0, 0.05);
    }
}

TEST(LoessParts, RobustWeightsLeaveAnOutlierInTheRemainder) {
    auto y = daily(480, 24, 0.5);
    y[240] += 80;
    LoessSpans robust;
    robust.robust = true;
    const auto plain = *loessParts(y, 24, false), firm = *loessParts(y, 24, false, robust);
    EXPECT_GT(firm.remainder[240], 75);
    EXPECT_GT(firm.remainder[240], plain.remainder[240] + 10);
    EXPECT_LT(std::abs(firm.remainder[264]),
              std::abs(plain.remainder[264]));  // a day later: not pulled along
}

TEST(LoessParts, JumpingChangesLittle) {
    const auto y = daily(960, 24, 1);
    LoessSpans jumping;
    jumping.jump = 3;
    const auto a = *loessParts(y, 24, false), b = *loessParts(y, 24, false, jumping);
    for (std::size_t i = 0; i < y.size(); ++i) EXPECT_NEAR(a.trend[i], b.trend[i], 0.1);
}

TEST(Parts, RefuseWhatCannotBe) {
    const auto y = daily(40, 24, 1);
    EXPECT_FALSE(loessParts(y, 24, false));
    EXPECT_FALSE(classicalParts(y, 24, false));
    EXPECT_FALSE(loessParts(y, 1, false));
    std::vector<double> zero(100, 0.0);
    EXPECT_FALSE(loessParts(zero, 10, true));
    EXPECT_FALSE(classicalParts(zero, 10, true));
    LoessSpans even;
    even.cycle = 8;
    EXPECT_FALSE(loessParts(daily(480, 24, 1), 24, false, even));
    int asked = 0;
    EXPECT_EQ(
        loessParts(daily(480, 24, 1), 24, false, {}, [&](double) { return ++asked < 3; }).error().message,
        "cancelled");
    EXPECT_EQ(asked, 3);
}

TEST(Proposals, ThePeriodIsFoundAndNoiseHasNone) {
    EXPECT_EQ(proposePeriod(daily(480, 24, 3)).period, 24);
    EXPECT_NEAR(proposePeriod(daily(480, 60, 3)).period, 60, 1);  // a flat top, with noise
    std::mt19937 random(8);
    std::vector<double> noise;
    for (int i = 0; i < 2000; ++i) noise.push_back(static_cast<double>(random() % 1000));
    EXPECT_EQ(proposePeriod(noise).period, 0);
    EXPECT_EQ(proposePeriod(std::vector<double>(100, 5.0)).period, 0);
    EXPECT_EQ(proposePeriod(std::vector<double>(5, 5.0)).period, 0);
}

TEST(Proposals, AddedOrMultipliedWithAReason) {
    EXPECT_FALSE(proposeKind(daily(960, 24, 2), 24)->multiplied);
    const auto proposal = *proposeKind(daily(960, 24, 0.03, true), 24);
    EXPECT_TRUE(proposal.multiplied) << proposal.reason;
    EXPECT_TRUE(proposal.reason.starts_with("Multiplied: ")) << proposal.reason;
    auto below = daily(960, 24, 2);
    below[5] = -1;
    EXPECT_TRUE(proposeKind(below, 24)->reason.find("above 0") != std::string::npos);
}

}  // namespace
}  // namespace jacinth
