// Every function and rule of the language at values calculated by hand.
#include <gtest/gtest.h>

#include "core/expr/evaluate.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

/// One asset with the tags: x, every minute 1 4 9 16 25 36; y, stepped 2 (0 min) 5 (3 min); mode, On (0) Off
/// (2 min) On (4 min); z, continuous with a hole from 1 to 4 min that is too long to bridge.
class Worked : public ::testing::Test, public Inputs {
  protected:
    Worked() {
        for (int i = 0; i < 6; ++i) x_.push(at(i * kMinute), (i + 1) * (i + 1));
        y_.push(at(0), 2);
        y_.push(at(3 * kMinute), 5);
        mode_.push(at(0), 0);
        mode_.push(at(2 * kMinute), 1);
        mode_.push(at(4 * kMinute), 0);
        z_.push(at(0), 1);
        z_.push(at(kMinute), 2);
        z_.push(at(4 * kMinute), 8);
        z_.push(at(5 * kMinute), 10);
        names_.roles = {
            {"x", {}}, {"y", {TagKind::Stepped}}, {"mode", {TagKind::State, "", {"On", "Off"}}}, {"z", {}}};
        names_.assetKind = "Kiln";
    }
    Result<Signal> role(const std::string& name) override {
        ++reads_;
        if (name == "x") return signalOf(x_, {TagKind::Continuous, kHour}, at(0));
        if (name == "y") return signalOf(y_, {TagKind::Stepped, kWithoutEnd}, at(0));
        if (name == "z") return signalOf(z_, {TagKind::Continuous, 2 * kMinute}, at(0));
        Signal s = signalOf(mode_, {TagKind::State, kWithoutEnd}, at(0));
        s.states = {"On", "Off"};
        return s;
    }
    Result<Signal> path(const std::string&) override { return Error{"none"}; }

    double valueOf(const std::string& text, Duration since1970) {
        const auto e = compileExpression(text, names_);
        EXPECT_TRUE(e) << text << ": " << (e ? "" : e.error().message);
        if (!e) return 0;
        return signalAt(std::get<Signal>(*evaluate(*e, *this, kRange)), at(since1970));
    }
    /// Minutes at which the condition begins and ends.
    std::vector<double> where(const std::string& text) {
        const auto e = compileExpression(text, names_);
        EXPECT_TRUE(e) << text << ": " << (e ? "" : e.error().message);
        std::vector<double> out;
        if (e)
            for (const TimeRange& r : stretches(std::get<Condition>(*evaluate(*e, *this, kRange)), kRange)) {
                out.push_back(minutes(r.from));
                out.push_back(minutes(r.to));
            }
        return out;
    }
    /// To the microsecond: finer than that a double of minutes cannot be compared.
    static double minutes(Instant t) { return std::round(toSeconds(t) * 1e6) / 6e7; }
    static constexpr TimeRange kRange = between(0, 5 * kMinute);
    Series x_, y_, mode_, z_;
    Names names_;
    int reads_ = 0;
};

using Minutes = std::vector<double>;

TEST_F(Worked, PlainFunctions) {
    EXPECT_DOUBLE_EQ(valueOf("abs(-@x)", kMinute), 4);
    EXPECT_DOUBLE_EQ(valueOf("sqrt(@x)", 2 * kMinute), 3);
    EXPECT_TRUE(std::isnan(valueOf("sqrt(-@x)", 2 * kMinute)));
    EXPECT_NEAR(valueOf("exp(ln(@x))", kMinute), 4, 1e-12);
    EXPECT_NEAR(valueOf("log10(@x * 25)", kMinute), 2, 1e-12);
    EXPECT_TRUE(std::isnan(valueOf("ln(@x - 1)", Duration())));  // no number is missing, not infinite
    EXPECT_DOUBLE_EQ(valueOf("sign(@x - 9)", kMinute), -1);
    EXPECT_DOUBLE_EQ(valueOf("sign(@x - 9)", 2 * kMinute), 0);
    EXPECT_DOUBLE_EQ(valueOf("round(@x / 10)", 4 * kMinute), 3);
    EXPECT_DOUBLE_EQ(valueOf("floor(@x / 10)", 4 * kMinute), 2);
    EXPECT_DOUBLE_EQ(valueOf("ceil(@x / 10)", 3 * kMinute), 2);
    EXPECT_DOUBLE_EQ(valueOf("least(@x, @y)", 3 * kMinute), 5);
    EXPECT_DOUBLE_EQ(valueOf("most(@x, @y)", Duration()), 2);
    EXPECT_DOUBLE_EQ(valueOf("clip(@x, 3, 20)", Duration()), 3);
    EXPECT_DOUBLE_EQ(valueOf("clip(@x, 3, 20)", 5 * kMinute), 20);
}

TEST_F(Worked, ArithmeticAndItsEdges) {
    EXPECT_DOUBLE_EQ(valueOf("@x + 2 * @x", kMinute), 12);
    EXPECT_DOUBLE_EQ(valueOf("(@x + 2) * @x", kMinute), 24);
    EXPECT_DOUBLE_EQ(valueOf("10 - 4 - 3 + 0 * @x", Duration()), 3);
    EXPECT_DOUBLE_EQ(valueOf("16 / 4 / 2 + 0 * @x", Duration()), 2);
    EXPECT_TRUE(std::isnan(valueOf("@x / (@x - 4)", kMinute)));
    EXPECT_DOUBLE_EQ(valueOf("-@x", 2 * kMinute), -9);
    EXPECT_DOUBLE_EQ(valueOf("@x ^ 0.5", 3 * kMinute), 4);
}

TEST_F(Worked, BetweenSamplesALineOrTheHeldValue) {
    EXPECT_DOUBLE_EQ(valueOf("@x", 30 * kSecond), 2.5);
    EXPECT_DOUBLE_EQ(valueOf("@y", 179 * kSecond), 2);
    EXPECT_DOUBLE_EQ(valueOf("@y", 5 * kMinute), 5);
    // With a stepped input the sum is held between the union of the times.
    EXPECT_DOUBLE_EQ(valueOf("@x + @y", 90 * kSecond), 4 + 2);
    EXPECT_DOUBLE_EQ(valueOf("@x + @y", 3 * kMinute), 16 + 5);
}

TEST_F(Worked, AHoleIsMissing) {
    EXPECT_DOUBLE_EQ(valueOf("@z", 30 * kSecond), 1.5);
    EXPECT_TRUE(std::isnan(valueOf("@z", 2 * kMinute)));
    EXPECT_DOUBLE_EQ(valueOf("@z", 4 * kMinute), 8);
    EXPECT_TRUE(std::isnan(valueOf("@x + @z", 2 * kMinute)));
    EXPECT_EQ(where("@z > 0"), (Minutes{0, 1, 4, 5}));
}

TEST_F(Worked, ComparisonsOfEveryKind) {
    // x passes 6.5 half way from 4 to 9, at 1.5 min.
    EXPECT_EQ(where("@x < 6.5"), (Minutes{0, 1.5}));
    EXPECT_EQ(where("@x <= 6.5"), (Minutes{0, 1.5}));
    EXPECT_EQ(where("@x > 6.5"), (Minutes{1.5, 5}));
    EXPECT_EQ(where("@x >= 6.5"), (Minutes{1.5, 5}));
    EXPECT_EQ(where("@x between 6.5 and 12.5"), (Minutes{1.5, 2.5}));
    EXPECT_EQ(where("@y = 5"), (Minutes{3, 5}));
    EXPECT_EQ(where("@y != 5"), (Minutes{0, 3}));
    EXPECT_EQ(where("6.5 > @x"), (Minutes{0, 1.5}));
    EXPECT_EQ(where("@x > @x"), Minutes{});
    EXPECT_EQ(where("@x >= @x"), (Minutes{0, 5}));
}

TEST_F(Worked, StatesByIsAndIn) {
    EXPECT_EQ(where("@mode is \"Off\""), (Minutes{2, 4}));
    EXPECT_EQ(where("@mode is not \"Off\""), (Minutes{0, 2, 4, 5}));
    EXPECT_EQ(where("@mode in (\"Off\")"), (Minutes{2, 4}));
    EXPECT_EQ(where("@mode not in (\"Off\")"), (Minutes{0, 2, 4, 5}));
    EXPECT_EQ(where("@mode in (\"On\", \"Off\")"), (Minutes{0, 5}));
}

TEST_F(Worked, AndOrNotAndTheirOrder) {
    EXPECT_EQ(where("@x > 6.5 and @mode is \"Off\""), (Minutes{2, 4}));
    EXPECT_EQ(where("@x < 2.5 or @mode is \"Off\""), (Minutes{0, 0.5, 2, 4}));
    // and binds closer than or, not closer than and.
    EXPECT_EQ(where("@x < 2.5 or @x > 6.5 and @mode is \"Off\""), (Minutes{0, 0.5, 2, 4}));
    EXPECT_EQ(where("not @x > 6.5 and @mode is \"On\""), (Minutes{0, 1.5}));
    EXPECT_EQ(where("not (@x > 6.5 or @mode is \"Off\")"), (Minutes{0, 1.5}));
    // `between a and b` keeps its own and.
    EXPECT_EQ(where("@x between 6.5 and 12.5 and @mode is \"Off\""), (Minutes{2, 2.5}));
}

TEST_F(Worked, ForNeedsAnUnbrokenTime) {
    EXPECT_EQ(where("@mode is \"Off\" for 30s"), (Minutes{2.5, 4}));
    EXPECT_EQ(where("@mode is \"Off\" for 2m"), Minutes{});
    EXPECT_EQ(where("@mode is \"On\" for 1m"), (Minutes{1, 2}));
    EXPECT_EQ(where("(@mode is \"Off\" for 30s) and @x < 20.5"), (Minutes{2.5, 3.5}));
}

TEST_F(Worked, WindowsOverTime) {
    // (2 min, 4 min]: samples 16 and 25; the line from 9 over 16 to 25.
    EXPECT_DOUBLE_EQ(valueOf("mean(@x over 2m)", 4 * kMinute), (12.5 + 20.5) / 2);
    EXPECT_DOUBLE_EQ(valueOf("median(@x over 2m)", 4 * kMinute), 20.5);
    EXPECT_DOUBLE_EQ(valueOf("min(@x over 2m)", 4 * kMinute), 16);
    EXPECT_DOUBLE_EQ(valueOf("max(@x over 2m)", 4 * kMinute), 25);
    EXPECT_DOUBLE_EQ(valueOf("range(@x over 2m)", 4 * kMinute), 9);
    EXPECT_DOUBLE_EQ(valueOf("sum(@x over 2m)", 4 * kMinute), 41);
    EXPECT_DOUBLE_EQ(valueOf("count(@x over 2m)", 4 * kMinute), 2);
    EXPECT_NEAR(valueOf("sd(@x over 2m)", 4 * kMinute), 9 / std::sqrt(2.0), 1e-12);
    EXPECT_NEAR(valueOf("slope(@x over 2m)", 4 * kMinute), 9 * 60, 1e-9);
    EXPECT_NEAR(valueOf("slope(@x over 3m)", 4 * kMinute), 8 * 60,
                1e-9);  // 9 16 25: least squares (25 − 9) / 2
}

TEST_F(Worked, WindowsOfHeldValuesAndStates) {
    // y is 2 until 3 min, then 5. The mean over 2 min at 4 min holds one minute of each.
    EXPECT_DOUBLE_EQ(valueOf("mean(@y over 2m)", 4 * kMinute), 3.5);
    EXPECT_DOUBLE_EQ(valueOf("mean(@y over 2m)", 210 * kSecond), 2 * 0.75 + 5 * 0.25);
    EXPECT_DOUBLE_EQ(valueOf("share(@mode is \"Off\" over 2m)", 3 * kMinute), 0.5);
    EXPECT_DOUBLE_EQ(valueOf("share(@mode is \"Off\" over 2m)", 4 * kMinute), 1);
    EXPECT_DOUBLE_EQ(valueOf("share(@x > 6.5 over 2m)", 2 * kMinute), 0.25);
}

TEST_F(Worked, WindowsOverSamples) {
    EXPECT_DOUBLE_EQ(valueOf("mean(@x over 2 samples)", 4 * kMinute), 20.5);
    EXPECT_DOUBLE_EQ(valueOf("max(@x over 3 samples)", 2 * kMinute), 9);
    EXPECT_TRUE(std::isnan(valueOf("max(@x over 3 samples)", kMinute)));
    EXPECT_DOUBLE_EQ(valueOf("count(@x over 3 samples)", 5 * kMinute), 3);
}

TEST_F(Worked, AWindowThatIsNotFullOrHalfCoveredIsMissing) {
    EXPECT_TRUE(std::isnan(valueOf("mean(@x over 2m)", kMinute)));
    EXPECT_FALSE(std::isnan(valueOf("mean(@x over 2m)", 2 * kMinute)));
    // z is covered from 0 to 1 and from 4 to 5 minutes: at 5 min a window of 3 min holds one minute.
    EXPECT_TRUE(std::isnan(valueOf("mean(@z over 3m)", 5 * kMinute)));
    EXPECT_DOUBLE_EQ(valueOf("mean(@z over 2m)", 5 * kMinute), 9);
}

TEST_F(Worked, WindowsInsideWindows) {
    EXPECT_DOUBLE_EQ(valueOf("max(mean(@x over 1m) over 2m)", 4 * kMinute), 20.5);
    EXPECT_EQ(where("mean(@x over 1m) > 12.5 and max(@x over 1m) < 30"),
              (Minutes{3, std::round((4 + 5.0 / 11) * 6e7) / 6e7}));
}

TEST_F(Worked, ATagUsedTwiceIsReadOnce) {
    reads_ = 0;
    valueOf("@x * @x + mean(@x over 1m) - @x", kMinute);
    EXPECT_EQ(reads_, 1);
}

TEST_F(Worked, WhatAnExpressionNeedsIsKnownBeforeReading) {
    const auto e = compileExpression("max(mean(@x over 2m) over 3m) > 1 and @y > 0 for 10m", names_);
    ASSERT_TRUE(e);
    EXPECT_EQ(e->lookBack, 15 * kMinute);
    EXPECT_EQ(e->roles, (std::set<std::string>{"x", "y"}));
    EXPECT_EQ(e->type, ValueType::Condition);
}

TEST_F(Worked, AStateThatHasNotOccurredIsAWarningAndIsNeverTrue) {
    const auto e = compileExpression("@mode is \"Of\"", names_);
    ASSERT_TRUE(e) << e.error().message;
    ASSERT_EQ(e->warnings.size(), 1u);
    EXPECT_EQ(e->warnings[0].column, 7);
    EXPECT_NE(e->warnings[0].message.find("has had no state `Of` so far; it has had "), std::string::npos)
        << e->warnings[0].message;
    EXPECT_EQ(where("@mode is \"Manual\""), Minutes{});
    EXPECT_EQ(where("@mode is not \"Manual\""), where("@mode in (\"On\", \"Off\")"));
}

struct Wrong {
    const char* text;
    int column;
};
class WrongTexts : public Worked, public ::testing::WithParamInterface<Wrong> {};

TEST_P(WrongTexts, SayTheirColumn) {
    const auto e = compileExpression(GetParam().text, names_);
    ASSERT_FALSE(e) << GetParam().text;
    EXPECT_EQ(e.error().column, GetParam().column) << e.error().message;
    EXPECT_FALSE(e.error().message.empty());
}

INSTANTIATE_TEST_SUITE_P(
    Slips, WrongTexts,
    ::testing::Values(Wrong{"", 1}, Wrong{"@", 1}, Wrong{"@x >", 5}, Wrong{"@x > > 1", 6},
                      Wrong{"(@x > 1", 8}, Wrong{"@x > 1)", 7}, Wrong{"@q > 1", 1}, Wrong{"mean(@x)", 1},
                      Wrong{"mean(@x over)", 13}, Wrong{"mean(@x over 5)", 14}, Wrong{"mean(@x over 0s)", 14},
                      Wrong{"mean(@x over 2.5 samples)", 14}, Wrong{"abs(@x over 5m)", 1},
                      Wrong{"abs(@x, @x)", 1}, Wrong{"abs()", 1}, Wrong{"share(@x over 5m)", 7},
                      Wrong{"mean(@mode over 5m)", 6}, Wrong{"@mode > 1", 7}, Wrong{"@mode is Off", 10},
                      Wrong{"@x is \"On\"", 1}, Wrong{"@x and @y", 1}, Wrong{"not @x", 5},
                      Wrong{"@x > 1 for", 11}, Wrong{"@x > 1 for 5", 12}, Wrong{"@x for 5m", 1},
                      Wrong{"@x > 5m", 6}, Wrong{"@x + \"a\"", 6}, Wrong{"@x between 1", 13},
                      Wrong{"@x > 1 @y", 8}, Wrong{"wobble(@x)", 1}, Wrong{"@x ~ 1", 4},
                      Wrong{"`No/such` > 1", 1}, Wrong{"duration > 5m", 1}));

}  // namespace
}  // namespace jacinth
