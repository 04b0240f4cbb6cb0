#include "core/series/resample.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/series/value_at.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

Series ramp(int n, Duration step = kMinute) {
    Series s;
    for (int i = 0; i < n; ++i) s.push(at(i * step), i);
    return s;
}
const Bridging kLine{TagKind::Continuous, kHour}, kHeldValue{TagKind::Stepped, kWithoutEnd};

TEST(Resample, EachFigureCalculatedByHand) {
    const Series s = ramp(10);  // 0 … 9 at whole minutes
    const std::vector<Instant> edges = instants(0, 4 * kMinute, 8 * kMinute);
    const auto take = [&](Take t) { return resample(s, kLine, edges, t); };
    // The line from 0 to 4: its mean is 2; the samples 0, 1, 2, 3 have 1.5.
    EXPECT_EQ(take(Take::Mean), (std::vector<double>{2, 6}));
    EXPECT_EQ(take(Take::SampleMean), (std::vector<double>{1.5, 5.5}));
    EXPECT_EQ(take(Take::Least), (std::vector<double>{0, 4}));
    EXPECT_EQ(take(Take::Greatest), (std::vector<double>{3, 7}));
    EXPECT_EQ(take(Take::First), (std::vector<double>{0, 4}));
    EXPECT_EQ(take(Take::Last), (std::vector<double>{3, 7}));
    EXPECT_EQ(take(Take::Count), (std::vector<double>{4, 4}));
    EXPECT_EQ(take(Take::Sum), (std::vector<double>{6, 22}));
}

TEST(Resample, TheLineIntoAPeriodCounts) {
    // One sample before the period and one after: the line crosses it from 2 to 4.
    Series s;
    s.push(at(0), 0);
    s.push(at(60 * kMinute), 6);
    EXPECT_DOUBLE_EQ(resample(s, kLine, instants(20 * kMinute, 40 * kMinute), Take::Mean)[0], 3);
    EXPECT_DOUBLE_EQ(resample(s, kHeldValue, instants(20 * kMinute, 40 * kMinute), Take::Mean)[0], 0);
    // A gap longer than may be bridged leaves the period empty.
    EXPECT_TRUE(std::isnan(resample(s, {TagKind::Continuous, 59 * kMinute},
                                    instants(20 * kMinute, 40 * kMinute), Take::Mean)[0]));
    EXPECT_TRUE(std::isnan(resample(s, kLine, instants(20 * kMinute, 40 * kMinute), Take::Least)[0]));
    EXPECT_EQ(resample(s, kLine, instants(20 * kMinute, 40 * kMinute), Take::Count)[0], 0);
}

TEST(Resample, HalfCoveredIsEnoughAndBadSamplesDoNotCount) {
    Series s = ramp(6);
    EXPECT_FALSE(std::isnan(resample(s, kLine, instants(0, 10 * kMinute), Take::Mean)[0]));
    EXPECT_TRUE(std::isnan(resample(s, kLine, instants(0, 11 * kMinute), Take::Mean)[0]));
    s = {};
    for (int i = 0; i < 6; ++i)
        s.push(at(i * kMinute), i == 3 ? 1000 : i, i == 3 ? Quality::Bad : Quality::Good);
    EXPECT_EQ(resample(s, kLine, instants(0, 5 * kMinute), Take::Greatest)[0], 4);
    EXPECT_DOUBLE_EQ(resample(s, kLine, instants(0, 5 * kMinute), Take::Mean)[0], 2.5);
}

TEST(Periods, FollowTheCalendarOverBothOddNights) {
    const Zone oslo = *Zone::named("Europe/Oslo");
    const auto lengths = [&](const char* from, const char* to, Period::Unit unit) {
        const auto edges = *periodsIn({*fromIso(from), *fromIso(to)}, {unit, kDay}, oslo);
        std::vector<double> out;
        for (std::size_t i = 0; i + 1 < edges.size(); ++i) out.push_back(toHours(edges[i + 1] - edges[i]));
        return out;
    };
    EXPECT_EQ(lengths("2026-03-28T12:00:00Z", "2026-03-30T12:00:00Z", Period::Unit::Day),
              (std::vector<double>{24, 23, 24}));
    EXPECT_EQ(lengths("2026-10-24T12:00:00Z", "2026-10-26T12:00:00Z", Period::Unit::Day),
              (std::vector<double>{24, 25, 24}));
    EXPECT_EQ(lengths("2026-02-10T00:00:00Z", "2026-03-10T00:00:00Z", Period::Unit::Month),
              (std::vector<double>{28 * 24, 31 * 24 - 1}));
    const auto weeks = *periodsIn({*fromIso("2026-03-25T00:00:00Z"), *fromIso("2026-03-31T00:00:00Z")},
                                  {Period::Unit::Week, 7 * kDay}, oslo);
    EXPECT_EQ(oslo.text(weeks[0]), "23 Mar 2026 00:00");  // a Monday
    EXPECT_EQ(oslo.text(weeks[1]), "30 Mar 2026 00:00");
}

TEST(Periods, SayWhatTheyAreAndRefuseWhatTheyAreNot) {
    EXPECT_EQ(periodNamed("6h")->length, 6 * kHour);
    EXPECT_EQ(periodName(*periodNamed("month")), "month");
    EXPECT_EQ(periodName(*periodNamed("15m")), "15m");
    for (const char* wrong : {"", "often", "-1h", "0s"}) EXPECT_FALSE(periodNamed(wrong)) << wrong;
    EXPECT_FALSE(takeNamed("middle"));
    EXPECT_EQ(takeName(*takeNamed("max")), std::string("max"));
    EXPECT_FALSE(periodsIn(between(0, 400 * kDay), {Period::Unit::Length, kMillisecond}, Zone()));
    EXPECT_TRUE(periodsIn(between(0, 0), {}, Zone())->empty());
}

}  // namespace
}  // namespace jacinth
