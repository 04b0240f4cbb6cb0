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
    EXPECT_NEAR(factorOf(59), 0.9, 0.006) << "limits that could be narrower";
    EXPECT_EQ(factorOf(50.1), kLeastFactor);
    EXPECT_NEAR(factorOf(62), 1.2, 0.006);
    EXPECT_NEAR(factorOf(38), 1.2, 0.006);
    EXPECT_EQ(factorOf(71), kNever);
}

/// The factors of n runs of which the share s exceeds 1 − 0.05·ln(s·10): evenly, so without chance.
std::vector<double> exponentialFactors(int n) {
    std::vector<double> out;
    for (int i = 0; i < n; ++i) out.push_back(1 - 0.05 * std::log(10 * (i + 0.5) / n));
    return out;
}

TEST(FactorForRuns, HoldsTheShareThatIsAskedForHoweverFewTheRuns) {
    for (const int n : {20, 40, 100, 400, 4000}) {
        const double least = 1 - 0.05 * std::log(10 * kRunsBeyond * 0.01);
        EXPECT_NEAR(factorForRuns(exponentialFactors(n), 0.99), least, n < 100 ? 0.02 : 0.01) << n;
    }
}

TEST(FactorForRuns, NeedsRunsThatDiffer) {
    EXPECT_EQ(factorForRuns(std::vector<double>(30, 0.8), 0.99), 1) << "never narrower";
    EXPECT_NEAR(factorForRuns(std::vector<double>(30, 1.1), 0.99), 1.1, 1e-12);
    EXPECT_GT(factorForRuns({0.8, 0.9, 1.1}, 0.99), 1.1) << "the largest of three is not all there can be";
    EXPECT_EQ(factorForRuns({1.2}, 0.99), 1) << "a single run says nothing of a share";
    EXPECT_EQ(factorForRuns({kNever}, 0.99), 1);
    EXPECT_EQ(factorForRuns({1e9, 1e9, 1e9, 1e9, 1e9}, 0.99), kMostWidened);
    EXPECT_EQ(factorForRuns({}, 0.99), 1);
}

TEST(FactorForRuns, OddRunsAreSaidAndNotHeldUnlessThereAreMany) {
    std::vector<double> factors(40, 1.0);
    factors[0] = kNever, factors[1] = 1.9, factors[2] = 1.4;
    EXPECT_EQ(factorForRuns(factors, 0.99), 1);
    factors[3] = factors[4] = 1.6;  // five of 40: the plant is like that
    EXPECT_GT(factorForRuns(factors, 0.99), 1.6);
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
