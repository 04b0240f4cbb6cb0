#include "core/series/step_count.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

TEST(StepCount, RefusesWhatDoesNotFitAndSaysHowMuch) {
    EXPECT_TRUE(checkStepCount(730 * kDay, 10 * kSecond));
    EXPECT_TRUE(checkStepCount(10 * kSecond, kSecond, 10));
    const Status many = checkStepCount(61 * kDay, kMillisecond);
    ASSERT_FALSE(many);
    EXPECT_EQ(
        many.error().message,
        "a step of 1ms makes 5270 million values of 61d; at most 100 million can be calculated at once: "
        "take a longer step");
    EXPECT_FALSE(checkStepCount(11 * kSecond, kSecond, 10));
}

TEST(StepCount, AStepHasALength) {
    EXPECT_FALSE(checkStepCount(kDay, Duration::zero()));
    EXPECT_FALSE(checkStepCount(kDay, -kSecond));
}

}  // namespace
}  // namespace jacinth
