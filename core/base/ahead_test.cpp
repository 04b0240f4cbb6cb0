#include "core/base/ahead.h"

#include <gtest/gtest.h>

#include <atomic>
#include <chrono>
#include <stdexcept>
#include <thread>

namespace jacinth {
namespace {

void sleepFor(int milliseconds) {
    std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds));
}

TEST(Ahead, GivesResultsInTheOrderOfTheirStart) {
    Ahead<int> ahead;
    for (int i = 0; i < 20; ++i)
        ahead.start([i] {
            sleepFor((20 - i) / 4);  // the later ones are done first
            return i;
        });
    for (int i = 0; i < 20; ++i) EXPECT_EQ(ahead.take(), i);
    EXPECT_TRUE(ahead.empty());
}

TEST(Ahead, ThrowsWhatItsWorkThrewWhereItIsTaken) {
    Ahead<int> ahead;
    ahead.start([] { return 1; });
    ahead.start([]() -> int { throw std::runtime_error("disk"); });
    ahead.start([] { return 3; });
    EXPECT_EQ(ahead.take(), 1);
    EXPECT_THROW(ahead.take(), std::runtime_error);
    EXPECT_EQ(ahead.take(), 3);
}

TEST(Ahead, WaitsForWhatRunsBeforeItGoes) {
    std::atomic<int> running{0}, begun{0};
    {
        Ahead<int> ahead;
        for (int i = 0; i < 8; ++i)
            ahead.start([&] {
                ++begun;
                ++running;
                sleepFor(5);
                return --running;
            });
        sleepFor(2);
    }
    EXPECT_EQ(running, 0);
    const int then = begun;
    sleepFor(20);
    EXPECT_EQ(begun, then);  // what had not begun never does
}

TEST(Ahead, InsideEachOtherTheyDoNotWaitForThreadsThatThereAreNot) {
    Ahead<int> outer;
    for (int i = 0; i < 16; ++i)
        outer.start([] {
            Ahead<int> inner;
            for (int k = 0; k < 16; ++k) inner.start([k] { return k; });
            int sum = 0;
            while (!inner.empty()) sum += inner.take();
            return sum;
        });
    while (!outer.empty()) EXPECT_EQ(outer.take(), 120);
}

}  // namespace
}  // namespace jacinth
