#include "core/golden/whole_runs.h"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr double kNever = std::numeric_limits<double>::infinity();

GoldenLimits tenAround(double centre) {
    GoldenLimits out;
    out.spec.every = kHour;
    for (int i = 0; i <= 10; ++i)
        out.slices.push_back({Place(i * kHour), 5, centre - 10, centre, centre + 10});
    return out;
}

class WholeRuns : public testing::Test {
  protected:
    /// An hour at `peak`, the rest at the centre.
    double factorOf(double peak) const {
        Series s;
        for (int m = 0; m <= 600; ++m) s.push(at(m * kMinute), m >= 240 && m < 300 ? peak : 50);
        return factorToHold(s.view(), {TagKind::Continuous, 10 * kMinute},
                            scaleFromStart({at({}), at(10 * kHour)}), tenAround(50), {});
    }
};

TEST_F(WholeRuns, AreHeldByTheLeastFactor) {
    EXPECT_EQ(factorOf(59), 1);
    EXPECT_NEAR(factorOf(62), 1.2, 0.006);
    EXPECT_NEAR(factorOf(38), 1.2, 0.006);
    EXPECT_EQ(factorOf(71), kNever);
}

TEST(FactorForRuns, HoldsTheShareThatIsAskedFor) {
    std::vector<double> factors(400, 1.0);
    factors[3] = 1.1, factors[50] = 1.15, factors[80] = 1.2, factors[90] = 1.25, factors[91] = 1.28;
    EXPECT_EQ(factorForRuns(factors, 0.99), 1.1);  // four of 400 may lie outside
    EXPECT_EQ(factorForRuns(factors, 0.995), 1.2);
    EXPECT_EQ(factorForRuns({1, 1.05, 1}, 0.99), 1) << "one is no evidence of a share";
    EXPECT_EQ(factorForRuns({1, 1.05, 1.2}, 0.99), 1.05);
    EXPECT_EQ(factorForRuns({1.2}, 0.99), 1);
    EXPECT_EQ(factorForRuns({kNever}, 0.99), 1);
    EXPECT_EQ(factorForRuns({1e9, 1e9, 1e9, 1e9, 1e9}, 0.99), kMostWidened);
    EXPECT_EQ(factorForRuns({}, 0.99), 1);
}

TEST(FactorForRuns, OddRunsAreSaidAndNotHeldUnlessThereAreMany) {
    std::vector<double> factors(40, 1.0);
    factors[0] = kNever, factors[1] = 1.9, factors[2] = 1.4;
    EXPECT_EQ(factorForRuns(factors, 0.99), 1);
    factors[3] = factors[4] = 1.6;  // five of 40: the plant is like that
    EXPECT_EQ(factorForRuns(factors, 0.99), 1.6);
}

TEST(WidenedBy, KeepsTheCentreAndIsRememberedForOneLessRun) {
    const GoldenLimits wide = widenedBy(tenAround(50), 1.5);
    EXPECT_EQ(wide.slices[4].low, 35);
    EXPECT_EQ(wide.slices[4].centre, 50);
    EXPECT_EQ(wide.slices[4].high, 65);
    EXPECT_EQ(widenedBy(wide, 1.2).widened, 1.5 * 1.2);
    LimitSpec spec;
    spec.method = LimitMethod::Tolerance;
    std::vector<AlignedRun> golden;
    for (int i = 0; i < 6; ++i) golden.push_back({SpanId(i + 1), {double(i), double(2 * i)}, 0});
    const GoldenLimits plain = GoldenStack(spec, golden).without(golden[2]),
                       widened = GoldenStack(spec, golden, 1.25).without(golden[2]);
    for (std::size_t i = 0; i < plain.slices.size(); ++i)
        EXPECT_NEAR(widened.slices[i].high - widened.slices[i].centre,
                    1.25 * (plain.slices[i].high - plain.slices[i].centre), 1e-12);
}

}  // namespace
}  // namespace jacinth
