#include "core/prove/lead_up.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

/// A summary of one column: `n` samples of this mean.
Summary column(Instant from, Instant to, double least, double mean, double greatest, std::uint32_t n = 4) {
    Summary s;
    s.firstTime = from, s.lastTime = to;
    s.count = s.usable = n;
    s.least = least, s.greatest = greatest;
    s.sum = mean * n;
    return s;
}

TEST(LeadUp, ColumnsGoToWhereTheyLieAndKeepTheTrueExtremes) {
    const TimeRange range{at(0), at(10 * kHour)};
    const LeadUpLine line = leadUpLine({column(at(kHour), at(kHour + kMinute), 1, 2, 9),
                                        column(at(kHour + 30 * kMinute), at(kHour + 31 * kMinute), -5, 4, 4),
                                        column(at(4 * kHour), at(6 * kHour), 7, 8, 9)},
                                       range, 10);
    EXPECT_DOUBLE_EQ(line.mean[1], 3);
    EXPECT_EQ(line.least[1], -5);
    EXPECT_EQ(line.greatest[1], 9);
    EXPECT_TRUE(std::isnan(line.mean[0]));
    EXPECT_TRUE(std::isnan(line.least[2]));
    for (const std::size_t b : {4u, 5u, 6u}) EXPECT_EQ(line.mean[b], 8) << b;
}

TEST(LeadUp, WhatLiesOutsideOrIsUnusableIsLeftOut) {
    Summary bad = column(at(kHour), at(kHour), 1, 1, 1);
    bad.usable = 0;
    const LeadUpLine line = leadUpLine(
        {column(at(-kHour), at(-kMinute), 1, 1, 1), bad, column(at(10 * kHour), at(11 * kHour), 1, 1, 1)},
        {at(0), at(10 * kHour)}, 10);
    for (const double v : line.mean) EXPECT_TRUE(std::isnan(v));
}

TEST(LeadUp, ABandIsMadeOfThreeLinesOrMore) {
    std::vector<LeadUpLine> lines;
    for (int i = 0; i < 5; ++i) {
        const double v = i;
        lines.push_back({{v, i < 2 ? v : std::nan("")},
                         {v - 10, i < 2 ? v - 1 : std::nan("")},
                         {v + 10, i < 2 ? v + 1 : std::nan("")}});
    }
    const LeadUpBand band = leadUpBand(lines);
    EXPECT_DOUBLE_EQ(band.median[0], 2);
    EXPECT_DOUBLE_EQ(band.lowMiddle[0], 1);
    EXPECT_DOUBLE_EQ(band.highMiddle[0], 3);
    EXPECT_DOUBLE_EQ(band.low[0], 0.4);
    EXPECT_EQ(band.least[0], -10);
    EXPECT_EQ(band.greatest[0], 14);
    EXPECT_TRUE(std::isnan(band.median[1])) << "two are too few for quantiles";
    EXPECT_EQ(band.greatest[1], 2) << "but their extremes are true";
    EXPECT_TRUE(leadUpBand({}).median.empty());
}

TEST(QuietMoments, NoFailureIsNear) {
    const TimeRange record{at(0), at(100 * kDay)};
    const std::vector<Instant> failures{at(20 * kDay), at(50 * kDay)};
    const auto moments = quietMoments(failures, record, 7 * kDay, 2 * kDay, 300, 5);
    ASSERT_EQ(moments.size(), 300u);
    for (const Instant t : moments) {
        EXPECT_GE(t, at(7 * kDay)) << "the whole stretch lies in the record";
        EXPECT_LT(t, record.to);
        for (const Instant f : failures) EXPECT_TRUE(t <= f - 2 * kDay || t >= f + 7 * kDay);
    }
    EXPECT_EQ(moments, quietMoments(failures, record, 7 * kDay, 2 * kDay, 300, 5));
    EXPECT_NE(moments, quietMoments(failures, record, 7 * kDay, 2 * kDay, 300, 6));
}

TEST(QuietMoments, ThereIsNoneWhereThereIsNoRoom) {
    EXPECT_TRUE(quietMoments({}, {at(0), at(kDay)}, 7 * kDay, kDay, 5, 1).empty());
    EXPECT_TRUE(quietMoments({at(8 * kDay)}, {at(0), at(9 * kDay)}, 7 * kDay, 2 * kDay, 5, 1).empty());
}

}  // namespace
}  // namespace jacinth
