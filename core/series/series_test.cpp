#include <gtest/gtest.h>

#include "core/series/summary.h"
#include "core/series/value_at.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

Series everySecond(std::initializer_list<double> values) {
    Series s;
    for (const double v : values) s.push(Instant(static_cast<int>(s.size()) * kSecond), v);
    return s;
}

TEST(ValueAt, ContinuousIsTheLineBetween) {
    const Series s = everySecond({0, 10, 30});
    const Bridging line{TagKind::Continuous, 10 * kSecond};
    EXPECT_DOUBLE_EQ(valueAt(s, line, at(0)), 0);
    EXPECT_DOUBLE_EQ(valueAt(s, line, at(kSecond / 2)), 5);
    EXPECT_DOUBLE_EQ(valueAt(s, line, at(2 * kSecond)), 30);
    EXPECT_TRUE(std::isnan(valueAt(s, line, at(-1))));
    EXPECT_TRUE(std::isnan(valueAt(s, line, at(2 * kSecond + kNanosecond))));
}

TEST(ValueAt, NothingAcrossAGapLongerThanAllowed) {
    Series s;
    s.push(at(0), 1);
    s.push(at(20 * kSecond), 2);
    EXPECT_TRUE(std::isnan(valueAt(s, {TagKind::Continuous, 10 * kSecond}, at(5 * kSecond))));
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Continuous, 20 * kSecond}, at(5 * kSecond)), 1.25);
}

TEST(ValueAt, BadSamplesAreBridged) {
    Series s;
    s.push(at(0), 0);
    s.push(at(kSecond), 999, Quality::Bad);
    s.push(at(2 * kSecond), 4);
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Continuous, kMinute}, at(kSecond)), 2);
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Stepped, kWithoutEnd}, at(kSecond)), 0);
}

TEST(ValueAt, SteppedIsHeld) {
    const Series s = everySecond({3, 7});
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Stepped, kWithoutEnd}, at(kSecond - kNanosecond)), 3);
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Stepped, kWithoutEnd}, at(kDay)), 7);
    EXPECT_TRUE(std::isnan(valueAt(s, {TagKind::Stepped, kMinute}, at(kDay))));
}

TEST(MeanOver, WeightsByTime) {
    Series s;  // 0 for one second, then up to 10 within nine
    s.push(at(0), 0);
    s.push(at(kSecond), 0);
    s.push(at(10 * kSecond), 10);
    EXPECT_DOUBLE_EQ(meanOver(s, {TagKind::Continuous, kMinute}, between(0, 10 * kSecond)), 4.5);
    EXPECT_DOUBLE_EQ(meanOver(s, {TagKind::Stepped, kWithoutEnd}, between(0, 20 * kSecond)), 5);
    // Covered by less than half: no mean.
    EXPECT_TRUE(std::isnan(meanOver(s, {TagKind::Continuous, kMinute}, between(0, 21 * kSecond))));
}

TEST(ValueAt, NothingFromWhereASampleSaysSo) {
    Series s;
    s.push(at(0), 1);
    s.push(at(10), 2);
    s.push(at(12), std::nan(""), Quality::Missing);
    s.push(at(20), 4);
    s.push(at(30), 4);
    const Bridging line{TagKind::Continuous, Duration(100)}, held{TagKind::Stepped, kWithoutEnd};
    EXPECT_DOUBLE_EQ(valueAt(s, line, at(5)), 1.5);
    EXPECT_DOUBLE_EQ(valueAt(s, line, at(10)), 2);
    EXPECT_TRUE(std::isnan(valueAt(s, line, at(11))));
    EXPECT_TRUE(std::isnan(valueAt(s, line, at(15))));
    EXPECT_DOUBLE_EQ(valueAt(s, held, at(11)), 2);
    EXPECT_TRUE(std::isnan(valueAt(s, held, at(12))));
    EXPECT_TRUE(std::isnan(valueAt(s, held, at(19))));
    EXPECT_DOUBLE_EQ(valueAt(s, held, at(20)), 4);
    // 1.5 over ten, 4 over ten, nothing between; held: 1 over ten, 2 over two, 4 over ten.
    EXPECT_DOUBLE_EQ(meanOver(s, line, between(0, 30)), 2.75);
    EXPECT_DOUBLE_EQ(meanOver(s, held, between(0, 30)), (10.0 + 4 + 40) / 22);
}

TEST(Merge, NewerStandsAtTheSameInstant) {
    Series older = everySecond({1, 2, 3}), newer;
    newer.push(at(kSecond), 20, Quality::Uncertain);
    newer.push(at(kSecond * 5), 50);
    const Series merged = mergeSeries(older, newer);
    EXPECT_EQ(merged.values, (std::vector<double>{1, 20, 3, 50}));
    EXPECT_EQ(merged.view().qualityAt(1), Quality::Uncertain);
    EXPECT_EQ(merged.view().qualityAt(2), Quality::Good);
}

TEST(Columns, KeepFirstLeastGreatestLastWhateverTheFineness) {
    Series s;
    for (int i = 0; i < 1000; ++i) s.push(at(i * kSecond), i == 437 ? 99 : std::sin(i * 0.1));
    const TimeRange all = between(0, 1000 * kSecond);
    ColumnBuilder fine(all, 10), coarse(all, 10);
    fine.add(s.view());
    for (int i = 0; i < 1000; i += 20)
        coarse.add(summarize(s.view().within(between(i * kSecond, (i + 20) * kSecond))));
    const auto a = fine.take(), b = coarse.take();
    ASSERT_EQ(a.size(), 10u);
    ASSERT_EQ(b.size(), 10u);
    for (std::size_t i = 0; i < 10; ++i) {
        EXPECT_EQ(a[i].least, b[i].least);
        EXPECT_EQ(a[i].greatest, b[i].greatest);
        EXPECT_EQ(a[i].first, b[i].first);
        EXPECT_EQ(a[i].last, b[i].last);
    }
    EXPECT_EQ(a[4].greatest, 99);
}

TEST(Summary, BadSamplesCountButDoNotSpeak) {
    Series s = everySecond({1, 2});
    s.push(at(3 * kSecond), 1e9, Quality::Bad);
    const Summary sum = summarize(s);
    EXPECT_EQ(sum.count, 3u);
    EXPECT_EQ(sum.usable, 2u);
    EXPECT_EQ(sum.greatest, 2);
    EXPECT_EQ(sum.lastTime, at(3 * kSecond));
}

TEST(Spacing, MedianAndDefaultGap) {
    const std::vector<Instant> times = instants(0, kSecond, 2 * kSecond, 3 * kSecond, kHour);
    EXPECT_EQ(medianSpacing(times), kSecond);
    EXPECT_EQ(defaultLongestGap(TagKind::Continuous, kSecond), 10 * kSecond);
    EXPECT_EQ(defaultLongestGap(TagKind::State, kSecond), kWithoutEnd);
}

}  // namespace
}  // namespace jacinth
