#include "core/mend/trust.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

const TimeRange kDayOne = between(0, kDay);

TrustMark mark(TimeRange range, const std::string& grade, bool signOff = false, Instant set = at(0)) {
    return {range, grade, signOff, "R. Osen", "", set};
}

Fix fix(FixBody body, Duration from, Duration to, Instant entered = at(0)) {
    Fix out;
    out.body = std::move(body);
    out.from = at(from);
    out.to = at(to);
    out.entered = entered;
    return out;
}

TEST(Trust, WhatFixesSayIsTheWorstOfThemAndAMarkGoesBefore) {
    const TrustSettings settings;
    const std::vector<Fix> fixes{fix(RampFix{0, 1}, 2 * kHour, 10 * kHour),
                                 fix(HideFix{}, 8 * kHour, 9 * kHour)};
    const std::vector<TrustMark> marks{mark(between(3 * kHour, 4 * kHour), "sound")};
    const auto out = trustOver(settings, marks, fixes, kDayOne);
    const std::vector<GradedStretch> wanted{
        {between(2 * kHour, 3 * kHour), "fair", "ramp"},
        {between(3 * kHour, 4 * kHour), "sound", "R. Osen"},
        {between(4 * kHour, 8 * kHour), "fair", "ramp"},
        {{at(8 * kHour), at(9 * kHour) + kNanosecond}, "unusable", "hide"},
        {{at(9 * kHour) + kNanosecond, at(10 * kHour) + kNanosecond}, "fair", "ramp"}};
    EXPECT_EQ(out, wanted);
    EXPECT_TRUE(trustOver(settings, {}, {}, kDayOne).empty());
}

TEST(Trust, AFixThatIsOffAndARuleThatIsEmptySayNothing) {
    TrustSettings settings;
    settings.corrected.clear();
    std::vector<Fix> fixes{fix(ShiftFix{1}, 0 * kHour, kHour), fix(CutFix{}, 2 * kHour, 3 * kHour)};
    fixes[1].on = false;
    EXPECT_TRUE(trustOver(settings, {}, fixes, kDayOne).empty());
}

TEST(Trust, OfAHideOnlyItsPartsAreUnusable) {
    HideFix hide;
    hide.parts = {{at(kHour), at(kHour)}, {at(5 * kHour), at(6 * kHour)}};
    const auto out = trustOver({}, {}, std::vector{fix(hide, kHour, 6 * kHour)}, kDayOne);
    ASSERT_EQ(out.size(), 2u);
    EXPECT_EQ(out[0].range.length(), kNanosecond);
    EXPECT_EQ(out[1].range.from, at(5 * kHour));
}

TEST(Trust, AFixEnteredSinceTakesASignOffBackWhereItActs) {
    const std::vector<TrustMark> marks{mark(between(0, 10 * kHour), "signed", true, at(kDay))};
    const std::vector<Fix> before{fix(ShiftFix{1}, 2 * kHour, 3 * kHour, at(kHour))},
        since{fix(ShiftFix{1}, 2 * kHour, 3 * kHour, at(2 * kDay))};
    EXPECT_EQ(signOffOver({}, marks, before, kDayOne).size(), 1u);
    const auto out = signOffOver({}, marks, since, kDayOne);
    ASSERT_EQ(out.size(), 3u);
    EXPECT_EQ(out[1].grade, "draft");
    EXPECT_EQ(out[0].grade, "signed");
    EXPECT_TRUE(trustOver({}, marks, {}, kDayOne).empty()) << "the other scale says nothing of it";
}

TEST(Trust, OfMarksThatOverlapTheLaterCounts) {
    const std::vector<TrustMark> marks{mark(between(0, 4 * kHour), "sound"),
                                       mark(between(2 * kHour, 6 * kHour), "doubtful")};
    const auto out = trustOver({}, marks, {}, between(kHour, 5 * kHour));
    ASSERT_EQ(out.size(), 2u);
    EXPECT_EQ(out[0].range, between(kHour, 2 * kHour));
    EXPECT_EQ(out[1].range, between(2 * kHour, 5 * kHour));
    EXPECT_EQ(out[1].grade, "doubtful");
}

TEST(TrustSettings, WhatIsUnsoundAndWhoMaySetIt) {
    TrustSettings s;
    EXPECT_FALSE(s.isUnsound("fair"));
    EXPECT_TRUE(s.isUnsound("doubtful"));
    EXPECT_FALSE(s.isUnsound(kNotJudged));
    s.who["signed"] = {"R. Osen"};
    EXPECT_TRUE(s.maySet("signed", "R. Osen"));
    EXPECT_FALSE(s.maySet("signed", "M. L."));
    EXPECT_TRUE(s.maySet("checked", "M. L."));
}

TEST(TrustSettings, WhatMakesNoSenseIsRefused) {
    EXPECT_TRUE(validateTrustSettings({}));
    const auto refused = [](auto change) {
        TrustSettings s;
        change(s);
        return !validateTrustSettings(s);
    };
    EXPECT_TRUE(refused([](TrustSettings& s) { s.trust.clear(); }));
    EXPECT_TRUE(refused([](TrustSettings& s) { s.trust.push_back("sound"); }));
    EXPECT_TRUE(refused([](TrustSettings& s) { s.signOff.push_back("sound"); })) << "one name, one grade";
    EXPECT_TRUE(refused([](TrustSettings& s) { s.trust.push_back(kNotJudged); }));
    EXPECT_TRUE(refused([](TrustSettings& s) { s.hidden = "gone"; }));
    EXPECT_TRUE(refused([](TrustSettings& s) { s.soundDownTo = ""; }));
    EXPECT_TRUE(refused([](TrustSettings& s) { s.who["boss"] = {"x"}; }));
    EXPECT_FALSE(refused([](TrustSettings& s) { s.filled = ""; })) << "no rule is one too";
}

}  // namespace
}  // namespace jacinth
