#include <gtest/gtest.h>

#include "core/golden/excursions.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

const Bridging kLine{TagKind::Continuous, kHour};
const ScreenSpec kKeepAll{Duration(), Duration()};

GoldenLimits flatLimits(double low, double high, int slices) {
    GoldenLimits g;
    g.spec.every = kMinute;
    for (int i = 0; i < slices; ++i) g.slices.push_back({Place(i * kMinute), 5, low, (low + high) / 2, high});
    return g;
}

Series everyMinute(const std::vector<double>& values) {
    Series s;
    for (const double v : values) s.push(Instant(static_cast<int>(s.size()) * kMinute), v);
    return s;
}

TEST(GoldenLimits, MeanAndSpreadByHand) {
    LimitSpec spec;
    spec.k = 2;
    const std::vector<AlignedRun> runs{{SpanId(1), {10, 1}}, {SpanId(2), {12, 1}}, {SpanId(3), {14}}};
    const GoldenLimits g = buildLimits(spec, runs);
    ASSERT_EQ(g.slices.size(), 2u);
    EXPECT_DOUBLE_EQ(g.slices[0].centre, 12);
    EXPECT_DOUBLE_EQ(g.slices[0].low, 12 - 2 * 2);  // s = 2
    EXPECT_DOUBLE_EQ(g.slices[0].high, 16);
    EXPECT_EQ(g.slices[1].n, 2);  // fewer than three: no limit, and n says so
    EXPECT_TRUE(std::isnan(g.slices[1].low));
}

TEST(GoldenLimits, OtherMethodsByHand) {
    std::vector<AlignedRun> runs;
    for (int i = 1; i <= 5; ++i) runs.push_back({SpanId(i), {static_cast<double>(i * i)}});  // 1 4 9 16 25
    LimitSpec spec;
    spec.method = LimitMethod::Envelope;
    EXPECT_DOUBLE_EQ(buildLimits(spec, runs).slices[0].high, 25);
    spec.method = LimitMethod::Quantile;
    spec.q = 0.25;
    EXPECT_DOUBLE_EQ(buildLimits(spec, runs).slices[0].low, 4);
    spec.method = LimitMethod::MedianMad;
    spec.k = 1;  // deviations 8 5 0 7 16: MAD 7
    EXPECT_DOUBLE_EQ(buildLimits(spec, runs).slices[0].high, 9 + 1.4826 * 7);
}

TEST(GoldenLimits, AGoldenRunIsJudgedWithoutItself) {
    LimitSpec spec;
    std::vector<AlignedRun> runs{{SpanId(1), {10}}, {SpanId(2), {11}}, {SpanId(3), {12}}, {SpanId(4), {50}}};
    EXPECT_DOUBLE_EQ(buildLimitsWithout(spec, runs, SpanId(4)).slices[0].high, 11 + 3);
    EXPECT_GT(buildLimits(spec, runs).slices[0].high, 50);
}

TEST(GoldenLimits, LinearBetweenSlices) {
    GoldenLimits g = flatLimits(0, 10, 2);
    g.slices[1].high = 20;
    EXPECT_DOUBLE_EQ(limitsAt(g, Place(30 * kSecond)).high, 15);
    EXPECT_TRUE(std::isnan(limitsAt(g, Place(kMinute + kNanosecond)).high));
    EXPECT_TRUE(std::isnan(limitsAt(g, Place(-kNanosecond)).high));
}

TEST(Alignment, FromStartAndFromEnd) {
    const Series s = everyMinute({0, 10, 20, 30});
    LimitSpec spec;
    spec.every = 90 * kSecond;
    const Span run{SpanId(7), AssetId(1), {}, at(0), at(3 * kMinute), {}};
    EXPECT_EQ(alignRun(s, kLine, SpanId(1), scaleFromStart(run.range()), spec.every).values,
              (std::vector<double>{0, 15, 30}));
    spec.lineUp = LineUp::End;
    EXPECT_EQ(alignRun(s, kLine, SpanId(1), scaleFromEnd(run.range()), spec.every).values,
              (std::vector<double>{0, 15, 30}));
}

TEST(Excursions, EdgesWhereTheLinesCross) {
    // 8 → 12 crosses 10 half way through the first minute; 12 → 4 crosses it a quarter into the third.
    const Series s = everyMinute({8, 12, 12, 4, 4});
    const Span run{SpanId(1), AssetId(1), {}, at(0), at(4 * kMinute), {}};
    const auto found = findExcursions(s, kLine, scaleFromStart(run.range()), flatLimits(0, 10, 5), kKeepAll);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].start, at(30 * kSecond));
    EXPECT_EQ(found[0].end, at(2 * kMinute + 15 * kSecond));
    EXPECT_DOUBLE_EQ(found[0].peak, 2);
    EXPECT_EQ(found[0].side, Side::High);
    // Area: half a minute of a ramp to 2, a minute of 2, a quarter of a ramp back, in unit × h.
    EXPECT_NEAR(found[0].area, (0.5 * 1 + 1 * 2 + 0.25 * 1) / 60, 1e-12);
    EXPECT_DOUBLE_EQ(found[0].halfWidths, 2.0 / 5);
}

TEST(Excursions, BelowHasANegativePeak) {
    const Series s = everyMinute({5, -3, 5});
    const auto found =
        findExcursions(s, kLine, scaleFromStart(between(0, 2 * kMinute)), flatLimits(0, 10, 3), kKeepAll);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_DOUBLE_EQ(found[0].peak, -3);
    EXPECT_EQ(found[0].side, Side::Low);
}

TEST(Excursions, OnTheLimitIsInside) {
    const Series s = everyMinute({10, 10, 10});
    EXPECT_TRUE(
        findExcursions(s, kLine, scaleFromStart(between(0, 2 * kMinute)), flatLimits(0, 10, 3), kKeepAll)
            .empty());
}

TEST(Excursions, JoinedThenIgnored) {
    const Series s = everyMinute({12, 12, 8, 12, 12, 8, 8, 8, 8, 12, 8});
    const Span run{SpanId(1), AssetId(1), {}, at(0), at(10 * kMinute), {}};
    const GoldenLimits g = flatLimits(0, 10, 11);
    EXPECT_EQ(findExcursions(s, kLine, scaleFromStart(run.range()), g, kKeepAll).size(), 3u);
    EXPECT_EQ(findExcursions(s, kLine, scaleFromStart(run.range()), g, {Duration(), 2 * kMinute}).size(), 2u);
    const auto kept = findExcursions(s, kLine, scaleFromStart(run.range()), g, {3 * kMinute, 2 * kMinute});
    ASSERT_EQ(kept.size(), 1u);
    EXPECT_EQ(kept[0].start, at(0));
    EXPECT_EQ(kept[0].end, at(4 * kMinute + 30 * kSecond));
}

TEST(Excursions, LengthsCountTheTimeOutside) {
    // Outside for one minute, back for one, outside for two.
    const Series s = everyMinute({8, 12, 12, 8, 8, 12, 12, 12, 8});
    const auto found = findExcursions(s, kLine, scaleFromStart(between(0, 8 * kMinute)), flatLimits(0, 10, 9),
                                      {Duration(), 5 * kMinute});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].start, at(30 * kSecond));
    EXPECT_EQ(found[0].end, at(7 * kMinute + 30 * kSecond));
    EXPECT_EQ(found[0].outside, 5 * kMinute);
    EXPECT_EQ(found[0].severity, severityOf(found[0].halfWidths, 5 * kMinute));
    EXPECT_TRUE(findExcursions(s, kLine, scaleFromStart(between(0, 8 * kMinute)), flatLimits(0, 10, 9),
                               {5 * kMinute + kSecond, 5 * kMinute})
                    .empty());
}

TEST(Excursions, SingleNoisySamplesMakeNone) {
    // One sample in five is beyond the limit: a tenth of the time, with returns of four minutes.
    std::vector<double> values;
    for (int i = 0; i < 600; ++i) values.push_back(i % 5 == 2 ? 11 : 5);
    const Series s = everyMinute(values);
    const auto found = [&](const ScreenSpec& spec) {
        return findExcursions(s, kLine, scaleFromStart(between(0, 600 * kMinute)), flatLimits(0, 10, 601),
                              spec);
    };
    EXPECT_TRUE(found({}).empty());
    EXPECT_EQ(found({Duration(), 10 * kMinute}).size(), 120u) << "none is joined to the next";
}

TEST(Excursions, ReturnsInSomethingThatLiesOutsideDoNotEndIt) {
    // A departure of an hour with a sample back inside now and then.
    std::vector<double> values(30, 5.0);
    for (int i = 0; i < 60; ++i) values.push_back(i % 7 == 3 ? 9 : 14);
    values.insert(values.end(), 30, 5.0);
    const Series s = everyMinute(values);
    const auto found =
        findExcursions(s, kLine, scaleFromStart(between(0, 119 * kMinute)), flatLimits(0, 10, 120), {});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_GT(found[0].outside, 45 * kMinute);
    EXPECT_NEAR(toHours(found[0].end - found[0].start), 1, 0.03);
}

TEST(Excursions, TheAreaOutsideIsTheirAreaAndCountsBothSides) {
    const Series s = everyMinute({5, 15, 20, 5, -5, -5, 5});
    const RunScale scale = scaleFromStart(between(0, 6 * kMinute));
    const GoldenLimits g = flatLimits(0, 10, 7);
    const auto found = findExcursions(s, kLine, scale, g, kKeepAll);
    ASSERT_EQ(found.size(), 2u);
    const std::vector<TimeRange> stretches{{found[0].start, found[0].end},
                                           {found[1].start, found[1].end},
                                           between(0, 6 * kMinute),
                                           between(0, kMinute / 2)};
    const auto areas = areaOutside(s, kLine, scale, g, stretches);
    EXPECT_NEAR(areas[0], found[0].area, 1e-9);
    EXPECT_NEAR(areas[1], found[1].area, 1e-9);
    EXPECT_NEAR(areas[2], found[0].area + found[1].area, 1e-9);
    EXPECT_GT(areas[2], areas[3]);
}

TEST(Excursions, SeverityGrowsWithPeakAndTime) {
    EXPECT_EQ(severityOf(0.4, kHour), 1);
    EXPECT_EQ(severityOf(1, kHour), 2);
    EXPECT_EQ(severityOf(2, kHour), 3);
    EXPECT_EQ(severityOf(2, 4 * kHour), 4);
    EXPECT_EQ(severityOf(2, 40 * kHour), 4);
    EXPECT_EQ(severityOf(1.9, 100 * kHour), 3);
}

}  // namespace
}  // namespace jacinth
