#include "core/mend/readings.h"

#include <gtest/gtest.h>

#include <random>

#include <cmath>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr Bridging kLines{TagKind::Continuous, kDay};

/// 40 with a drift of 0.06 an hour, and readings of 40 every twenty hours.
struct Drifting {
    Series series;
    std::vector<CheckReading> readings;
    Drifting() {
        for (int h = 0; h <= 100; ++h) series.push(at(h * kHour), 40 + 0.06 * h);
        for (int h = 0; h <= 100; h += 20) readings.push_back({at(h * kHour), 40.0, "M. L."});
    }
    std::vector<ReadingOff> offs(TimeRange stretch = between(0, 100 * kHour)) const {
        return readingsAgainst(series, kLines, stretch, readings);
    }
};

TEST(Readings, StandBesideTheValueInOrderOfTime) {
    Drifting d;
    d.readings.push_back({at(10 * kHour), 41, ""});
    d.readings.push_back({at(5 * kDay + 40 * kHour), 41, ""});  // behind the record
    const auto offs = d.offs(between(0, 40 * kHour));
    ASSERT_EQ(offs.size(), 4u);
    EXPECT_EQ(offs[1].reading.time, at(10 * kHour));
    EXPECT_NEAR(offs[1].off, 0.4, 1e-12);
    EXPECT_NEAR(offs[3].off, -2.4, 1e-12);
}

TEST(Readings, ARampFindsTheDriftItWasGiven) {
    const Drifting d;
    const RampFit fit = *fitRamp(d.offs(), between(0, 100 * kHour), {});
    EXPECT_NEAR(fit.startBy, 0, 1e-9);
    EXPECT_NEAR(fit.endBy, -6, 1e-9);
    EXPECT_EQ(fit.readings, 6);
    // What is off: 0, −1.2, … −6: RMS √(1.44·(0+1+4+9+16+25)/6).
    EXPECT_NEAR(fit.misfitBefore, std::sqrt(1.44 * 55 / 6), 1e-9);
    EXPECT_NEAR(fit.misfitAfter, 0, 1e-9);
}

TEST(Readings, WithAFixedStartOnlyTheEndMoves) {
    Series s;
    for (int h = 0; h <= 10; ++h) s.push(at(h * kHour), 10);
    const std::vector<CheckReading> readings{{at(5 * kHour), 11, ""}, {at(10 * kHour), 12, ""}};
    const TimeRange stretch = between(0, 10 * kHour);
    const RampFit fit = *fitRamp(readingsAgainst(s, kLines, stretch, readings), stretch, 0.0);
    EXPECT_DOUBLE_EQ(fit.startBy, 0);
    EXPECT_NEAR(fit.endBy, 2, 1e-12);  // 1 at the half, 2 at the end
}

TEST(Readings, TooFewAreSaid) {
    const Drifting d;
    const TimeRange stretch = between(0, 10 * kHour);
    EXPECT_EQ(fitRamp(d.offs(stretch), stretch, {}).error().message,
              "1 check reading in this stretch; a ramp needs 2");
    EXPECT_EQ(fitRamp({}, stretch, 0.0).error().message, "0 check readings in this stretch; a ramp needs 1");
    EXPECT_EQ(fitRamp(d.offs(stretch), stretch, 0.0).error().message,
              "the only check reading lies at the fixed start");
    EXPECT_EQ(fitBend(d.offs(stretch)).error().message,
              "check readings at 1 moment in this stretch; a bend needs two");
}

/// The share of many noisy drifts whose true end lies within what the fit says of itself.
double coveredShare(std::mt19937& random, std::optional<double> fixedStart, bool atEnd) {
    std::normal_distribution<double> noise(0, 0.7);
    std::uniform_real_distribution<double> when(0, 100);
    int covered = 0;
    const int rounds = 2000;
    for (int r = 0; r < rounds; ++r) {
        std::vector<ReadingOff> readings;
        for (int i = 0; i < 5; ++i) {
            const double hour = when(random);
            readings.push_back({{at(fromSeconds(hour * 3600)), 0, ""}, 2 - 0.09 * hour + noise(random)});
        }
        const RampFit fit = *fitRamp(readings, between(0, 100 * kHour), fixedStart);
        covered +=
            atEnd ? std::abs(fit.endBy + 7) <= fit.endSure : std::abs(fit.startBy - 2) <= fit.startSure;
    }
    return covered / double(rounds);
}

TEST(Readings, ARampSaysHowSureItsEndsAre) {
    std::mt19937 random(4);
    EXPECT_NEAR(coveredShare(random, {}, true), 0.95, 0.015);
    EXPECT_NEAR(coveredShare(random, {}, false), 0.95, 0.015);
    EXPECT_NEAR(coveredShare(random, 2.0, true), 0.95, 0.015);
    const Drifting d;
    const TimeRange stretch = between(0, 100 * kHour);
    EXPECT_EQ(fitRamp(d.offs(), stretch, 0.0)->startSure, 0);
    // As many readings as ends: nothing is left to tell it by.
    EXPECT_TRUE(std::isnan(fitRamp(d.offs(between(0, 20 * kHour)), stretch, {})->endSure));
    EXPECT_TRUE(std::isnan(fitRamp(d.offs(between(kHour, 20 * kHour)), stretch, 0.0)->endSure));
}

TEST(Readings, ABendIsAsSureAsReadingsAtOneMomentAgree) {
    Drifting d;
    EXPECT_TRUE(std::isnan(fitBend(d.offs())->knotSure(1)));
    d.readings.push_back({at(20 * kHour), 42, ""});
    const BendFit fit = *fitBend(d.offs());
    EXPECT_EQ(fit.degrees, 1);
    EXPECT_EQ(fit.readingsAt, (std::vector<int>{1, 2, 1, 1, 1, 1}));
    EXPECT_NEAR(fit.spread, std::sqrt(2.0), 1e-12);  // 40 and 42
    EXPECT_NEAR(fit.knotSure(1), 12.7062 * std::sqrt(2.0), 1e-3);
    EXPECT_NEAR(fit.knotSure(2), 12.7062, 1e-3);
}

TEST(Readings, ABendHasAKnotAtEachMoment) {
    Drifting d;
    d.readings.push_back({at(20 * kHour), 42, ""});
    const BendFit fit = *fitBend(d.offs());
    ASSERT_EQ(fit.bend.knots.size(), 6u);
    EXPECT_NEAR(fit.bend.knots[1].by, 41 - 41.2, 1e-12);  // the mean of 40 and 42
    EXPECT_NEAR(fit.bend.knots[5].by, -6, 1e-12);
    EXPECT_NEAR(fit.misfitAfter, std::sqrt(2.0 / 7), 1e-12);
    EXPECT_EQ(fit.readings, 7);
}

TEST(Readings, TheOneThatDoesNotGoWithTheOthersIsNamed) {
    Drifting d;
    for (std::size_t i = 0; i < d.readings.size(); ++i) d.readings[i].value += i % 2 ? 0.1 : -0.1;
    auto offs = d.offs();
    EXPECT_EQ(markOutlying(offs), 0);
    d.readings[3].value = 47;  // a slip of the pen
    offs = d.offs();
    EXPECT_EQ(markOutlying(offs), 1);
    EXPECT_TRUE(offs[3].outlying);
    // Also where the others agree to the last digit.
    for (std::size_t i = 0; i < d.readings.size(); ++i)
        d.readings[i].value = d.series.values[20 * i] + (i == 3 ? 9 : 0);
    offs = d.offs();
    EXPECT_EQ(markOutlying(offs), 1);
    EXPECT_TRUE(offs[3].outlying);
    d.readings[3].value -= 9;
    offs = d.offs();
    EXPECT_EQ(markOutlying(offs), 0);
    d.readings[3].value = 47;
    // Of four no one can say.
    d.readings.resize(4);
    offs = d.offs();
    EXPECT_EQ(markOutlying(offs), 0);
}

}  // namespace
}  // namespace jacinth
