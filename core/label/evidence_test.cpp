// Times in the names of frames, and which frame is seen when.
#include "core/label/evidence.h"

#include <gtest/gtest.h>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

const Zone kOslo = *Zone::named("Europe/Oslo");

std::string timeOf(const char* name) {
    const auto t = timeInName(name, kOslo);
    return t ? toIso(*t) : "none";
}

TEST(Evidence, NamesOfFramesTellTheirTime) {
    EXPECT_EQ(timeOf("sight-20260305-141500.png"), "2026-03-05T13:15:00Z");
    EXPECT_EQ(timeOf("2026-03-05T14-15-00.500Z.jpg"), "2026-03-05T14:15:00.500Z");
    EXPECT_EQ(timeOf("cam7_2026_03_05_14_15_07.png"), "2026-03-05T13:15:07Z");
    EXPECT_EQ(timeOf("20260705141500250.png"), "none") << "a longer number is something else";
    EXPECT_EQ(timeOf("20260705 141500,250.png"), "2026-07-05T12:15:00.250Z");
    for (const char* none :
         {"frame-000123.png", "20261305-141500.png", "20260305-146100.png", "", "notes.txt",
          "20260329-023000.png"})  // the last did not happen: clocks went forward
        EXPECT_EQ(timeOf(none), "none") << none;
}

TEST(Evidence, TheFrameSeenIsTheLastOneNotAfterTheMoment) {
    const auto frames = framesByTime({"b-20260305-141510.png", "a-20260305-141500.png", "notes.txt"}, kOslo);
    ASSERT_EQ(frames.size(), 2u);
    EXPECT_EQ(frames[0].file, "a-20260305-141500.png");
    const Instant first = frames[0].time;
    EXPECT_EQ(frameAt(frames, first - kSecond, kMinute), -1);
    EXPECT_EQ(frameAt(frames, first, kMinute), 0);
    EXPECT_EQ(frameAt(frames, first + 9 * kSecond, kMinute), 0);
    EXPECT_EQ(frameAt(frames, first + 10 * kSecond, kMinute), 1);
    EXPECT_EQ(frameAt(frames, first + 2 * kMinute, kMinute), -1) << "too old to show what is now";
    EXPECT_EQ(frameAt({}, first, kMinute), -1);
    EXPECT_EQ(offsetFor(first, first + 40 * kSecond), 40 * kSecond);
}

TEST(Evidence, AFrameStaysForTwiceTheUsualSpacing) {
    const auto every = [](Duration spacing, int n) {
        std::vector<Frame> frames;
        for (int i = 0; i < n; ++i) frames.push_back({Instant() + i * spacing, ""});
        return frames;
    };
    EXPECT_EQ(stayOf(every(10 * kSecond, 100)), 10 * kMinute) << "at least";
    EXPECT_EQ(stayOf(every(kHour, 9)), 2 * kHour);
    auto gap = every(kHour, 9);
    gap.push_back({gap.back().time + 10 * kDay, ""});
    EXPECT_EQ(stayOf(gap), 2 * kHour) << "a gap is not usual";
    EXPECT_EQ(stayOf(every(kHour, 1)), 12 * kHour);
}

}  // namespace
}  // namespace jacinth
