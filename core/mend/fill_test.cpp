// Gaps, against their definition; and what fills them: through both ends, on the step, uncertain, and near
// what was there before it was taken away.
#include "core/mend/fill.h"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <random>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr Duration kStep = kMinute;

Fix fixOver(FixBody body, TimeRange range) {
    Fix f;
    f.tag = TagId(1);
    f.body = std::move(body);
    f.from = range.from;
    f.to = range.to;
    return f;
}

Series noTwin(TimeRange) {
    return {};
}

/// A curve with the samples inside of (from, to) taken away.
Series curveWithGap(const std::function<double(double)>& curve, int minutes, int from, int to) {
    Series s;
    for (int m = 0; m < minutes; ++m)
        if (m <= from || m >= to) s.push(at(m * kStep), curve(m));
    return s;
}

Series filled(const Series& s, const Fix& fix, const TwinSamples& twin = noTwin) {
    const auto gaps = gapsIn(s.view(), fix, kStep, false);
    EXPECT_EQ(gaps.size(), 1u);
    return gaps.empty() ? Series() : fillOf(s.view(), gaps.front(), fix, kStep, twin);
}

/// The greatest distance of the fill from the curve that was there.
double farthest(const Series& fill, const std::function<double(double)>& curve) {
    double out = 0;
    for (std::size_t i = 0; i < fill.size(); ++i) {
        const double m = toNanoseconds(fill.times[i] - at(0)) / toNanoseconds(kStep);
        out = std::max(out, std::abs(fill.values[i] - curve(m)));
    }
    return out;
}

/// Straight from the header, looking at every pair of samples.
std::vector<Gap> gapsByDefinition(const SeriesView& s, const Fix& fix, Duration spacing, bool over) {
    const auto stands = [&](std::size_t i) {
        const bool replaced = over && s.times[i] >= fix.from && s.times[i] <= fix.to;
        return s.usable(i) && !replaced;
    };
    std::vector<Gap> out;
    for (std::size_t a = 0; a < s.size(); ++a)
        for (std::size_t b = a + 1; b < s.size(); ++b) {
            if (!stands(a) || !stands(b)) continue;
            bool between = false, unusable = false;
            for (std::size_t i = a + 1; i < b; ++i) {
                between |= stands(i);
                unusable |= !stands(i);
            }
            if (between || !(unusable || s.times[b] - s.times[a] > 2 * spacing)) continue;
            if (s.times[b] <= fix.from || s.times[a] >= fix.to) continue;
            out.push_back(
                {a + 1,
                 b,
                 {std::max(fix.from, s.times[a] + kNanosecond), std::min(fix.to, s.times[b] - kNanosecond)}});
        }
    return out;
}

TEST(Gaps, AreThoseOfTheirDefinition) {
    std::mt19937 random(5);
    for (int round = 0; round < 300; ++round) {
        Series s;
        Instant t = at(0);
        for (int i = 0; i < 40; ++i) {
            t += random() % 6 == 0 ? Duration(random() % 5 * kMinute) + kSecond : kStep;
            const auto quality = random() % 5 == 0   ? Quality::Bad
                                 : random() % 9 == 0 ? Quality::Missing
                                                     : Quality::Good;
            s.push(t, random() % 15 == 0 ? std::nan("") : 1.0, quality);
        }
        const Instant from = at(Duration(random() % 60 * kMinute)),
                      to = from + Duration(random() % 30 * kMinute);
        const Fix fix = fixOver(BridgeFix{}, {from, to});
        for (const bool over : {false, true}) {
            const auto got = gapsIn(s.view(), fix, kStep, over),
                       want = gapsByDefinition(s.view(), fix, kStep, over);
            ASSERT_EQ(got.size(), want.size()) << round;
            for (std::size_t i = 0; i < got.size(); ++i) {
                EXPECT_EQ(got[i].before, want[i].before);
                EXPECT_EQ(got[i].after, want[i].after);
                EXPECT_EQ(got[i].filled, want[i].filled);
            }
        }
    }
}

TEST(Gaps, ThereIsNoneAtTheEndsOfTheRecordOrWithoutSamples) {
    const Fix fix = fixOver(BridgeFix{}, {at(-kDay), at(kDay)});
    EXPECT_TRUE(gapsIn(Series().view(), fix, kStep, false).empty());
    Series one;
    one.push(at(0), 1);
    EXPECT_TRUE(gapsIn(one.view(), fix, kStep, false).empty());
    Series bad;
    for (int m = 0; m < 5; ++m) bad.push(at(m * kStep), 1, m < 2 || m > 3 ? Quality::Bad : Quality::Good);
    EXPECT_TRUE(gapsIn(bad.view(), fix, kStep, false).empty()) << "a second side is missing";
}

TEST(Fills, StandOnTheStepBetweenBothSidesAndAreUncertain) {
    const auto line = [](double m) { return 3 + 0.5 * m; };
    const Series s = curveWithGap(line, 100, 40, 60);
    for (const auto way :
         {BridgeFix::Way::Hold, BridgeFix::Way::Line, BridgeFix::Way::Cubic, BridgeFix::Way::Spline}) {
        const Series fill = filled(s, fixOver(BridgeFix{way}, {at(0), at(kDay)}));
        ASSERT_EQ(fill.size(), 19u);
        for (std::size_t i = 0; i < fill.size(); ++i) {
            EXPECT_EQ(fill.times[i], at((41 + static_cast<int>(i)) * kStep));
            EXPECT_EQ(fill.quality[i], Quality::Uncertain);
        }
        if (way == BridgeFix::Way::Hold)
            EXPECT_EQ(fill.values.back(), line(40));
        else
            EXPECT_LT(farthest(fill, line), 1e-9) << "a line goes on through every curve";
    }
}

TEST(Fills, CurvesKeepToASmoothRecordBetterThanALine) {
    const auto wave = [](double m) { return 10 * std::sin(m / 25); };
    const Series s = curveWithGap(wave, 300, 140, 165);
    const TimeRange all{at(0), at(kDay)};
    const double line = farthest(filled(s, fixOver(BridgeFix{BridgeFix::Way::Line}, all)), wave),
                 spline = farthest(filled(s, fixOver(BridgeFix{BridgeFix::Way::Spline}, all)), wave);
    EXPECT_LT(spline, line / 3);
    // The monotone cubic never leaves what lies between its ends where the record rises.
    const auto rise = [](double m) { return std::exp(m / 60); };
    const Series steep = curveWithGap(rise, 300, 140, 165);
    const Series fill = filled(steep, fixOver(BridgeFix{BridgeFix::Way::Cubic}, all));
    double last = rise(140);
    for (const double v : fill.values) {
        EXPECT_GE(v, last);
        last = v;
    }
    EXPECT_LE(last, rise(165));
}

TEST(Fills, OnlyWhatLiesInTheFixIsFilledAndNoGapThatIsTooLong) {
    const Series s = curveWithGap([](double) { return 1; }, 200, 50, 150);
    BridgeFix bridge{BridgeFix::Way::Hold};
    const Series part = filled(s, fixOver(bridge, {at(60 * kStep), at(70 * kStep)}));
    ASSERT_EQ(part.size(), 11u) << "both ends of the fix are in it";
    EXPECT_EQ(part.times.front(), at(60 * kStep));
    EXPECT_EQ(part.times.back(), at(70 * kStep));
    bridge.longest = 100 * kStep;
    EXPECT_EQ(filled(s, fixOver(bridge, {at(0), at(kDay)})).size(), 99u);
    bridge.longest = 100 * kStep - kNanosecond;
    EXPECT_TRUE(filled(s, fixOver(bridge, {at(0), at(kDay)})).empty());
}

TEST(Fills, ATwinGivesWhatItSawScaledAndMovedToBothEnds) {
    const auto twinCurve = [](double m) { return std::sin(m / 9) + m * 0.01; };
    const auto own = [&](double m) { return 20 + 3 * twinCurve(m); };
    Series twin;
    for (int m = 0; m < 400; ++m) twin.push(at(m * kStep), twinCurve(m));
    const TwinSamples read = [&](TimeRange r) {
        Series out;
        out.append(twin.view().within(r));
        return out;
    };
    const Series s = curveWithGap(own, 400, 180, 230);
    const Fix fix = fixOver(BorrowFix{TagId(2), 2 * kHour, false}, {at(0), at(kDay)});
    EXPECT_LT(farthest(filled(s, fix, read), own), 1e-9);
    // Where ours drifted meanwhile, the fill still meets both ends.
    const auto drifting = [&](double m) { return own(m) + (m > 180 ? 0.02 * (m - 180) : 0); };
    const Series drifted = curveWithGap(drifting, 400, 180, 230);
    const Series fill = filled(drifted, fix, read);
    ASSERT_FALSE(fill.empty());
    EXPECT_NEAR(fill.values.front(), drifting(181), 0.5);
    EXPECT_NEAR(fill.values.back(), drifting(229), 0.5);
    // A twin that stands still moves the level only, and one without samples fills nothing.
    const TwinSamples still = [](TimeRange r) {
        Series out;
        for (Instant t = r.from; t < r.to; t += kStep) out.push(t, 7);
        return out;
    };
    const Series moved = filled(s, fix, still);
    ASSERT_FALSE(moved.empty());
    EXPECT_NEAR(moved.values.front(), own(180), 1);
    EXPECT_TRUE(filled(s, fix, noTwin).empty());
}

TEST(Fills, ADecayFindsItsTimeConstantFromWhatCameBefore) {
    const auto decay = [](double m) { return 20 + 80 * std::exp(-m / 45); };
    const Series s = curveWithGap(decay, 300, 90, 160);
    const TimeRange all{at(0), at(kDay)};
    EXPECT_LT(farthest(filled(s, fixOver(DecayFix{{}, 2 * kHour, false}, all)), decay), 0.01);
    EXPECT_LT(farthest(filled(s, fixOver(DecayFix{45 * kMinute, 2 * kHour, false}, all)), decay), 1e-9);
    // With another constant it still goes through both ends.
    const Series wrong = filled(s, fixOver(DecayFix{10 * kMinute, 2 * kHour, false}, all));
    ASSERT_FALSE(wrong.empty());
    EXPECT_GT(farthest(wrong, decay), 1);
    EXPECT_NEAR(wrong.values.back(), decay(160), 1);
}

TEST(Fills, SayHowFarTheyLook) {
    const TimeRange all{at(0), at(kDay)};
    EXPECT_GE(fillReach(fixOver(BridgeFix{BridgeFix::Way::Line, 9 * kHour}, all), kStep), 9 * kHour);
    EXPECT_GE(fillReach(fixOver(BorrowFix{TagId(2), 5 * kHour, false}, all), kStep), 5 * kHour);
    EXPECT_GE(fillReach(fixOver(DecayFix{{}, 7 * kHour, false}, all), kStep), 7 * kHour);
    EXPECT_EQ(fillReach(fixOver(ShiftFix{1}, all), kStep), Duration::zero());
    const Series s = curveWithGap([](double) { return 1; }, 100, 40, 60);
    const Fix shift = fixOver(ShiftFix{1}, all);
    EXPECT_TRUE(
        fillOf(s.view(), gapsIn(s.view(), shift, kStep, false).front(), shift, kStep, noTwin).empty());
}

}  // namespace
}  // namespace jacinth
