// The clock of a camera: found where brightness follows a tag, refused where nothing can be said.
#include "core/label/clock_match.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

/// A flame that is out between 30 and 33 min and between 50 and 51 min.
double flame(Duration t) {
    const bool out = (t >= 30 * kMinute && t < 33 * kMinute) || (t >= 50 * kMinute && t < 51 * kMinute);
    return out ? 0 : 10 + std::sin(toSeconds(t) / 400);
}

TEST(ClockMatch, TheOffsetIsWhereBrightnessFollowsTheTag) {
    Series tag;
    for (Duration t{}; t < kHour; t += 5 * kSecond) tag.push(at(t), 300 - 20 * flame(t));
    std::vector<Instant> times;
    std::vector<double> brightness;
    for (Duration t = 10 * kMinute; t < 55 * kMinute; t += 10 * kSecond) {
        times.push_back(at(t + 40 * kSecond));
        brightness.push_back(flame(t) + 0.1 * std::sin(toSeconds(t) * 7));
    }
    const Bridging held{TagKind::Stepped, kWithoutEnd};
    const auto found = matchClock(times, brightness, tag, held, 5 * kMinute, kSecond);
    ASSERT_TRUE(found) << found.error().message;
    EXPECT_NEAR(toSeconds(found->offset), -40, 5);
    EXPECT_LT(found->correlation, -0.9) << "the tag falls as the flame grows";
    EXPECT_LT(found->elsewhere, std::abs(found->correlation) - 0.1);
}

TEST(ClockMatch, WhereNothingChangesNothingIsSaid) {
    Series tag;
    for (Duration t{}; t < kHour; t += 5 * kSecond) tag.push(at(t), 7);
    std::vector<Instant> times;
    for (Duration t{}; t < 30 * kMinute; t += 10 * kSecond) times.push_back(at(t));
    EXPECT_FALSE(matchClock(times, std::vector<double>(times.size(), 3), tag, {TagKind::Stepped, kWithoutEnd},
                            kMinute, kSecond));
    EXPECT_FALSE(matchClock({at(0)}, {1}, tag, {TagKind::Stepped, kWithoutEnd}, kMinute, kSecond));
    EXPECT_FALSE(matchClock({}, {}, tag, {TagKind::Stepped, kWithoutEnd}, kMinute, kSecond));
}

}  // namespace
}  // namespace jacinth
