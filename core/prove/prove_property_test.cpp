// Proving against its definition, at random: every verdict once, every figure the sum of its parts.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/golden/excursions.h"
#include "core/prove/prove.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

class RandomCases : public ::testing::TestWithParam<unsigned> {};

TEST_P(RandomCases, FiguresAddUpAndVerdictsFollowTheirDefinition) {
    std::mt19937 random(GetParam());
    const ProveSpec spec{48 * kHour, 12 * kHour, static_cast<int>(random() % 10) * kHour};
    std::vector<AssetCase> assets(3);
    for (std::size_t k = 0; k < assets.size(); ++k) {
        AssetCase& a = assets[k];
        a.asset = AssetId(k + 1);
        a.recordEnd = at(2000 * kHour);
        a.covered = {between(0, 2000 * kHour)};
        for (int i = 0; i < 40; ++i) {
            const Instant from = Instant(static_cast<int>(random() % 1990) * kHour);
            a.alarms.push_back({from, from + (1 + static_cast<std::int64_t>(random() % 9)) * kHour});
        }
        for (int i = 0; i < 5; ++i)
            a.failures.push_back(Instant(static_cast<int>(100 + random() % 1800) * kHour));
        std::sort(a.failures.begin(), a.failures.end());
        for (int i = 0; i < 6; ++i) {
            const Instant from = Instant(static_cast<int>(random() % 1900) * kHour);
            a.notCounted.push_back({from, from + 20 * kHour});
            a.nearMisses.push_back({from + 40 * kHour, from + 80 * kHour});
        }
    }
    const Proof p = prove(assets, spec);
    EXPECT_EQ(p.caught + p.missed + p.untestable, 15);
    EXPECT_EQ(p.cameTrue + p.falseAlarms + p.late + p.open + p.masked + p.nearMisses,
              static_cast<int>(p.alarms.size()));
    Duration counting{};
    for (const AssetCase& a : assets) counting += totalLength(subtract(a.covered, joined(a.notCounted)));
    EXPECT_EQ(p.countingTime, counting);
    for (const AlarmVerdict& alarm : p.alarms) {
        if (alarm.verdict == Verdict::Masked) continue;
        bool warns = false, follows = false;
        for (const Instant t : assets[static_cast<std::size_t>(alarm.asset.number - 1)].failures) {
            warns |= alarm.range.from <= t - spec.least && alarm.range.to > t - spec.most;
            follows |= t >= alarm.range.from && t <= alarm.range.from + spec.most;
        }
        EXPECT_EQ(alarm.verdict == Verdict::True, warns);
        if (alarm.verdict == Verdict::False || alarm.verdict == Verdict::NearMiss) EXPECT_FALSE(follows);
    }
    // Without what was said of them near misses are false alarms, and nothing else is different.
    std::vector<AssetCase> unsaid = assets;
    for (AssetCase& a : unsaid) a.nearMisses.clear();
    const Proof before = prove(unsaid, spec);
    EXPECT_EQ(before.falseAlarms, p.falseAlarms + p.nearMisses);
    EXPECT_EQ(std::tuple(before.caught, before.cameTrue, before.open),
              std::tuple(p.caught, p.cameTrue, p.open));
    // An alarm that stays on longer never catches less.
    ProveSpec longer = spec;
    longer.offDelay = 5 * kHour;
    EXPECT_GE(prove(assets, longer).caught, p.caught);
    for (const FailureVerdict& f : p.failures) {
        bool any = false;
        for (const AlarmVerdict& a : p.alarms)
            any |= a.asset == f.asset && a.verdict != Verdict::Masked &&
                   a.range.from <= f.time - spec.least && a.range.to > f.time - spec.most;
        EXPECT_EQ(f.caught, any && f.testable);
        if (f.caught) {
            EXPECT_GE(f.warning, spec.least);
            EXPECT_LE(f.warning, spec.most);
        }
    }
}

TEST_P(RandomCases, AnExcursionIsWhereTheRunIsOutsideAndItsAreaIsTheSumOfSmallSteps) {
    std::mt19937 random(GetParam() + 50);
    GoldenLimits g;
    g.spec.every = 3 * kMinute;
    for (int i = 0; i <= 60; ++i) {
        const double centre = 10 * std::sin(i * 0.2), half = 2 + static_cast<double>(random() % 100) / 100;
        g.slices.push_back({Place(i * g.spec.every), 5, centre - half, centre, centre + half});
    }
    Series s;
    for (int i = 0; i <= 360; ++i)
        s.push(at(i * 30 * kSecond), 10 * std::sin(i / 6.0 * 0.2) + 4 * std::sin(i * 0.07 + GetParam()));
    const Bridging line{TagKind::Continuous, kHour};
    const Span run{SpanId(1), AssetId(1), {}, at(0), at(180 * kMinute), {}};
    double area = 0, found = 0;
    for (Instant t = at(kSecond / 2); t < run.end; t += kSecond) {
        const LimitsAt l = limitsAt(g, Place(t.time_since_epoch()));
        const double share =
            toNanoseconds(t.time_since_epoch() % (30 * kSecond)) / toNanoseconds(30 * kSecond);
        const auto i = static_cast<std::size_t>(t.time_since_epoch() / (30 * kSecond));
        const double v = s.values[i] + share * (s.values[i + 1] - s.values[i]);
        area += std::max({0.0, v - l.high, l.low - v}) / 3600;
    }
    for (const Excursion& e :
         findExcursions(s, line, scaleFromStart(run.range()), g, {Duration(), Duration()})) {
        found += e.area;
        EXPECT_LT(e.start, e.end);
        EXPECT_GE(e.peakTime, e.start);
        EXPECT_LE(e.peakTime, e.end);
        EXPECT_EQ(e.peak > 0, e.side == Side::High);
        EXPECT_GT(e.area, 0);
        EXPECT_LE(e.area, std::abs(e.peak) * toHours(e.end - e.start) + 1e-9);
    }
    EXPECT_NEAR(found, area, 1e-3 * area + 1e-6);
}

INSTANTIATE_TEST_SUITE_P(Seeds, RandomCases, ::testing::Range(1U, 9U));

}  // namespace
}  // namespace jacinth
