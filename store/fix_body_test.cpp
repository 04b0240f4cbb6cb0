#include "store/fix_body.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

TEST(FixBodies, ReadBackAsTheyWere) {
    const std::vector<FixBody> bodies{ShiftFix{-0.1},
                                      RampFix{1e-9, 3},
                                      BendFix{{{at(5), 1}, {at(6), -1.5}}},
                                      CurveFix{{{at(7), {{1, 2}, {3, 4}}}, {at(8), {{0, 0}}}}},
                                      BridgeFix{BridgeFix::Way::Cubic, kMinute, true},
                                      BorrowFix{TagId(4), kHour, true},
                                      DecayFix{kMinute, kHour, false},
                                      DecayFix{{}, kDay, true},
                                      HideFix{{between(1, 2), between(3, 3)}},
                                      CutFix{},
                                      ClockFix{-kHour}};
    for (const FixBody& body : bodies) {
        const auto kind = static_cast<FixKind>(body.index());
        const auto read = readFixBody(kind, fixBodyText(body));
        ASSERT_TRUE(read) << fixKindName(kind) << ": " << read.error().message;
        EXPECT_EQ(*read, body) << fixKindName(kind);
    }
}

TEST(FixBodies, WhatCannotBeIsRefused) {
    const auto refused = [](FixKind kind, const char* text) { return !readFixBody(kind, text); };
    EXPECT_TRUE(refused(FixKind::Shift, "no json"));
    EXPECT_TRUE(refused(FixKind::Shift, "[]"));
    EXPECT_TRUE(refused(FixKind::Shift, R"({"by":"1"})"));
    EXPECT_TRUE(refused(FixKind::Shift, R"({"by":1e400})"));
    EXPECT_TRUE(refused(FixKind::Bend, R"({"knots":[[1]]})"));
    EXPECT_TRUE(refused(FixKind::Bend, R"({"knots":[[1.5,2]]})"));
    EXPECT_TRUE(refused(FixKind::Bend, R"({"knots":7})"));
    EXPECT_TRUE(refused(FixKind::Curve, "{}"));
    EXPECT_TRUE(refused(FixKind::Curve, R"({"calibrations":[3]})"));
    EXPECT_TRUE(refused(FixKind::Curve, R"({"calibrations":[{"time":1,"points":[["a",2]]}]})"));
    EXPECT_TRUE(refused(FixKind::Bridge, R"({"way":"arc"})"));
    EXPECT_TRUE(refused(FixKind::Bridge, R"({"longest":-5})"));
    EXPECT_TRUE(refused(FixKind::Borrow, R"({"twin":"Kiln 1/RH"})"));
    EXPECT_TRUE(refused(FixKind::Hide, R"({"parts":[[1,2,3]]})"));
    EXPECT_TRUE(refused(FixKind::Clock, R"({"by":9e18})"));
    EXPECT_TRUE(readFixBody(FixKind::Bridge, "{}"));
}

}  // namespace
}  // namespace jacinth
