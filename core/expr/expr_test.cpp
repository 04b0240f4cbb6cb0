#include <gtest/gtest.h>

#include <random>

#include "core/expr/expr_fixture.h"
#include "core/expr/window.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

using Ranges = std::vector<TimeRange>;

TEST_F(Expr, PrecedenceByHand) {
    minutes("x", {2});
    EXPECT_DOUBLE_EQ(signalAt(number("@x + 3 * 4 ^ 2 / 8 - -1"), at(0)), 2 + 6 + 1);
    EXPECT_DOUBLE_EQ(signalAt(number("2 ^ 3 ^ 2 + 0 * @x"), at(0)), 512);
    EXPECT_DOUBLE_EQ(signalAt(number("-2 ^ 2 + 0 * @x"), at(0)),
                     4);  // unary binds closer, as the grammar says
    EXPECT_DOUBLE_EQ(signalAt(number("clip(@x * 10, 0, 15) # comment"), at(0)), 15);
}

TEST_F(Expr, ALengthOfTimeIsWrittenAsTheLanguageReadsIt) {
    EXPECT_EQ(durationWord(90 * kMinute), "90m");
    EXPECT_EQ(durationWord(28 * kHour), "28h");
    EXPECT_EQ(durationWord(61 * kSecond), "61s");
    EXPECT_EQ(durationWord(1500 * kMillisecond), "1500ms");
    minutes("x", {0, 10, 20});
    for (const Duration d : {Duration(90 * kSecond), Duration(kMinute), Duration(1500 * kMillisecond)})
        EXPECT_DOUBLE_EQ(
            signalAt(number("min(@x over " + durationWord(d) + ")"), at(2 * kMinute)),
            signalAt(number("min(@x over " + std::to_string(d / kMillisecond) + "ms)"), at(2 * kMinute)));
}

TEST_F(Expr, ComparisonChangesWhereTheLinesCross) {
    minutes("x", {0, 10, 0});
    EXPECT_EQ(whereTrue("@x > 5"), (Ranges{between(30 * kSecond, 90 * kSecond)}));
    EXPECT_EQ(whereTrue("@x between 2.5 and 5"),
              (Ranges{between(15 * kSecond, 30 * kSecond), between(90 * kSecond, 105 * kSecond)}));
    EXPECT_EQ(whereTrue("@x > 5 for 20s"), (Ranges{between(50 * kSecond, 90 * kSecond)}));
    EXPECT_EQ(whereTrue("@x > 5 for 60s"), (Ranges{}));
    EXPECT_EQ(whereTrue("not @x > 5"),
              (Ranges{between(0, 30 * kSecond), between(90 * kSecond, 2 * kMinute + kNanosecond)}));
}

TEST_F(Expr, TwoTagsAtTheUnionOfTheirTimes) {
    minutes("x", {0, 10, 0});
    Series y;
    y.push(at(30 * kSecond), 1);
    y.push(at(90 * kSecond), 1);
    add("y", y);
    const Signal s = number("@x + @y");
    EXPECT_EQ(s.times, (instants(0, 30 * kSecond, kMinute, 90 * kSecond, 2 * kMinute)));
    EXPECT_TRUE(std::isnan(s.values[0]));
    EXPECT_DOUBLE_EQ(s.values[1], 6);
    EXPECT_DOUBLE_EQ(s.values[2], 11);
}

TEST_F(Expr, MissingIsUnknownAndKleeneFollows) {
    Series x;
    x.push(at(0), 10);
    x.push(at(kMinute), 10);
    x.push(at(3 * kHour), 10);
    x.push(at(3 * kHour + kMinute), 10);
    add("x", x);
    Series y;
    y.push(at(0), 1);
    y.push(at(3 * kHour + kMinute), 1);
    add("y", y, {TagKind::Stepped, kWithoutEnd});
    EXPECT_EQ(whereTrue("@x > 5").size(), 2u);
    EXPECT_EQ(whereTrue("not @x > 5").size(), 0u);               // unknown in the gap, not false
    EXPECT_EQ(whereTrue("@x > 5 or @y = 1").size(), 1u);         // unknown or true is true
    EXPECT_EQ(whereTrue("not (@x > 5 and @y = 2)").size(), 1u);  // unknown and false is false
}

TEST_F(Expr, StatesAndShare) {
    Series m;
    m.push(at(0), 0);
    m.push(at(6 * kMinute), 1);
    m.push(at(10 * kMinute), 0);
    m.push(at(20 * kMinute), 0);
    add("mode", m, {TagKind::State, kWithoutEnd}, {"Auto", "Manual"});
    EXPECT_EQ(whereTrue("@mode is \"Manual\""), (Ranges{between(6 * kMinute, 10 * kMinute)}));
    EXPECT_EQ(whereTrue("@mode is not \"Auto\""), (Ranges{between(6 * kMinute, 10 * kMinute)}));
    EXPECT_EQ(whereTrue("@mode in (\"Auto\", \"Manual\")"), (Ranges{between(0, 20 * kMinute + kNanosecond)}));
    const Signal share = number("share(@mode is \"Manual\" over 10m)");
    EXPECT_NEAR(signalAt(share, at(10 * kMinute)), 0.4, 1e-12);
    EXPECT_NEAR(signalAt(share, at(18 * kMinute)), 0.2,
                1e-12);  // two of its four minutes have left the window
    EXPECT_TRUE(std::isnan(signalAt(share, at(9 * kMinute))));
}

TEST_F(Expr, WindowsByHand) {
    minutes("x", {0, 6, 0, 6, 0, 6});
    // (t − 2 min, t] at 2 min holds the samples of minutes 1 and 2; its time-weighted mean is 3.
    EXPECT_DOUBLE_EQ(signalAt(number("mean(@x over 2m)"), at(2 * kMinute)), 3);
    EXPECT_DOUBLE_EQ(signalAt(number("max(@x over 2m)"), at(2 * kMinute)), 6);
    EXPECT_DOUBLE_EQ(signalAt(number("sum(@x over 2m)"), at(2 * kMinute)), 6);
    EXPECT_DOUBLE_EQ(signalAt(number("count(@x over 2m)"), at(2 * kMinute)), 2);
    EXPECT_NEAR(signalAt(number("sd(@x over 2m)"), at(2 * kMinute)), std::sqrt(18), 1e-12);
    EXPECT_NEAR(signalAt(number("slope(@x over 2m)"), at(2 * kMinute)), -360, 1e-9);  // −6 a minute
    EXPECT_DOUBLE_EQ(signalAt(number("median(@x over 3m)"), at(5 * kMinute)), 6);
    EXPECT_DOUBLE_EQ(signalAt(number("sum(@x over 3 samples)"), at(3 * kMinute)), 12);
    EXPECT_TRUE(std::isnan(signalAt(number("mean(@x over 2m)"), at(kMinute))));  // not yet full
}

TEST_F(Expr, SlidingFiguresAgreeWithAPlainSum) {
    std::mt19937 random(7);
    Series s;
    Instant t{};
    for (int i = 0; i < 4000; ++i) {
        t += kSecond + static_cast<int>(random() % 100) * kSecond / 10;
        if (i % 700 == 0) t += 20 * kMinute;
        s.push(t, 1000 + static_cast<double>(random() % 1000) / 7);
    }
    const Signal x = signalOf(s, {TagKind::Continuous, kMinute}, at(0));
    const Duration width = 3 * kMinute;
    using enum WindowFigure;
    const auto slopes = slide(Slope, x, width, s.times), sds = slide(Sd, x, width, s.times);
    const auto medians = slide(Median, x, width, s.times), least = slide(Min, x, width, s.times);
    for (std::size_t i = 50; i < s.size(); i += 97) {
        std::vector<double> hours, values;
        for (std::size_t k = 0; k <= i; ++k)
            if (s.times[k] > s.times[i] - width) {
                hours.push_back(toHours(s.times[k] - s.times[i]));
                values.push_back(s.values[k]);
            }
        if (std::isnan(slopes[i])) continue;
        double n = values.size(), mx = 0, my = 0, sxy = 0, sxx = 0, syy = 0;
        for (std::size_t k = 0; k < values.size(); ++k) mx += hours[k] / n, my += values[k] / n;
        for (std::size_t k = 0; k < values.size(); ++k) {
            sxx += (hours[k] - mx) * (hours[k] - mx);
            sxy += (hours[k] - mx) * (values[k] - my);
            syy += (values[k] - my) * (values[k] - my);
        }
        EXPECT_NEAR(slopes[i], sxy / sxx, 1e-6 * std::abs(sxy / sxx) + 1e-6);
        EXPECT_NEAR(sds[i], std::sqrt(syy / (n - 1)), 1e-8);
        EXPECT_EQ(least[i], *std::min_element(values.begin(), values.end()));
        std::sort(values.begin(), values.end());
        EXPECT_DOUBLE_EQ(medians[i], (values[(values.size() - 1) / 2] + values[values.size() / 2]) / 2);
    }
}

TEST_F(Expr, HalfCoveredIsMissing) {
    Series s;
    for (int i = 0; i <= 10; ++i) s.push(at(i * kMinute), 1);
    for (int i = 0; i <= 10; ++i) s.push(at(kHour + i * kMinute), 1);
    const Signal x = signalOf(s, {TagKind::Continuous, 5 * kMinute}, at(0));
    const auto means =
        slide(WindowFigure::Mean, x, 10 * kMinute, instants(kHour + 4 * kMinute, kHour + 5 * kMinute));
    EXPECT_TRUE(std::isnan(means[0]));
    EXPECT_DOUBLE_EQ(means[1], 1);
}

TEST_F(Expr, ErrorsSayWhereWhatAndWhatWouldFit) {
    minutes("bearing_vibration", {1, 2});
    minutes("fan_current", {1, 2});
    Series m;
    m.push(at(0), 0);
    add("burner_mode", m, {TagKind::State, kWithoutEnd}, {"Auto", "Manual"});
    EXPECT_EQ(errorOf("mean(@fan_current over 6h) > @bearing_vibratoin"),
              "column 30: `bearing_vibratoin` is not a role of Kiln; nearest is `bearing_vibration`");
    EXPECT_EQ(errorOf("slop(@fan_current over 6h)"),
              "column 1: `slop` is not a function; nearest is `slope`");
    EXPECT_EQ(errorOf("mean(@fan_current)"),
              "column 1: `mean` looks back over a time; add `over` and a duration, like `over 6h`");
    EXPECT_EQ(errorOf("@fan_current > "),
              "column 16: the text ends here; a number, a tag like `@role`, a function or `(` would fit");
    EXPECT_EQ(errorOf("@fan_current > 6h"), "column 16: a number cannot be compared with a duration");
    EXPECT_EQ(errorOf("@burner_mode is \"Auot\""), "");
    EXPECT_EQ(errorOf("@fan_current and 1 > 0"), "column 1: this is a number; a condition would fit");
    EXPECT_NE(errorOf("`Kiln 3/fan_curent` > 1").find("nearest is `Kiln 3/fan_current`"), std::string::npos);
    EXPECT_NE(errorOf("µ > 1 ~").find("column 7"), std::string::npos);  // columns count characters
}

// Names of earlier versions, like `bed_δp`, stand in rules written then: wherever a role may stand.
TEST_F(Expr, ARoleByItsNameOfEarlierVersionsHasItsStatesAndLimits) {
    minutes("bed_dp", {1, 2});
    Series m;
    m.push(at(0), 0);
    add("burner_mode", m, {TagKind::State, kWithoutEnd}, {"Auto", "Manual"});
    names.limits["Normal"] = {"bed_dp"};
    EXPECT_EQ(errorOf("@Burner_mode is \"Auto\""), "");
    EXPECT_EQ(errorOf("above(\"Normal\", @bed_δp)"), "");
    const auto odd = compileExpression("if(@Burner_mode is \"Auot\", 1, 0)", names);
    ASSERT_TRUE(odd) << odd.error().message;
    ASSERT_EQ(odd->warnings.size(), 1);
    EXPECT_NE(odd->warnings[0].message.find("it has had Auto, Manual"), std::string::npos)
        << odd->warnings[0].message;
}

// Over time nothing is a text: compared, it would have no line to read.
TEST_F(Expr, TextsAreComparedAboutRunsOnly) {
    minutes("x", {1, 2});
    const std::vector<std::string> texts{
        "\"a\" = \"b\"",           "\"a\" != \"a\"",           "\"a\" is \"a\"",
        "\"a\" in (\"b\", \"c\")", "@x > 1 and \"a\" = \"a\"", "if(\"a\" = \"b\", 1, 2)"};
    for (const std::string& text : texts)
        EXPECT_NE(errorOf(text).find("this is a text"), std::string::npos) << text;
    names.aboutSpan = true;
    names.facts = {{"product", ValueType::Text}};
    EXPECT_EQ(errorOf("product = \"Pale\" or product in (\"Wheat\", \"Rye\")"), "");
}

TEST_F(Expr, ABackQuoteInAPathIsWrittenTwice) {
    minutes("odd`name", {1, 2, 3});
    EXPECT_EQ(quotedPath("Kiln 3/odd`name"), "`Kiln 3/odd``name`");
    EXPECT_EQ(errorOf("`Kiln 3/odd``name` > 1"), "");
    EXPECT_NE(errorOf("`Kiln 3/odd`name` > 1"), "");
}

TEST_F(Expr, NoTextExhaustsAnything) {
    minutes("x", {1});
    EXPECT_FALSE(parseExpression(std::string(5000, '(')));
    EXPECT_FALSE(parseExpression(std::string(30000, 'x')));
    std::string chain = "1";
    for (int i = 0; i < 3000; ++i) chain += "+1";
    EXPECT_FALSE(parseExpression(chain));
    std::string nots;
    for (int i = 0; i < 3000; ++i) nots += "not ";
    EXPECT_FALSE(parseExpression(nots + "@x > 1"));
    std::mt19937 random(11);
    const std::vector<std::string> bits{"@x", "(", ")",       "and", "or", "not", "mean(", "over",
                                        "6h", "1", "<",       "\"",  "`",  "is",  "for",   ",",
                                        "-",  "^", "between", "in",  "#",  "é",   "\n"};
    for (int i = 0; i < 20000; ++i) {
        std::string text;
        for (int k = 0; k < 12; ++k) text += bits[random() % bits.size()] + " ";
        const auto e = compileExpression(text, names);
        if (!e) {
            EXPECT_GT(e.error().column, 0) << text;
        }
    }
}

TEST_F(Expr, AboutARun) {
    minutes("x", {0, 10, 20, 30});
    names.aboutSpan = true;
    names.facts = {
        {"duration", ValueType::DurationValue}, {"load", ValueType::Number}, {"product", ValueType::Text}};
    Span run{SpanId(1), AssetId(1),      {},
             at(0),     at(3 * kMinute), {{"load", 42.0}, {"product", std::string("Pale")}}};
    const auto about = [&](const std::string& text) {
        const auto e = compileExpression(text, names);
        EXPECT_TRUE(e) << (e ? "" : e.error().message);
        return *evaluateAbout(run, *e, inputs);
    };
    EXPECT_DOUBLE_EQ(std::get<double>(about("mean(@x)")), 15);
    EXPECT_EQ(std::get<Truth>(about("duration between 2m and 4m and load > 40")), Truth::True);
    EXPECT_EQ(std::get<Truth>(about("product = \"Pale\" and max(@x) < 30")), Truth::False);
    EXPECT_EQ(std::get<Truth>(about("product in (\"Dark\", \"Pale\")")), Truth::True);
    EXPECT_NEAR(std::get<double>(about("share(@x > 15)")), 0.5, 1e-9);
}

}  // namespace
}  // namespace jacinth
