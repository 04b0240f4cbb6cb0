#include "core/time/time_phrase.h"

#include <gtest/gtest.h>

namespace jacinth {
namespace {

TEST(TimePhrase, WhatPeopleType) {
    const Zone zone = *Zone::named("Europe/Oslo");
    const TimeRange record{*fromIso("2026-02-28T23:00:00Z"), *fromIso("2026-04-30T22:00:00Z")};
    const TimeRange current{*fromIso("2026-03-10T10:00:00Z"), *fromIso("2026-03-10T16:00:00Z")};
    const auto at = [&](const char* text) { return parseTimePhrase(text, zone, record, current); };
    const Instant april4 = *fromIso("2026-04-04T04:00:00Z");
    EXPECT_EQ(at("4 Apr 06:00 +2d")->from, april4);
    EXPECT_EQ(at("4 Apr 06:00 +2d")->length(), 2 * kDay);
    EXPECT_EQ(at("4 april 2026 06:00 + 2d 3h")->length(), 51 * kHour);
    EXPECT_EQ(at("4 april 2026 06:00 +2d 3h")->length(), 51 * kHour);
    EXPECT_EQ(at("4 Apr 06:00")->length(), current.length());
    EXPECT_EQ(at("29 Mar")->length(), 23 * kHour);
    EXPECT_EQ(at("2026-04-04 06:00 +1h")->from, april4);
    EXPECT_EQ(at("12:00 +1h")->from, *fromIso("2026-03-10T11:00:00Z"));
    EXPECT_EQ(at("4 Apr 06:00 to 5 Apr 06:00")->length(), kDay);
    EXPECT_EQ(at("4 Apr to 5 Apr")->length(), 2 * kDay);
    EXPECT_EQ(at("last 3 weeks")->length(), 21 * kDay);
    EXPECT_EQ(at("last 12h")->to, record.to);
    EXPECT_EQ(*at("all"), record);
    EXPECT_EQ(zone.wall(at("24 Dec 12:00")->from).year, 2025);
    for (const char* text : {"", "soon", "4 Foo", "31 Apr", "4 Apr 06:00 +", "4 Apr 25:00", "5 Apr to 4 Apr",
                             "last", "4 Apr 06:00 +0h"})
        EXPECT_FALSE(at(text)) << text;
}

TEST(TimePhrase, ComesBack) {
    const Zone zone = *Zone::named("Europe/Oslo");
    const TimeRange record{*fromIso("2026-02-28T23:00:00Z"), *fromIso("2026-04-30T22:00:00Z")};
    for (const Duration length : {kHour, 5 * kHour + kMinute, 2 * kDay, 14 * kDay}) {
        const TimeRange range{*fromIso("2026-03-12T10:30:00Z"), *fromIso("2026-03-12T10:30:00Z") + length};
        EXPECT_EQ(*parseTimePhrase(timePhrase(zone, range), zone, record, record), range);
    }
}

}  // namespace
}  // namespace jacinth
