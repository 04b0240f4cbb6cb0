// Each sentence of the language's meaning, calculated by hand on few samples.
#include <cmath>
#include <fstream>
#include <numbers>

#include "core/base/missing.h"
#include "core/expr/expr_fixture.h"
#include "core/expr/functions.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr double kAbsent = kMissing;
using Ranges = std::vector<TimeRange>;

class ExprMeaning : public Expr {
  protected:
    void expectAt(const std::string& text, double minute, double wanted) {
        const double found = valueOf(text, minute);
        if (std::isnan(wanted))
            EXPECT_TRUE(std::isnan(found)) << text << " at " << minute << ": " << found;
        else
            EXPECT_NEAR(found, wanted, 1e-9 * std::max(1.0, std::abs(wanted))) << text << " at " << minute;
    }
};

TEST_F(ExprMeaning, PlainFunctions) {
    samples("x", {{0, -2.5}, {1, 0}, {2, 4}});
    expectAt("abs(@x)", 0, 2.5);
    expectAt("sqrt(@x)", 2, 2);
    expectAt("sqrt(@x)", 0, kAbsent);  // no number: missing
    expectAt("exp(@x)", 1, 1);
    expectAt("ln(@x)", 2, std::log(4));
    expectAt("ln(@x)", 1, kAbsent);
    expectAt("log10(@x * 25)", 2, 2);
    expectAt("sign(@x)", 0, -1);
    expectAt("sign(@x)", 1, 0);
    expectAt("round(@x)", 0, -3);
    expectAt("floor(@x)", 0, -3);
    expectAt("ceil(@x)", 0, -2);
    expectAt("clip(@x, -1, 3)", 0, -1);
    expectAt("clip(@x, -1, 3)", 2, 3);
    expectAt("least(@x, 1)", 2, 1);
    expectAt("most(@x, 1)", 0, 1);
    expectAt("1 / @x", 1, kAbsent);
    expectAt("@x ^ 2 ^ 0.5", 2, std::pow(4, std::sqrt(2)));
    expectAt("-@x * 2", 2, -8);
    expectAt("2 * -@x", 2, -8);
}

TEST_F(ExprMeaning, ATagIsLinearBetweenSamplesAndHeldWhereStepped) {
    samples("x", {{0, 0}, {10, 10}});
    samples("s", {{0, 0}, {10, 10}}, {TagKind::Stepped, kWithoutEnd});
    expectAt("@x", 5, 5);
    expectAt("@s", 5, 0);
    expectAt("@s", 10, 10);
    expectAt("@x + @s", 5, 0);  // one stepped input: held between the samples of both
    expectAt("@x * 2 + 1", 5, 11);
}

TEST_F(ExprMeaning, WhatIsHeldHasAMeanAlsoLongAfterItsLastChange) {
    samples("x", {{0, 1}, {300, 1}});
    samples("s", {{0, 0}, {10, 4}}, {TagKind::Stepped, kWithoutEnd});
    expectAt("mean(@s over 1h)", 60, (10 * 0 + 50 * 4) / 60.0);
    expectAt("mean(@s over 1h)", 200, 4);
    expectAt("mean(@s over 1h)", 300, 4);
    expectAt("integral(@s over 2h)", 300, 8);
}

TEST_F(ExprMeaning, BesideAHeldValueALineStillEndsWhereItEnds) {
    samples("x", {{0, 1}, {10, 3}, {200, 5}, {210, 5}}, {TagKind::Continuous, kHour});
    samples("s", {{0, 10}, {150, 20}, {300, 30}}, {TagKind::Stepped, kWithoutEnd});
    expectAt("@x + @s", 10, 13);
    expectAt("@x + @s", 60, kAbsent);  // in the gap of x
    expectAt("@x + @s", 200, 25);
    expectAt("@x + @s", 205, 25);
    expectAt("@x + @s", 250, kAbsent);  // after its last sample
    expectAt("max(@x over 5m) + @s", 60, kAbsent);
    EXPECT_EQ(truth("@x + @s > 5", 60), Truth::Unknown);
}

TEST_F(ExprMeaning, ASampleThatSaysSoEndsWhatWasKnown) {
    Series s;
    s.push(at(0), 2);
    s.push(at(10 * kMinute), 4);
    s.push(at(12 * kMinute), kAbsent, Quality::Missing);
    s.push(at(20 * kMinute), 8);
    s.push(at(40 * kMinute), 8);
    add("x", s);
    add("h", s, {TagKind::Stepped, kWithoutEnd});
    expectAt("@x", 10, 4);
    expectAt("@x", 11, kAbsent);
    expectAt("@x", 15, kAbsent);
    expectAt("@x", 30, 8);
    expectAt("@h", 11, 4);
    expectAt("@h", 12, kAbsent);
    expectAt("@h", 20, 8);
    expectAt("mean(@h over 20m)", 20, (10 * 2 + 2 * 4) / 12.0);  // over what is known
    expectAt("count(@x over 20m)", 20, 2);                       // it is not a sample
}

TEST_F(ExprMeaning, BetweenIncludesBothEnds) {
    samples("x", {{0, 1}, {1, 2}, {2, 3}});
    EXPECT_EQ(truth("@x between 1 and 3", 0), Truth::True);
    EXPECT_EQ(truth("@x between 1 and 3", 2), Truth::True);
    EXPECT_EQ(truth("@x between 1.5 and 2.5", 0), Truth::False);
    EXPECT_EQ(truth("not @x between 1.5 and 2.5", 0), Truth::True);
}

TEST_F(ExprMeaning, AComparisonAtASampleIsThatOfTheSample) {
    samples("x", {{0, 0}, {1, 10}, {2, 0}, {3, 5}});
    EXPECT_EQ(truth("@x >= 10", 1), Truth::True);
    EXPECT_EQ(truth("@x = 10", 1), Truth::True);
    EXPECT_EQ(truth("@x > 10", 1), Truth::False);
    EXPECT_EQ(truth("@x > 0", 0), Truth::False);
    EXPECT_EQ(truth("@x != 10", 1), Truth::False);
    EXPECT_EQ(truth("@x <= 0", 2), Truth::True);
    EXPECT_EQ(truth("@x < 5", 0.5), Truth::False);  // exactly at the crossing
}

TEST_F(ExprMeaning, WindowsWeightedByTime) {
    samples("x", {{0, 0}, {10, 10}, {40, 40}});
    expectAt("mean(@x over 40m)", 40, 20);
    expectAt("mean(@x over 20m)", 40, 30);  // the line from 10 to 40 enters in the middle
    expectAt("integral(@x over 40m)", 40, 20.0 * 40 / 60);
    samples("s", {{0, 4}, {10, 8}, {40, 0}}, {TagKind::Stepped, kWithoutEnd});
    expectAt("mean(@s over 40m)", 40, 7);
    expectAt("integral(@s over 30m)", 40, 4);
    expectAt("mean(@s over 20m)", 30, 8);
    expectAt("mean(@s over 20m)", 20, 6);
    expectAt("share(@s > 5 over 20m)", 20, 0.5);
    expectAt("time(@s > 5 over 20m)", 20, 600);
    EXPECT_EQ(truth("time(@s > 5 over 20m) >= 10m", 20), Truth::True);
    EXPECT_EQ(truth("time(@s > 5 over 20m) > 11m", 20), Truth::False);
}

TEST_F(ExprMeaning, WindowsOverSamples) {
    samples("x", {{0, 5}, {10, 1}, {20, 3}, {30, 9}});
    // (t − 20 min, t] at 30: the samples of 20 and 30; that of 10 is just outside.
    expectAt("count(@x over 20m)", 30, 2);
    expectAt("median(@x over 20m)", 30, 6);
    expectAt("min(@x over 20m)", 30, 3);
    expectAt("max(@x over 20m)", 30, 9);
    expectAt("range(@x over 30m)", 30, 8);
    expectAt("sum(@x over 30m)", 30, 13);
    expectAt(
        "sd(@x over 30m)", 30,
        std::sqrt((std::pow(1 - 13.0 / 3, 2) + std::pow(3 - 13.0 / 3, 2) + std::pow(9 - 13.0 / 3, 2)) / 2));
    expectAt("first(@x over 30m)", 30, 1);
    expectAt("last(@x over 30m)", 30, 9);
    expectAt("change(@x over 30m)", 30, 8);
    expectAt("rate(@x over 30m)", 30, 24);
    expectAt("slope(@x over 30m)", 30, 24);  // least squares through 1, 3, 9
    expectAt("quantile(@x, 0 over 30m)", 30, 1);
    expectAt("quantile(@x, 0.75 over 30m)", 30, 6);
    expectAt("quantile(@x, 1 over 30m)", 30, 9);
    expectAt("sd(@x over 10m)", 30, kAbsent);  // of one sample there is none
}

TEST_F(ExprMeaning, WindowsInSamplesHoldTheCurrentOne) {
    samples("x", {{0, 5}, {10, 1}, {21, 3}, {30, 9}});
    expectAt("mean(@x over 2 samples)", 30, 6);
    expectAt("mean(@x over 3 samples)", 21, 3);
    expectAt("mean(@x over 3 samples)", 10, kAbsent);
    expectAt("count(@x over 4 samples)", 30, 4);
    expectAt("change(@x over 2 samples)", 30, 6);
    expectAt("integral(@x over 2 samples)", 30, 6.0 * 9 / 60);
    expectAt("share(@x > 2 over 4 samples)", 30, 0.75);
    expectAt("time(@x >= 5 over 2 samples)", 30, 6 * 60);  // 5 is crossed at minute 24
}

TEST_F(ExprMeaning, AWindowTheRecordDoesNotFillIsMissing) {
    samples("x", {{0, 1}, {10, 1}, {20, 1}});
    expectAt("mean(@x over 10m)", 10, 1);
    expectAt("mean(@x over 11m)", 10, kAbsent);
    expectAt("max(@x over 20m)", 20, 1);
    expectAt("max(@x over 21m)", 20, kAbsent);
}

TEST_F(ExprMeaning, HalfCoveredIsEnoughLessIsNot) {
    samples("x", {{0, 1}, {10, 1}, {110, 1}, {120, 1}}, {TagKind::Continuous, 20 * kMinute});
    expectAt("mean(@x over 20m)", 120, 1);
    expectAt("mean(@x over 21m)", 120, kAbsent);
    expectAt("count(@x over 20m)", 120, 2);
    expectAt("count(@x over 30m)", 120, kAbsent);
}

TEST_F(ExprMeaning, SinceAndDuringATrack) {
    samples("x", {{0, 0}, {10, 1}, {20, 2}, {30, 3}, {40, 4}, {50, 5}, {60, 6}});
    track("Stops", {between(12 * kMinute, 18 * kMinute), between(38 * kMinute, 42 * kMinute)});
    expectAt("max(@x since \"Stops\")", 10, kAbsent);
    expectAt("min(@x since \"Stops\")", 30, 2);
    expectAt("mean(@x since \"Stops\")", 30, 2.4);  // from 1.8 to 3
    expectAt("min(@x since \"Stops\")", 60, 5);
    expectAt("mean(@x during \"Stops\")", 18, 1.5);
    expectAt("mean(@x during \"Stops\")", 15, 1.35);
    expectAt("mean(@x during \"Stops\")", 25, kAbsent);
    expectAt("count(\"Stops\" over 30m)", 40, 2);
    expectAt("count(\"Stops\" over 26m)", 40, 1);  // (14, 40]
    expectAt("count(\"Stops\" over 30m)", 60, 1);
    EXPECT_EQ(truth("inside(\"Stops\")", 15), Truth::True);
    EXPECT_EQ(truth("inside(\"Stops\")", 18), Truth::False);
    EXPECT_EQ(errorOf("inside(Stops)"),
              "column 8: the name of a track in quotes would fit, like `\"Stops\"`");
    EXPECT_EQ(errorOf("mean(@x since Stops) > 1"), "");
}

TEST_F(ExprMeaning, IfFillMissing) {
    samples("x", {{0, 0}, {10, 10}, {200, 20}, {210, 30}}, {TagKind::Continuous, kHour});
    samples("m", {{0, 0}, {5, 1}, {205, 0}}, {TagKind::State, kWithoutEnd}, {"Auto", "Manual"});
    expectAt("if(@m is \"Auto\", @x, -1)", 4, 4);
    expectAt("if(@m is \"Auto\", @x, -1)", 5, -1);
    expectAt("if(@m is \"Auto\", @x, -1)", 204.99, -1);
    expectAt("if(@m is \"Auto\", @x, -1)", 207, 27);
    expectAt("if(@x > 5, 1, 2)", 4, 2);
    expectAt("if(@x > 5, 1, 2)", 6, 1);
    expectAt("if(@x > 5, 1, 2)", 100, kAbsent);
    expectAt("fill(@x, 7)", 100, 7);
    expectAt("fill(@x, 7)", 10, 10);
    expectAt("fill(@x, 7)", 205, 25);
    EXPECT_EQ(truth("missing(@x)", 100), Truth::True);
    EXPECT_EQ(truth("missing(@x)", 10), Truth::False);
    EXPECT_EQ(truth("missing(@x)", 205), Truth::False);
    EXPECT_EQ(truth("missing(@x > 3)", 100), Truth::True);
    EXPECT_EQ(truth("missing(@m)", 100), Truth::False);
    EXPECT_EQ(truth("not missing(@x) and @x > 3", 100), Truth::False);
}

TEST_F(ExprMeaning, DelayElapsedAndTurns) {
    samples("x", {{0, 0}, {10, 10}, {20, 0}, {30, 10}});
    expectAt("delay(@x, 5m)", 15, 10);
    expectAt("@x - delay(@x, 5m)", 10, 5);
    expectAt("delay(@x, 5m)", 4, kAbsent);
    EXPECT_EQ(truth("delay(@x > 5, 5m)", 11), Truth::True);
    expectAt("elapsed(@x > 5)", 10, 300);
    expectAt("elapsed(@x > 5)", 16, 0);
    EXPECT_EQ(whereTrue("elapsed(@x > 5) > 4m"), (Ranges{between(9 * kMinute, 15 * kMinute),
                                                         between(29 * kMinute, 30 * kMinute + kNanosecond)}));
    EXPECT_EQ(whereTrue("rising(@x > 5)"), (Ranges{between(5 * kMinute, 5 * kMinute + kNanosecond),
                                                   between(25 * kMinute, 25 * kMinute + kNanosecond)}));
    EXPECT_EQ(whereTrue("falling(@x > 5)"), (Ranges{between(15 * kMinute, 15 * kMinute + kNanosecond)}));
}

TEST_F(ExprMeaning, ForNeedsTheTimeWithoutABreak) {
    samples("x", {{0, 0}, {10, 10}, {20, 0}});
    EXPECT_EQ(whereTrue("@x > 5 for 9m"), (Ranges{between(14 * kMinute, 15 * kMinute)}));
    EXPECT_EQ(whereTrue("(@x > 5 for 9m) or @x < 1"),
              (Ranges{between(0, kMinute), between(14 * kMinute, 15 * kMinute),
                      between(19 * kMinute, 20 * kMinute + kNanosecond)}));
}

TEST_F(ExprMeaning, SmoothFollowsALineAndForgetsNoise) {
    Series s;
    for (int i = 0; i <= 600; ++i) s.push(at(i * kMinute), 3 + 0.5 * i);
    add("x", s);
    expectAt("smooth(@x over 1h)", 300, 153);
    expectAt("smooth(@x over 1h)", 59, kAbsent);
    Series noisy;
    for (int i = 0; i <= 600; ++i) noisy.push(at(i * kMinute), 100 + (i % 2 ? 1 : -1) + 0.01 * i);
    add("y", noisy);
    // Against the weighted line calculated plainly.
    for (const int t : {200, 377, 600}) {
        double s0 = 0, s1 = 0, s2 = 0, t0 = 0, t1 = 0;
        for (int i = t - 59; i <= t; ++i) {
            const double u = (t - i) / 60.0, w = std::pow(1 - u * u * u, 3),
                         y = noisy.values[static_cast<std::size_t>(i)];
            s0 += w, s1 -= w * u, s2 += w * u * u, t0 += w * y, t1 -= w * u * y;
        }
        expectAt("smooth(@y over 1h)", t, (s2 * t0 - s1 * t1) / (s0 * s2 - s1 * s1));
    }
}

TEST_F(ExprMeaning, EwmaIsTheFadingMean) {
    Series s;
    for (int i = 0; i <= 600; ++i) s.push(at(i * kMinute), i < 300 ? 2 : 5);
    add("held", s, {TagKind::Stepped, kWithoutEnd});
    expectAt("ewma(@held over 1h)", 360, 5 - 3 * std::exp(-1));
    expectAt("ewma(@held over 1h)", 59, kAbsent);
    Series line;
    for (int i = 0; i <= 6000; i += 7) line.push(at(i * kMinute), i);
    add("line", line);
    expectAt("ewma(@line over 1h)", 5999, 5999 - 60);  // of a line: the line a constant ago
}

TEST_F(ExprMeaning, StuckNeedsAllSamplesAlike) {
    samples("x", {{0, 1}, {10, 2}, {20, 2}, {30, 2}, {40, 3}});
    EXPECT_EQ(truth("stuck(@x over 20m)", 30), Truth::True);
    EXPECT_EQ(truth("stuck(@x over 20m)", 20), Truth::True);  // (0, 20] holds 2, 2
    EXPECT_EQ(truth("stuck(@x over 30m)", 30), Truth::True);
    EXPECT_EQ(truth("stuck(@x over 20m)", 40), Truth::False);
    EXPECT_EQ(truth("stuck(@x over 10m)", 30), Truth::Unknown);  // one sample says nothing
    EXPECT_EQ(truth("stuck(@x over 3 samples)", 30), Truth::True);
}

TEST_F(ExprMeaning, OutsideItsGoldenLimits) {
    samples("x", {{0, 5}, {10, 15}, {20, 5}, {30, -5}, {40, 5}});
    LimitLines lines;
    lines.low.times = lines.high.times = instants(0, 40 * kMinute);
    lines.low.values = {0, 0};
    lines.high.values = {10, 10};
    inputs.limitLines["Normal"] = lines;
    names.limits["Normal"] = {"x"};
    EXPECT_EQ(whereTrue("above(\"Normal\", @x)"), (Ranges{between(5 * kMinute, 15 * kMinute)}));
    EXPECT_EQ(whereTrue("below(\"Normal\", @x)"), (Ranges{between(25 * kMinute, 35 * kMinute)}));
    EXPECT_EQ(whereTrue("outside(\"Normal\", @x)").size(), 2u);
    EXPECT_EQ(whereTrue("outside(\"Normal\", @x) for 8m"),
              (Ranges{between(13 * kMinute, 15 * kMinute), between(33 * kMinute, 35 * kMinute)}));
    expectAt("high(\"Normal\", @x)", 20, 10);
    expectAt("low(\"Normal\", @x)", 20, 0);
    expectAt("high(\"Normal\", @x) - @x", 30, 15);
    EXPECT_EQ(whereTrue("@x > high(\"Normal\", @x)"), (Ranges{between(5 * kMinute, 15 * kMinute)}));
    EXPECT_EQ(errorOf("high(@x, \"Normal\")"),
              "column 6: the name of a set of golden limits in quotes would fit, like `\"Normal\"`");
}

TEST_F(ExprMeaning, DurationsAreMeasuresOfTheirOwn) {
    samples("x", {{0, 0}, {10, 10}});
    EXPECT_EQ(truth("2h + 30m = 150m", 0), Truth::True);
    EXPECT_EQ(truth("2h / 4 = 30m", 0), Truth::True);
    EXPECT_EQ(truth("2h / 30m = 4", 0), Truth::True);
    EXPECT_EQ(errorOf("2h + 3 > 1h"), "column 4: a duration and a number cannot be added");
    EXPECT_EQ(errorOf("1h * 2h > 1h"), "column 4: a duration cannot be multiplied with a duration");
    EXPECT_EQ(errorOf("@x > 20d"), "column 6: a number cannot be compared with a duration");
    EXPECT_EQ(errorOf("mean(@x over 10000w) > 1"), "column 14: this is longer than a hundred years");
}

TEST_F(ExprMeaning, UnitsAreKeptAndUnlikeOnesWarnedOf) {
    samples("t", {{0, 1}});
    samples("p", {{0, 1}});
    names.roles["t"].unit = "°C";
    names.roles["p"].unit = "%";
    const auto unit = [&](const std::string& text) { return compileExpression(text, names)->unit; };
    EXPECT_EQ(unit("mean(@t over 1h)"), "°C");
    EXPECT_EQ(unit("slope(@t over 1h)"), "°C/h");
    EXPECT_EQ(unit("integral(@p over 1h)"), "%·h");
    EXPECT_EQ(unit("@t / @t"), "");
    EXPECT_EQ(unit("@t / @p"), "°C/%");
    EXPECT_EQ(unit("2 * @t + 3"), "°C");
    EXPECT_EQ(unit("elapsed(@t > 3)"), "s");
    const auto warned = compileExpression("@t > @p", names);
    ASSERT_EQ(warned->warnings.size(), 1u);
    EXPECT_EQ(warned->warnings[0].message, "column 4: °C against %; are these alike?");
    EXPECT_TRUE(compileExpression("@t > 3 and @p > 4", names)->warnings.empty());
    EXPECT_EQ(compileExpression("least(@t, @p)", names)->warnings.size(), 1u);
}

TEST_F(ExprMeaning, ErrorsOfWindowsTracksAndLimits) {
    minutes("x", {1, 2});
    track("Stops", {});
    names.limits["Normal"] = {"y"};
    EXPECT_EQ(errorOf("abs(@x over 6h)"), "column 1: `abs` takes no `over`");
    EXPECT_EQ(errorOf("inside(\"Stop\")"),
              "column 8: `Stop` is not a track of this study; nearest is `Stops`");
    EXPECT_EQ(errorOf("mean(@x since \"Stopps\")"),
              "column 15: `Stopps` is not a track of this study; nearest is `Stops`");
    EXPECT_EQ(errorOf("quantile(@x, 2 over 1h)"),
              "column 14: `quantile` takes a number from 0 to 1 here, like `0.95`");
    EXPECT_EQ(errorOf("delay(@x, 3)"), "column 11: `delay` takes a duration here, like `2h`");
    EXPECT_EQ(errorOf("ewma(@x over 3 samples)"),
              "column 1: `ewma` takes `over` and a duration, like `over 6h`");
    EXPECT_EQ(errorOf("outside(\"Norml\", @x)"),
              "column 9: `Norml` is not a set of golden limits of this study; nearest is `Normal`");
    EXPECT_EQ(errorOf("outside(\"Normal\", @x)"), "column 19: `x` has no limits in `Normal`");
    EXPECT_EQ(errorOf("outside(\"Normal\", @x + 1)"), "column 22: `outside` takes a tag here, like `@role`");
    EXPECT_EQ(errorOf("if(@x > 1, @x, 2h)"), "column 16: a number and a duration do not go together here");
    EXPECT_EQ(errorOf("x > 1"), "column 1: `x` is not known here; `@x` is the tag in that role");
    EXPECT_EQ(errorOf("trust(@x) is \"sund\""),
              "column 11: `sund` is not a grade of trust; nearest is `sound`");
}

TEST_F(ExprMeaning, AnErrorIsOneLineWhateverStandsInTheText) {
    EXPECT_EQ(errorOf("mean( x `oe\n\x01)"), "column 9: found ``oe  )`; `)` would fit");
    EXPECT_EQ(errorOf("inside(\"a\nb\")").find('\n'), std::string::npos);
}

TEST_F(ExprMeaning, ABareNameIsADerivedTag) {
    minutes("heat_loss", {1, 2});
    names.derived = {"heat_loss"};
    expectAt("heat_loss * 2", 1, 4);
}

TEST_F(ExprMeaning, WhatAppearsTwiceIsReadOnce) {
    struct Counting : TestInputs {
        Result<Signal> role(const std::string& name) override {
            ++read;
            return TestInputs::role(name);
        }
        int read = 0;
    };
    minutes("x", {0, 6, 0, 6, 0, 6});
    Counting counting;
    counting.signals = inputs.signals;
    const auto e =
        compileExpression("mean(@x over 2m) > 1 and mean(@x over 2m) < 4 or mean(@x over 2m) > 5", names);
    ASSERT_TRUE(evaluate(*e, counting, range));
    EXPECT_EQ(counting.read, 1);
    int asked = 0;
    const auto stopped = evaluate(*e, counting, range, [&](double) { return ++asked < 3; });
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().message, "cancelled");
}

/// Whatever kind of implementation a row names, its example has a value over time, and about a run or a
/// reason.
TEST_F(ExprMeaning, EveryFunctionCanBeEvaluated) {
    for (const FunctionInfo& f : functions()) {
        names = {};
        names.limits["Normal"] = {"air_off_temp"};
        inputs = {};
        for (const char* path : {"Kiln 3/Air-off RH", "Kiln 3/RH twin"}) {
            names.paths[path] = {};
            inputs.signals[path] = constantSignal(3);
        }
        for (const char* role :
             {"bed_dp", "malt_moisture", "gas_flow", "air_on_temp", "air_off_temp", "air_off_rh",
              "air_off_rh_twin", "damper", "fan_current", "bearing_temp", "bearing_vibration"})
            minutes(role, {1, 2, 3});
        for (const char* role : {"burner_mode", "kiln_step"}) {
            minutes(role, {0, 1, 0});
            names.roles[role] = {TagKind::State, "", {"Auto", "Cure"}};
            inputs.signals[role].stepped = true;
            inputs.signals[role].states = {"Auto", "Cure"};
        }
        track("Stops", {between(kMinute, 2 * kMinute)});
        inputs.limitLines["Normal"] = {constantSignal(1), constantSignal(5)};
        const auto e = compileExpression(f.example, names);
        ASSERT_TRUE(e) << f.name << ": " << e.error().message;
        const auto value = evaluate(*e, inputs, range);
        EXPECT_TRUE(value) << f.name << ": " << (value ? "" : value.error().message);
        names.aboutSpan = true;
        (void)evaluateAbout({SpanId(1), AssetId(1), {}, at(0), at(3 * kMinute), {}},
                            *compileExpression(f.example, names), inputs);
    }
}

TEST_F(ExprMeaning, EveryFunctionHasAnExampleThatIsReadable) {
    for (const FunctionInfo& f : functions()) {
        const auto tree = parseExpression(f.example);
        EXPECT_TRUE(tree) << f.name << ": " << (tree ? "" : tree.error().message);
        EXPECT_NE(std::string(f.example).find(std::string(f.name) + "("), std::string::npos) << f.name;
        EXPECT_TRUE(std::string(f.form).starts_with(std::string(f.name) + "(")) << f.name;
    }
}

/// The table of docs/expressions.md says what the code says, function by function, and nothing else.
TEST_F(ExprMeaning, TheTeachingPageListsEveryFunction) {
    std::ifstream page(std::string(JACINTH_SOURCE_DIR) + "/docs/expressions.md");
    ASSERT_TRUE(page);
    std::vector<std::string> found, wanted;
    for (std::string line; std::getline(page, line);)
        if (line.starts_with("| `")) found.push_back(line);
    const auto code = [](const std::string& t) {
        return t.find('`') == std::string::npos ? "`" + t + "`" : "`` " + t + " ``";
    };
    for (const FunctionInfo& f : functions())
        wanted.push_back("| " + code(f.form) + " | " + f.means + " | " + code(f.example) + " |");
    EXPECT_EQ(found, wanted);
}

TEST_F(ExprMeaning, AboutARun) {
    minutes("x", {0, 10, 20, 30});
    names.aboutSpan = true;
    names.facts = {{"duration", ValueType::DurationValue}, {"load", ValueType::Number}};
    track("Stops", {between(kMinute, 2 * kMinute)});
    const Span run{SpanId(1), AssetId(1), {}, at(0), at(3 * kMinute), {{"load", 42.0}}};
    const auto about = [&](const std::string& text) {
        const auto e = compileExpression(text, names);
        EXPECT_TRUE(e) << text << (e ? "" : e.error().message);
        return *evaluateAbout(run, *e, inputs);
    };
    const auto figure = [&](const std::string& text) { return std::get<double>(about(text)); };
    EXPECT_DOUBLE_EQ(figure("last(@x)"), 30);
    EXPECT_DOUBLE_EQ(figure("first(@x)"), 0);
    EXPECT_DOUBLE_EQ(figure("change(@x)"), 30);
    EXPECT_NEAR(figure("rate(@x)"), 600, 1e-9);
    EXPECT_DOUBLE_EQ(figure("count(@x)"), 4);
    EXPECT_NEAR(figure("integral(@x)"), 15 * 0.05, 1e-12);
    EXPECT_DOUBLE_EQ(figure("quantile(@x, 0.5)"), 15);
    EXPECT_NEAR(figure("integral(2)"), 0.1, 1e-12);
    EXPECT_DOUBLE_EQ(figure("range(2)"), 0);
    EXPECT_TRUE(std::isnan(figure("count(2)")));  // a number has no samples
    EXPECT_NEAR(figure("time(@x > 15)"), 90, 1e-6);
    EXPECT_DOUBLE_EQ(figure("count(\"Stops\")"), 1);
    EXPECT_DOUBLE_EQ(figure("max(@x over 1m)"), 30);  // its own window: at the run's end
    EXPECT_DOUBLE_EQ(figure("if(load > 40, 1, 2) + most(load, 50)"), 51);
    EXPECT_EQ(std::get<Truth>(about("duration = 3m and duration / 2 < 2m")), Truth::True);
    EXPECT_EQ(std::get<Truth>(about("missing(load)")), Truth::False);
    EXPECT_DOUBLE_EQ(figure("delay(@x, 1m)"), 20);
    EXPECT_EQ(std::get<Truth>(about("delay(@x > 15, 1m)")), Truth::True);
    EXPECT_EQ(std::get<Truth>(about("delay(delay(@x > 15, 1m), 1m)")), Truth::False);
    EXPECT_FALSE(evaluateAbout(run, *compileExpression("trust(@x)", names), inputs));
}

}  // namespace
}  // namespace jacinth
