#include "core/prove/starting_range.h"

#include <gtest/gtest.h>

#include <random>

namespace jacinth {
namespace {

struct PlaceCase {
    const char *text, *name, *measure;
    SettingSide side;
};

class PlaceOfSetting : public testing::TestWithParam<PlaceCase> {};

TEST_P(PlaceOfSetting, IsWhatItIsComparedWith) {
    const auto [text, name, measure, side] = GetParam();
    const auto place = placeOfSetting(text, name);
    ASSERT_TRUE(place) << text;
    EXPECT_EQ(place->measure, measure) << text;
    if (*measure != 0) EXPECT_EQ(place->side, side) << text;
}

constexpr auto kAbove = SettingSide::Above, kBelow = SettingSide::Below;
INSTANTIATE_TEST_SUITE_P(
    Rules, PlaceOfSetting,
    testing::Values(
        PlaceCase{"@a > {limit}", "limit", "@a", kAbove}, PlaceCase{"@a<={limit}", "limit", "@a", kBelow},
        PlaceCase{"{limit} < @a", "limit", "@a", kAbove},
        PlaceCase{"mean(@a over {hours}h) > {limit} for 20m", "limit", "mean(@a over {hours}h)", kAbove},
        PlaceCase{"not (@b is `Off`) and mean(@a over 6h) < {low} or @c > 1", "low", "mean(@a over 6h)",
                  kBelow},
        PlaceCase{"@a > {times} * median(@a over 7d)", "times", "(@a) / (median(@a over 7d))", kAbove},
        PlaceCase{"@a < median(@a over 7d) * {times}", "times", "(@a) / (median(@a over 7d))", kBelow},
        PlaceCase{"@a > {times} * @b + @c", "times", "", kAbove},
        PlaceCase{"@a > @b + {more}", "more", "(@a) - (@b)", kAbove},
        PlaceCase{"@a > {more} + 2 * @b", "more", "(@a) - (2 * @b)", kAbove},
        PlaceCase{"@a > @b - {less}", "less", "(@b) - (@a)", kAbove},
        PlaceCase{"(@a + 1) > {limit}", "limit", "(@a + 1)", kAbove},
        PlaceCase{"(@a > {limit}) and @b > {other}", "other", "@b", kAbove},
        PlaceCase{"`Kiln ü/{x} {limit}` > {limit}", "limit", "`Kiln ü/{x} {limit}`", kAbove},
        PlaceCase{"@a between {low} and {high}", "low", "@a", kBelow},
        PlaceCase{"@a between {low} and {high}", "high", "@a", kAbove},
        PlaceCase{"@x > 1 and {größe} < @ü", "größe", "@ü", kAbove},
        PlaceCase{"count(@a > 3 over 1h) > {n}", "n", "count(@a > 3 over 1h)", kAbove},
        PlaceCase{"abs({s}) > 3", "s", "", kAbove}, PlaceCase{"{s}", "s", "", kAbove},
        PlaceCase{"> {s}", "s", "", kAbove}, PlaceCase{"and {s}", "s", "", kAbove},
        PlaceCase{"between and {s}", "s", "", kAbove}, PlaceCase{"@a {s} @b > 1", "s", "", kAbove}));

TEST(PlaceOfSetting, HasItsUnitOfTime) {
    EXPECT_EQ(placeOfSetting("mean(@a over {hours}h) > {limit}", "hours")->unit, "h");
    EXPECT_EQ(placeOfSetting("@a > 1 for {minutes}m", "minutes")->unit, "m");
    EXPECT_FALSE(placeOfSetting("@a > 1", "hours"));
}

TEST(StartingRange, BeginsAtTheTailAndSearchesFromTheMiddle) {
    std::vector<double> values;
    for (int i = 0; i <= 1000; ++i) values.push_back(i / 100.0);
    const auto above = rangeFromValues("limit", values, kAbove);
    ASSERT_TRUE(above);
    EXPECT_EQ(above->vary.low, 5);
    EXPECT_EQ(above->vary.high, 10);
    EXPECT_EQ(above->vary.steps, 26) << "steps of 0.2";
    EXPECT_DOUBLE_EQ(above->value, 10) << "9.9 lies between two steps";
    const auto below = rangeFromValues("limit", values, kBelow);
    EXPECT_EQ(below->vary.low, 0);
    EXPECT_EQ(below->vary.high, 5);
    EXPECT_NEAR(below->value, 0, 0.2);
}

TEST(StartingRange, HasRoundStepsOnEveryScale) {
    std::mt19937 random(5);
    for (double scale = 1e-9; scale < 1e12; scale *= 37) {
        std::vector<double> values;
        std::normal_distribution<double> normal(scale * 3, scale);
        for (int i = 0; i < 5000; ++i) values.push_back(normal(random));
        const auto range = rangeFromValues("limit", values, kAbove);
        ASSERT_TRUE(range);
        const double step = (range->vary.high - range->vary.low) / (range->vary.steps - 1);
        const double digit = step / std::pow(10, std::floor(std::log10(step * 1.0001)));
        EXPECT_TRUE(std::abs(digit - 1) < 1e-6 || std::abs(digit - 2) < 1e-6 || std::abs(digit - 5) < 1e-6)
            << step;
        EXPECT_NEAR(std::remainder(range->value - range->vary.low, step) / step, 0, 1e-6);
        EXPECT_GE(range->vary.steps, 10);
        EXPECT_LE(range->vary.steps, 30);
    }
}

TEST(StartingRange, ASpikeDoesNotStretchIt) {
    std::vector<double> values;
    for (int i = 0; i < 5000; ++i) values.push_back(i % 100);
    values.push_back(1e9);
    EXPECT_LE(rangeFromValues("limit", values, kAbove)->vary.high, 300);
}

TEST(StartingRange, NoneFromValuesThatHardlyDiffer) {
    std::vector<double> same(500, 3.25), few{1, 2, 3}, none(500, std::nan(""));
    EXPECT_FALSE(rangeFromValues("limit", same, kAbove));
    EXPECT_FALSE(rangeFromValues("limit", few, kAbove));
    EXPECT_FALSE(rangeFromValues("limit", none, kBelow));
}

TEST(StartingRange, ReachesANumberBeyondIt) {
    Vary vary{"limit", 2, 4, 21};
    reach(vary, 5.05);
    EXPECT_DOUBLE_EQ(vary.low, 2);
    EXPECT_DOUBLE_EQ(vary.high, 5.1);
    EXPECT_EQ(vary.steps, 32);
    reach(vary, 1.9);
    EXPECT_DOUBLE_EQ(vary.low, 1.9);
    reach(vary, 5000);
    EXPECT_GE(vary.high, 5000);
    EXPECT_LT(vary.steps, 60);
    const Vary before = vary;
    reach(vary, std::nan(""));
    EXPECT_EQ(vary.high, before.high);
}

TEST(StartingRange, AroundANumberIsRound) {
    EXPECT_EQ(rangeAround("x", 0).vary.low, -1);
    const StartingRange at = rangeAround("x", 3);
    EXPECT_DOUBLE_EQ(at.vary.low, 1.4);
    EXPECT_DOUBLE_EQ(at.vary.high, 6);
    EXPECT_EQ(at.value, 3);
    EXPECT_LT(rangeAround("x", -3).vary.low, -5.9);
}

}  // namespace
}  // namespace jacinth
