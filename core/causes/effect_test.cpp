#include "core/causes/effect.h"

#include <gtest/gtest.h>

#include "core/base/missing.h"
#include "core/causes/cause.h"

namespace jacinth {
namespace {

Instant at(double hours) {
    return Instant(scaled(kHour, hours));
}
Place place(double hours) {
    return Place(scaled(kHour, hours));
}

ScaleShape shapeOf(std::vector<double> values) {
    const std::size_t count = values.size();
    return {{place(0), kHour, count}, std::move(values)};
}

TEST(CauseEffect, AShapeIsStraightBetweenTheCentresOfItsBins) {
    const ScaleShape shape = shapeOf({2, 4, kMissing});
    EXPECT_DOUBLE_EQ(shape.at(place(-3)), 2);
    EXPECT_DOUBLE_EQ(shape.at(place(0.5)), 2);
    EXPECT_DOUBLE_EQ(shape.at(place(1)), 3);
    EXPECT_DOUBLE_EQ(shape.at(place(2)), 2) << "what is missing counts as nothing";
    EXPECT_DOUBLE_EQ(shapeOf({7}).at(place(100)), 7);
    EXPECT_DOUBLE_EQ(ScaleShape{}.at(place(0)), 0);
}

TEST(CauseEffect, AWeightGrowsInsideItsRangeOnly) {
    CauseEffect effect;
    effect.range = {at(0), at(10)};
    effect.shape = shapeOf({3});
    EXPECT_DOUBLE_EQ(effect.at(at(0), {}), 3) << "from, included";
    EXPECT_DOUBLE_EQ(effect.at(at(10), {}), 0) << "to, not included";
    effect.weights = {{at(2), 0}, {at(6), 1}};
    EXPECT_DOUBLE_EQ(effect.at(at(1), {}), 0);
    EXPECT_DOUBLE_EQ(effect.at(at(4), {}), 1.5);
    EXPECT_DOUBLE_EQ(effect.at(at(9), {}), 3);
}

TEST(CauseEffect, ActsOnlyInTheRunsWhoseScaleItIsOf) {
    CauseEffect effect;
    effect.range = {at(0), at(10)};
    effect.shape = shapeOf({3});
    effect.onlyIn = {{at(1), at(2)}, {at(5), at(6)}};
    EXPECT_DOUBLE_EQ(effect.at(at(0.5), {}), 0);
    EXPECT_DOUBLE_EQ(effect.at(at(1), {}), 3);
    EXPECT_DOUBLE_EQ(effect.at(at(2), {}), 0);
    EXPECT_DOUBLE_EQ(effect.at(at(5.5), {}), 3);
    EXPECT_DOUBLE_EQ(effect.at(at(9), {}), 0);
}

TEST(CauseEffect, OfSeveralCausesThoseOnATagInAStretchAreGathered) {
    Cause one, other;
    one.effects = {{TagId(1), {at(0), at(2)}}, {TagId(2), {at(0), at(9)}}};
    other.effects = {{TagId(1), {at(5), at(9)}}};
    const std::vector<Cause> causes{one, other};
    EXPECT_EQ(effectsOn(TagId(1), causes).size(), 2u);
    ASSERT_EQ(effectsOn(TagId(1), causes, {at(2), at(6)}).size(), 1u) << "the end is not in it";
    EXPECT_EQ(effectsOn(TagId(1), causes, {at(2), at(6)})[0].range.from, at(5));
    EXPECT_TRUE(effectsOn(TagId(3), causes).empty());
}

TEST(CauseEffect, WhereTheScaleHasNoPlaceAShapeAddsNothing) {
    CauseEffect effect;
    effect.range = {at(0), at(10)};
    effect.shape = shapeOf({1, 1});
    EXPECT_DOUBLE_EQ(effect.at(at(1), place(1)), 1);
    EXPECT_DOUBLE_EQ(effect.at(at(1), {}), 0);
}

Series hourly(std::vector<double> values) {
    Series out;
    for (std::size_t i = 0; i < values.size(); ++i) out.times.push_back(at(static_cast<double>(i)));
    out.values = std::move(values);
    out.quality.assign(out.values.size(), Quality::Good);
    return out;
}

TEST(CauseEffect, IsTakenAwayButNotAtTheEndOfTheScale) {
    Series series = hourly({5, 0, 6, 0.1, 7});
    CauseEffect effect;
    effect.range = {at(1), at(5)};
    effect.shape = shapeOf({-2});
    effect.endOfScale = 0.14;
    takeAway(series, {effect}, {});
    EXPECT_EQ(series.values, (std::vector<double>{5, 0, 8, 0.1, 9}));
}

TEST(CauseEffect, TheEndOfAScaleIsWhereAMeterStays) {
    std::vector<double> values;
    for (int i = 0; i < 100; ++i) values.push_back(i < 10 ? 0 : 50 + i % 7);
    EXPECT_DOUBLE_EQ(endOfScale(hourly(values), false).value(), 0.02 * 56);
    EXPECT_FALSE(endOfScale(hourly({1, 1, 1, 1}), false)) << "a meter that never moves says nothing";
    std::vector<double> rising;
    for (int i = 0; i < 100; ++i) rising.push_back(i);
    EXPECT_FALSE(endOfScale(hourly(rising), false));
    EXPECT_FALSE(endOfScale({}, true));
}

TEST(CauseEffect, BinsAreOfWholeSlices) {
    GoldenLimits limits;
    limits.spec.every = 2 * kMinute;
    for (int i = 0; i < 25; ++i) limits.slices.push_back({Place(i * 2 * kMinute)});
    const ScaleBins bins = ScaleBins::over(limits, 6);
    EXPECT_EQ(bins.width, 8 * kMinute);
    EXPECT_EQ(bins.count, 7u);
    EXPECT_EQ(ScaleBins::over(limits, 1000).count, 25u);
    EXPECT_EQ(ScaleBins::over({}, 6).count, 0u);
}

TEST(BestExplained, TheGreatestShareFromHalfOn) {
    const auto best = [](std::vector<Explained> by) { return bestExplained(by); };
    EXPECT_FALSE(best({}));
    EXPECT_FALSE(best({{0, CauseKind::Step, 0.49}}));
    EXPECT_EQ(best({{0, CauseKind::Step, 0.6}, {1, CauseKind::Gradual, 0.9}})->cause, 1u);
    EXPECT_EQ(best({{0, CauseKind::Gradual, 0.93}, {1, CauseKind::Step, 0.9}})->cause, 1u)
        << "alike: a step is believed before a gradual change";
    EXPECT_EQ(best({{0, CauseKind::Event, 0.9}, {1, CauseKind::Event, 0.92}})->cause, 1u);
    EXPECT_EQ(best({{0, CauseKind::Asset, 1, 0.3}, {1, CauseKind::Gradual, 1, -0.8}})->cause, 1u)
        << "one that hardly pushes does not take a barely outside value from one that does";
    EXPECT_EQ(best({{0, CauseKind::Asset, 1, 0.6}, {1, CauseKind::Gradual, 1, 0.8}})->cause, 0u);
    EXPECT_EQ(best({{0, CauseKind::Event, 1, kMissing}, {1, CauseKind::Gradual, 1, 0.8}})->cause, 0u);
}

}  // namespace
}  // namespace jacinth
