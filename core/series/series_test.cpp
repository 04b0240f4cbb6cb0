#include <gtest/gtest.h>

#include "core/series/summary.h"
#include "core/series/value_at.h"

namespace jacinth {
namespace {

Series everySecond(std::initializer_list<double> values) {
    Series s;
    for (const double v : values) s.push(static_cast<Instant>(s.size()) * kSecond, v);
    return s;
}

TEST(ValueAt, ContinuousIsTheLineBetween) {
    const Series s = everySecond({0, 10, 30});
    const Bridging line{TagKind::Continuous, 10 * kSecond};
    EXPECT_DOUBLE_EQ(valueAt(s, line, 0), 0);
    EXPECT_DOUBLE_EQ(valueAt(s, line, kSecond / 2), 5);
    EXPECT_DOUBLE_EQ(valueAt(s, line, 2 * kSecond), 30);
    EXPECT_TRUE(std::isnan(valueAt(s, line, -1)));
    EXPECT_TRUE(std::isnan(valueAt(s, line, 2 * kSecond + 1)));
}

TEST(ValueAt, NothingAcrossAGapLongerThanAllowed) {
    Series s;
    s.push(0, 1);
    s.push(20 * kSecond, 2);
    EXPECT_TRUE(std::isnan(valueAt(s, {TagKind::Continuous, 10 * kSecond}, 5 * kSecond)));
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Continuous, 20 * kSecond}, 5 * kSecond), 1.25);
}

TEST(ValueAt, BadSamplesAreBridged) {
    Series s;
    s.push(0, 0);
    s.push(kSecond, 999, Quality::Bad);
    s.push(2 * kSecond, 4);
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Continuous, kMinute}, kSecond), 2);
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Stepped, kWithoutEnd}, kSecond), 0);
}

TEST(ValueAt, SteppedIsHeld) {
    const Series s = everySecond({3, 7});
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Stepped, kWithoutEnd}, kSecond - 1), 3);
    EXPECT_DOUBLE_EQ(valueAt(s, {TagKind::Stepped, kWithoutEnd}, kDay), 7);
    EXPECT_TRUE(std::isnan(valueAt(s, {TagKind::Stepped, kMinute}, kDay)));
}

TEST(MeanOver, WeightsByTime) {
    Series s;  // 0 for one second, then up to 10 within nine
    s.push(0, 0);
    s.push(kSecond, 0);
    s.push(10 * kSecond, 10);
    EXPECT_DOUBLE_EQ(meanOver(s, {TagKind::Continuous, kMinute}, {0, 10 * kSecond}), 4.5);
    EXPECT_DOUBLE_EQ(meanOver(s, {TagKind::Stepped, kWithoutEnd}, {0, 20 * kSecond}), 5);
    // Covered by less than half: no mean.
    EXPECT_TRUE(std::isnan(meanOver(s, {TagKind::Continuous, kMinute}, {0, 21 * kSecond})));
}

TEST(ValueAt, NothingFromWhereASampleSaysSo) {
    Series s;
    s.push(0, 1);
    s.push(10, 2);
    s.push(12, std::nan(""), Quality::Missing);
    s.push(20, 4);
    s.push(30, 4);
    const Bridging line{TagKind::Continuous, 100}, held{TagKind::Stepped, kWithoutEnd};
    EXPECT_DOUBLE_EQ(valueAt(s, line, 5), 1.5);
    EXPECT_DOUBLE_EQ(valueAt(s, line, 10), 2);
    EXPECT_TRUE(std::isnan(valueAt(s, line, 11)));
    EXPECT_TRUE(std::isnan(valueAt(s, line, 15)));
    EXPECT_DOUBLE_EQ(valueAt(s, held, 11), 2);
    EXPECT_TRUE(std::isnan(valueAt(s, held, 12)));
    EXPECT_TRUE(std::isnan(valueAt(s, held, 19)));
    EXPECT_DOUBLE_EQ(valueAt(s, held, 20), 4);
    // 1.5 over ten, 4 over ten, nothing between; held: 1 over ten, 2 over two, 4 over ten.
    EXPECT_DOUBLE_EQ(meanOver(s, line, {0, 30}), 2.75);
    EXPECT_DOUBLE_EQ(meanOver(s, held, {0, 30}), (10.0 + 4 + 40) / 22);
}

TEST(Merge, NewerStandsAtTheSameInstant) {
    Series older = everySecond({1, 2, 3}), newer;
    newer.push(kSecond, 20, Quality::Uncertain);
    newer.push(kSecond * 5, 50);
    const Series merged = mergeSeries(older, newer);
    EXPECT_EQ(merged.values, (std::vector<double>{1, 20, 3, 50}));
    EXPECT_EQ(merged.view().qualityAt(1), Quality::Uncertain);
    EXPECT_EQ(merged.view().qualityAt(2), Quality::Good);
}

TEST(Columns, KeepFirstLeastGreatestLastWhateverTheFineness) {
    Series s;
    for (int i = 0; i < 1000; ++i) s.push(i * kSecond, i == 437 ? 99 : std::sin(i * 0.1));
    const TimeRange all{0, 1000 * kSecond};
    ColumnBuilder fine(all, 10), coarse(all, 10);
    fine.add(s.view());
    for (int i = 0; i < 1000; i += 20)
        coarse.add(summarize(s.view().within({i * kSecond, (i + 20) * kSecond})));
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
    s.push(3 * kSecond, 1e9, Quality::Bad);
    const Summary sum = summarize(s);
    EXPECT_EQ(sum.count, 3u);
    EXPECT_EQ(sum.usable, 2u);
    EXPECT_EQ(sum.greatest, 2);
    EXPECT_EQ(sum.lastTime, 3 * kSecond);
}

TEST(Spacing, MedianAndDefaultGap) {
    const std::vector<Instant> times{0, kSecond, 2 * kSecond, 3 * kSecond, kHour};
    EXPECT_EQ(medianSpacing(times), kSecond);
    EXPECT_EQ(defaultLongestGap(TagKind::Continuous, kSecond), 10 * kSecond);
    EXPECT_EQ(defaultLongestGap(TagKind::State, kSecond), kWithoutEnd);
}

}  // namespace
}  // namespace jacinth
