#include "store/coded_times.h"

#include <gtest/gtest.h>

#include <thread>

#include "core/time/times_for_tests.h"
#include "store/block_codec.h"

namespace jacinth {
namespace {

std::vector<Instant> every(Duration step, int n) {
    std::vector<Instant> out;
    for (int i = 0; i < n; ++i) out.push_back(at(i * step));
    return out;
}

TEST(CodedTimes, AreTheSameBytesAsCodedAlone) {
    CodedTimes times;
    const std::vector<Instant> t = every(10 * kSecond, 500);
    const auto coded = times.of(t);
    EXPECT_EQ(coded->bytes, encodeTimes(t));
    EXPECT_EQ(coded->spacing, 10 * kSecond);
    std::vector<double> values(t.size(), 21.5);
    const SeriesView s{t, values, {}};
    EXPECT_EQ(encodeSamples(s, coded->bytes), encodeSamples(s));
    EXPECT_EQ(decodeSamples(encodeSamples(s, coded->bytes)).times, t);
}

TEST(CodedTimes, AreSharedByEqualStretchesAlone) {
    CodedTimes times;
    const std::vector<Instant> t = every(kMinute, 100);
    std::vector<Instant> moved = t;  // the same ends and number
    moved[50] += kNanosecond;
    const auto first = times.of(t);
    EXPECT_EQ(times.of(t), first);
    const auto other = times.of(moved);
    EXPECT_NE(other, first);
    EXPECT_EQ(other->times, moved);
    EXPECT_EQ(times.of(std::span(t).first(99))->times.size(), 99u);
}

TEST(CodedTimes, ManyThreadsGetWhatTheyAskFor) {
    CodedTimes times;
    std::vector<std::jthread> threads;
    for (int k = 0; k < 4; ++k)
        threads.emplace_back([&] {
            for (int i = 1; i < 200; ++i) {
                const std::vector<Instant> t = every(i % 7 * kSecond + kSecond, 2 + i % 11);
                EXPECT_EQ(times.of(t)->times, t);
            }
        });
}

}  // namespace
}  // namespace jacinth
