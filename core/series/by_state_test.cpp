#include "core/series/by_state.h"
#include "core/time/times_for_tests.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

const Bridging kHeld{TagKind::State, kWithoutEnd};

TEST(ByState, SamplesGoToTheStateThatHolds) {
    Series states, values;
    states.push(at(10 * kSecond), 0);
    states.push(at(20 * kSecond), 1);
    states.push(at(30 * kSecond), 0);
    for (int i = 0; i <= 40; i += 5) values.push(at(i * kSecond), i, i == 25 ? Quality::Bad : Quality::Good);
    const auto split = splitByState(values, states, kHeld, 2, between(0, 40 * kSecond));
    // 0 and 5 come before any state is known, 40 after the range; 25 is bad; a state begins at its own
    // instant.
    EXPECT_EQ(split[0].sorted, (std::vector<double>{10, 15, 30, 35}));
    EXPECT_EQ(split[1].sorted, (std::vector<double>{20}));
    EXPECT_EQ(split[0].time, 20 * kSecond);
    EXPECT_EQ(split[1].time, 10 * kSecond);
}

TEST(ByState, AStateHoldsNoLongerThanItsLongestGap) {
    Series states, values;
    states.push(at(0), 0);
    for (int i = 0; i < 10; ++i) values.push(at(i * kSecond), i);
    const auto split =
        splitByState(values, states, {TagKind::State, 3 * kSecond}, 1, between(0, 10 * kSecond));
    EXPECT_EQ(split[0].sorted, (std::vector<double>{0, 1, 2, 3}));
    EXPECT_EQ(split[0].time, 3 * kSecond);
}

TEST(Cluster, IsWhereStateAndValueMeet) {
    Series states, values;
    states.push(at(0), 0);
    states.push(at(10 * kSecond), 1);
    for (int i = 0; i < 20; ++i)
        values.push(at(i * kSecond), i >= 4 && i < 7 ? 50 : i >= 12 && i < 15 ? 50 : 1);
    const auto when = whenInCluster(values, states, kHeld, 0, 40, 60, kMinute);
    EXPECT_EQ(when, (std::vector<TimeRange>{between(4 * kSecond, 7 * kSecond)}));
    EXPECT_EQ(whenInCluster(values, states, kHeld, 1, 40, 60, kMinute),
              (std::vector<TimeRange>{between(12 * kSecond, 15 * kSecond)}));
    EXPECT_TRUE(whenInCluster(values, states, kHeld, 2, 40, 60, kMinute).empty());
}

TEST(Cluster, AGapEndsAStretch) {
    Series states, values;
    states.push(at(0), 0);
    for (const int t : {0, 1, 2, 100, 101}) values.push(at(t * kSecond), 5);
    EXPECT_EQ(whenInCluster(values, states, kHeld, 0, 0, 10, 10 * kSecond),
              (std::vector<TimeRange>{between(0, 2 * kSecond), between(100 * kSecond, 101 * kSecond)}));
}

}  // namespace
}  // namespace jacinth
