#include "core/mend/fix.h"
#include "core/time/times_for_tests.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

Series flat(int n, double v) {
    Series s;
    for (int i = 0; i < n; ++i) s.push(at(i * kHour), v);
    return s;
}

Fix ramp(Duration from, Duration to, double a, double b) {
    Fix f;
    f.kind = FixKind::Ramp;
    f.from = at(from);
    f.to = at(to);
    f.startBy = a;
    f.endBy = b;
    return f;
}

TEST(Fixes, RampByHandBothEndsIncluded) {
    Series s = flat(6, 50);
    const std::vector<Fix> fixes{ramp(kHour, 4 * kHour, 1, -2)};
    applyFixes(fixes, s);
    EXPECT_EQ(s.values, (std::vector<double>{50, 51, 50, 49, 48, 50}));
    EXPECT_DOUBLE_EQ(changeAt(fixes, at(2 * kHour + kHour / 2)), -0.5);
}

TEST(Fixes, ShiftAndOrderAndOff) {
    Series s = flat(4, 0);
    Fix shift;
    shift.from = at(kHour);
    shift.to = at(2 * kHour);
    shift.startBy = shift.endBy = 5;
    Fix off = shift;
    off.on = false;
    const std::vector<Fix> fixes{shift, off, shift};
    applyFixes(fixes, s);
    EXPECT_EQ(s.values, (std::vector<double>{0, 10, 10, 0}));
    EXPECT_FALSE(off.touches(between(0, kDay)));
}

TEST(Fixes, AllOffGivesTheLoggedTag) {
    Series s = flat(50, 12.34);
    const Series before = s;
    std::vector<Fix> fixes{ramp({}, 40 * kHour, 1, 7), ramp(3 * kHour, 9 * kHour, -1, 0)};
    for (Fix& f : fixes) f.on = false;
    applyFixes(fixes, s);
    EXPECT_EQ(s.values, before.values);
}

TEST(Fixes, WrongOnesAreRefused) {
    EXPECT_FALSE(validateFix(ramp(kHour, {}, 0, 1)));
    EXPECT_FALSE(validateFix(ramp(kHour, kHour, 0, 1)));
    EXPECT_FALSE(validateFix(ramp({}, kHour, 0, std::nan(""))));
    EXPECT_TRUE(validateFix(ramp({}, kHour, 0, 1)));
}

TEST(FitRamp, FindsTheDriftItWasGiven) {
    Series s = flat(101, 40);
    for (std::size_t i = 0; i < s.size(); ++i) s.values[i] += 0.06 * static_cast<double>(i);  // drifts to +6
    std::vector<CheckReading> readings;
    for (int h = 0; h <= 100; h += 20) readings.push_back({at(h * kHour), 40.0, "M. L."});
    const RampFit fit = *fitRamp(s, {TagKind::Continuous, kDay}, between(0, 100 * kHour), readings, {});
    EXPECT_NEAR(fit.startBy, 0, 1e-9);
    EXPECT_NEAR(fit.endBy, -6, 1e-9);
    EXPECT_EQ(fit.readings, 6);
    // Residuals 0, −1.2, … −6: RMS √(1.44·(0+1+4+9+16+25)/6).
    EXPECT_NEAR(fit.misfitBefore, std::sqrt(1.44 * 55 / 6), 1e-9);
    EXPECT_NEAR(fit.misfitAfter, 0, 1e-9);
}

TEST(FitRamp, FixedStartMovesOnlyTheEnd) {
    const Series s = flat(11, 10);
    const std::vector<CheckReading> readings{{at(5 * kHour), 11, ""}, {at(10 * kHour), 12, ""}};
    const RampFit fit = *fitRamp(s, {TagKind::Continuous, kDay}, between(0, 10 * kHour), readings, 0.0);
    EXPECT_DOUBLE_EQ(fit.startBy, 0);
    EXPECT_NEAR(fit.endBy, 2, 1e-12);  // 1 at the half, 2 at the end
}

TEST(FitRamp, SaysWhenThereAreTooFewReadings) {
    const Series s = flat(11, 10);
    const std::vector<CheckReading> one{{at(5 * kHour), 11, ""}};
    const auto fit = fitRamp(s, {TagKind::Continuous, kDay}, between(0, 10 * kHour), one, {});
    ASSERT_FALSE(fit);
    EXPECT_EQ(fit.error().message, "1 check reading in this stretch; a ramp needs 2");
}

}  // namespace
}  // namespace jacinth
