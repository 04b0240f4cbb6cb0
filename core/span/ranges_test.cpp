// Sets of ranges of time, against a set of seconds marked one by one.
#include <gtest/gtest.h>

#include <bitset>
#include <random>

#include "core/span/span.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr std::size_t kSeconds = 120;
using Seconds = std::bitset<kSeconds>;

Seconds markedBy(const std::vector<TimeRange>& ranges) {
    Seconds out;
    for (std::size_t s = 0; s < kSeconds; ++s)
        for (const TimeRange& r : ranges)
            if (const Instant t = at(static_cast<int>(s) * kSecond); t >= r.from && t < r.to) out.set(s);
    return out;
}

std::vector<TimeRange> anyRanges(std::mt19937& random, int count) {
    std::vector<TimeRange> out;
    for (int i = 0; i < count; ++i) {
        const int from = static_cast<int>(random() % (kSeconds - 1));
        const int to = from + 1 + static_cast<int>(random() % std::min<unsigned>(20, kSeconds - 1 - from));
        out.push_back(between(from * kSecond, to * kSecond));
    }
    return out;
}

/// Sorted, none empty, none touching the one before.
void expectTidy(const std::vector<TimeRange>& ranges) {
    for (std::size_t i = 0; i < ranges.size(); ++i) {
        EXPECT_LT(ranges[i].from, ranges[i].to);
        if (i) EXPECT_LT(ranges[i - 1].to, ranges[i].from);
    }
}

class RangeSets : public ::testing::TestWithParam<unsigned> {};

TEST_P(RangeSets, AreWhatTheirSecondsSay) {
    std::mt19937 random(GetParam());
    for (int round = 0; round < 50; ++round) {
        const auto first = anyRanges(random, static_cast<int>(random() % 8));
        const auto second = anyRanges(random, static_cast<int>(random() % 8));
        const auto a = joined(first), b = joined(second);
        expectTidy(a);
        EXPECT_EQ(markedBy(a), markedBy(first));
        EXPECT_EQ(totalLength(a), static_cast<int>(markedBy(first).count()) * kSecond);
        EXPECT_EQ(markedBy(intersect(a, b)), markedBy(a) & markedBy(b));
        EXPECT_EQ(markedBy(subtract(a, b)), markedBy(a) & ~markedBy(b));
        expectTidy(intersect(a, b));
        expectTidy(subtract(a, b));
    }
}

TEST_P(RangeSets, APlaceInThemIsTheSecondThatComesSoMuchLater) {
    std::mt19937 random(GetParam());
    const auto ranges = joined(anyRanges(random, 6));
    const Seconds marked = markedBy(ranges);
    int place = 0;
    for (std::size_t s = 0; s < kSeconds; ++s)
        if (marked[s]) EXPECT_EQ(momentIn(ranges, place++ * kSecond), at(static_cast<int>(s) * kSecond));
    EXPECT_EQ(momentIn(ranges, place * kSecond), std::nullopt);
}
INSTANTIATE_TEST_SUITE_P(Seeds, RangeSets, ::testing::Range(1u, 9u));

TEST(Ranges, JoinOverAGapAndForgetTheShort) {
    const auto ranges = joined(
        {between(50 * kSecond, 60 * kSecond), between(0, 5 * kSecond), between(7 * kSecond, 9 * kSecond)},
        2 * kSecond);
    EXPECT_EQ(ranges, (std::vector{between(0, 9 * kSecond), between(50 * kSecond, 60 * kSecond)}));
    EXPECT_EQ(noShorterThan(ranges, 10 * kSecond), (std::vector{between(50 * kSecond, 60 * kSecond)}));
    EXPECT_EQ(noShorterThan(ranges, 11 * kSecond), std::vector<TimeRange>{});
}

TEST(Ranges, AnEmptySetHasNoMoment) {
    EXPECT_EQ(momentIn({}, {}), std::nullopt);
    EXPECT_EQ(totalLength({}), Duration{});
    EXPECT_TRUE(subtract({}, {between(0, kSecond)}).empty());
    EXPECT_TRUE(intersect({between(0, kSecond)}, {}).empty());
}

}  // namespace
}  // namespace jacinth
