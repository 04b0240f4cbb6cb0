// What a fix is: its names, where it reaches, and what is refused.
#include "core/mend/fix.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

Fix fix(FixBody body, Duration from = kHour, Duration to = 2 * kHour) {
    Fix f;
    f.tag = TagId(1);
    f.body = std::move(body);
    f.from = at(from);
    f.to = at(to);
    return f;
}

std::string refusal(const Fix& f) {
    const Status valid = validateFix(f);
    return valid ? "" : valid.error().message;
}

TEST(Fixes, KindsAreNamedAndReadBack) {
    for (int i = 0; i <= static_cast<int>(FixKind::Clock); ++i) {
        const auto kind = static_cast<FixKind>(i);
        EXPECT_EQ(*fixKindNamed(fixKindName(kind)), kind);
    }
    EXPECT_EQ(fixKindNamed("Shift").error().message,
              "`Shift` is not a kind of fix; shift, ramp, bend, curve, bridge, borrow, decay, hide, cut, "
              "clock are");
    EXPECT_EQ(fix(BorrowFix{}).kind(), FixKind::Borrow);
    EXPECT_EQ(fix(ClockFix{}).kind(), FixKind::Clock);
    EXPECT_TRUE(fix(CurveFix{}).isPlain());
    EXPECT_FALSE(fix(BridgeFix{}).isPlain());
}

TEST(Fixes, TouchWhatTheyMayChange) {
    const Fix shift = fix(ShiftFix{1});
    EXPECT_TRUE(shift.touches(between(2 * kHour, 3 * kHour)));  // its end is included
    EXPECT_FALSE(shift.touches(between(0, kHour)));
    const Fix clock = fix(ClockFix{5 * kHour});
    EXPECT_TRUE(clock.touches(between(kHour, kHour + kMinute)));          // from where
    EXPECT_TRUE(clock.touches(between(6 * kHour, 6 * kHour + kMinute)));  // to where
    EXPECT_FALSE(clock.touches(between(4 * kHour, 5 * kHour)));
    Fix off = shift;
    off.on = false;
    EXPECT_FALSE(off.touches(between(0, kDay)));
    EXPECT_EQ(changeAt(off, at(kHour), 7), 0);
}

TEST(Fixes, ChangesAddUpOneAfterTheOther) {
    const CurveFix half{{{at(0), {{10, 5}, {20, 0}}}}};
    const std::vector<Fix> fixes{fix(ShiftFix{5}), fix(half), fix(RampFix{0, 4})};
    // 10 + 5 = 15; the curve adds 2.5 there; half of the ramp 2.
    EXPECT_DOUBLE_EQ(changeAt(fixes, at(kHour + kHour / 2), 10), 9.5);
    EXPECT_EQ(changeAt(fixes, at(0), 10), 0);
}

TEST(Fixes, WrongOnesAreRefused) {
    EXPECT_EQ(refusal(fix(ShiftFix{1}, 2 * kHour, kHour)), "the fix ends before it starts");
    EXPECT_EQ(refusal(fix(RampFix{0, 1}, kHour, kHour)), "a ramp needs a start and a later end");
    EXPECT_EQ(refusal(fix(RampFix{0, std::nan("")})), "the amount is not a number");
    EXPECT_EQ(refusal(fix(ShiftFix{INFINITY})), "the amount is not a number");
    EXPECT_EQ(refusal(fix(BendFix{{{at(0), 1}}})), "a bend needs two knots at least");
    const BendFix backwards{{{at(kHour), 1}, {at(0), 1}}}, twice{{{at(0), 1}, {at(0), 2}}};
    EXPECT_NE(refusal(fix(backwards)), "");
    EXPECT_NE(refusal(fix(twice)), "");
    EXPECT_EQ(refusal(fix(CurveFix{})), "a curve needs a calibration");
    EXPECT_EQ(refusal(fix(CurveFix{{{at(0), {}}}})), "a calibration needs a point at least");
    const CurveFix falling{{{at(0), {{3, 0}, {1, 0}}}}}, same{{{at(0), {{1, 0}}}, {at(0), {{1, 1}}}}};
    EXPECT_NE(refusal(fix(falling)), "");
    EXPECT_NE(refusal(fix(same)), "");
    BridgeFix bridge;
    bridge.longest = {};
    EXPECT_EQ(refusal(fix(bridge)), "the longest gap to bridge is not a length of time");
    EXPECT_EQ(refusal(fix(BorrowFix{})), "say from which twin to borrow");
    EXPECT_EQ(refusal(fix(BorrowFix{TagId(1)})), "a tag cannot borrow from itself");
    EXPECT_EQ(refusal(fix(DecayFix{-kHour})), "the time constant is not a length of time");
    EXPECT_NE(refusal(fix(HideFix{{between(kHour, 2 * kHour), between(kHour, 3 * kHour)}})), "");
    EXPECT_EQ(refusal(fix(ClockFix{})), "the clock is moved by nothing");
}

TEST(Fixes, RightOnesAreTaken) {
    for (const FixBody& body :
         std::vector<FixBody>{ShiftFix{-3}, RampFix{0, 1}, BendFix{{{at(0), 1}, {at(kHour), 2}}},
                              CurveFix{{{at(0), {{5, 1}}}}}, BridgeFix{}, BorrowFix{TagId(2)}, DecayFix{},
                              HideFix{}, CutFix{}, ClockFix{kHour}})
        EXPECT_EQ(refusal(fix(body)), "") << fixKindName(fix(body).kind());
}

}  // namespace
}  // namespace jacinth
