#include <gtest/gtest.h>

#include <random>

#include "core/time/instant.h"
#include "core/time/times_for_tests.h"
#include "core/time/zone.h"

namespace jacinth {
namespace {

TEST(Instants, AreWrittenOneAfterTheOtherAsEachAlone) {
    std::mt19937_64 random(5);
    IsoTimes times;
    Instant t = *fromIso("1969-12-30T23:59:58.5Z");
    for (int i = 0; i < 5000; ++i) {
        std::string text = "x";
        times.append(t, text);
        ASSERT_EQ(text, "x" + toIso(t));
        const Duration step(static_cast<std::int64_t>(random() >> 1) %
                            ((random() % 4 == 0 ? 50 : 1) * kHour.count()));
        t += random() % 9 == 0 ? -step : step;
        if (random() % 3 == 0) t = std::chrono::floor<std::chrono::seconds>(t);
    }
}

TEST(Iso, WritesAndReadsBack) {
    EXPECT_EQ(toIso(at(0)), "1970-01-01T00:00:00Z");
    EXPECT_EQ(*fromIso("1970-01-02"), at(kDay));
    EXPECT_EQ(*fromIso("2026-04-05T14:12:00+02:00"), *fromIso("2026-04-05T12:12:00Z"));
    const Instant t = *fromIso("2026-04-05T14:12:07.125Z");
    EXPECT_EQ(toIso(t), "2026-04-05T14:12:07.125Z");
    EXPECT_EQ(toIso(t + kNanosecond), "2026-04-05T14:12:07.125000001Z");
    EXPECT_EQ(toIso(at(-1)), "1969-12-31T23:59:59.999999999Z");
}

TEST(Iso, RefusesWhatIsNoTime) {
    for (const char* text : {"", "soon", "2026-13-01", "2026-02-29", "2026-04-05T25:00Z", "2026-04-05T12:00",
                             "2026-04-05T12:00:00Zx", "2026-04-05T12:61Z"})
        EXPECT_FALSE(fromIso(text)) << text;
}

TEST(Durations, ReadAndWritten) {
    EXPECT_EQ(*parseDuration("20m"), 20 * kMinute);
    EXPECT_EQ(*parseDuration("1.5h"), 90 * kMinute);
    EXPECT_EQ(*parseDuration("2d 6h"), 54 * kHour);
    EXPECT_EQ(*parseDuration("250ms"), 250 * kMillisecond);
    EXPECT_EQ(formatDuration(90 * kMinute), "1h 30m");
    EXPECT_EQ(formatDuration(7 * kDay), "1w");
    EXPECT_EQ(formatDuration(8 * kDay), "8d");
    for (const char* text : {"", "20", "m", "20x", "-5m", "5m 3"}) EXPECT_FALSE(parseDuration(text)) << text;
}

TEST(Durations, SaidForPeople) {
    EXPECT_EQ(sayDuration(2 * kHour + 41 * kMinute), "2 h 41 min");
    EXPECT_EQ(sayDuration(34 * kMinute), "34 min");
    EXPECT_EQ(sayDuration(kHour - kSecond), "1 h");
    EXPECT_EQ(sayDuration(1500 * kMillisecond), "1.5 s");
    EXPECT_EQ(sayDuration(-kMillisecond / 4), "−250 µs");
    EXPECT_EQ(sayDuration(kNanosecond), "1 ns");
    EXPECT_EQ(sayDuration({}), "0 s");
    EXPECT_EQ(sayDuration(76 * kHour), "3 d 4 h");
}

TEST(Zones, KnowTheNightsOfChange) {
    const Zone oslo = *Zone::named("Europe/Oslo");
    const WallInstant skipped = oslo.instant({2026, 3, 29, 2, 30, 0});
    EXPECT_EQ(skipped.kind, WallKind::Skipped);
    EXPECT_EQ(skipped.instant, *fromIso("2026-03-29T01:00:00Z"));
    const WallInstant twice = oslo.instant({2026, 10, 25, 2, 30, 0});
    EXPECT_EQ(twice.kind, WallKind::Twice);
    EXPECT_EQ(twice.instant, *fromIso("2026-10-25T00:30:00Z"));
    EXPECT_EQ(twice.second, *fromIso("2026-10-25T01:30:00Z"));
    EXPECT_EQ(oslo.instant({2026, 7, 1, 12, 0, 0}).instant, *fromIso("2026-07-01T10:00:00Z"));
}

TEST(Zones, FastPathAgreesWithTheDatabaseAroundAChange) {
    const Zone warm = *Zone::named("Europe/Oslo");
    for (int hour = 0; hour < 24 * 6; ++hour) {
        const Instant t = *fromIso("2026-03-26T00:00:00Z") + hour * kHour;
        const Zone fresh = *Zone::named("Europe/Oslo");
        const WallTime wall = warm.wall(t);
        EXPECT_EQ(warm.instant(wall).instant, fresh.instant(wall).instant) << toIso(t);
        EXPECT_EQ(fresh.instant(wall).instant, t);
    }
}

TEST(Zones, DaysOfTwentyThreeAndTwentyFiveHours) {
    const Zone oslo = *Zone::named("Europe/Oslo");
    const Instant spring = oslo.startOfDay(*fromIso("2026-03-29T12:00:00Z"));
    EXPECT_EQ(oslo.addDays(spring, 1) - spring, 23 * kHour);
    const Instant autumn = oslo.startOfDay(*fromIso("2026-10-25T12:00:00Z"));
    EXPECT_EQ(oslo.addDays(autumn, 1) - autumn, 25 * kHour);
    EXPECT_EQ(oslo.text(spring), "29 Mar 2026 00:00");
    EXPECT_FALSE(Zone::named("Europe/Nowhere"));
}

}  // namespace
}  // namespace jacinth
