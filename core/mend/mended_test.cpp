// Every kind of fix against values worked out by hand, and what must hold whatever the fixes are.
#include "core/mend/mended.h"

#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <random>

#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr TimeRange kAll{at(-1000 * kDay), at(1000 * kDay)};

/// A record in memory, and its twin.
struct Record {
    Series logged, twin;
    Duration spacing = kMinute;

    MendSources sources() const {
        return {
            [this](TimeRange r) { return cut(logged, r); },
            [this](TagId, TimeRange r) { return cut(twin, r); },
            logged.empty() ? TimeRange{} : TimeRange{logged.times.front(), logged.times.back() + kNanosecond},
            spacing};
    }
    static Series cut(const Series& s, TimeRange r) {
        Series out;
        out.append(s.view().within(r));
        return out;
    }
    Series mended(const std::vector<Fix>& fixes, TimeRange range = kAll) const {
        return mendedSamples(fixes, range, sources());
    }
};

Record flat(int minutes, double value) {
    Record r;
    for (int m = 0; m < minutes; ++m) r.logged.push(at(m * kMinute), value);
    return r;
}

/// A straight rise of 1 a minute from 0, with samples [from, to) missing.
Record riseWithGap(int minutes, int from, int to) {
    Record r;
    for (int m = 0; m < minutes; ++m)
        if (m < from || m >= to) r.logged.push(at(m * kMinute), m);
    return r;
}

Fix fix(FixBody body, int fromMinute, int toMinute) {
    Fix f;
    f.tag = TagId(1);
    f.body = std::move(body);
    f.from = at(fromMinute * kMinute);
    f.to = at(toMinute * kMinute);
    return f;
}

bool same(const Series& a, const Series& b) {
    if (a.times != b.times || a.size() != b.size()) return false;
    for (std::size_t i = 0; i < a.size(); ++i) {
        if (a.view().qualityAt(i) != b.view().qualityAt(i)) return false;
        if (std::bit_cast<std::uint64_t>(a.values[i]) != std::bit_cast<std::uint64_t>(b.values[i]))
            return false;
    }
    return true;
}

double valueAtMinute(const Series& s, double minute) {
    const auto t = at(Duration(static_cast<std::int64_t>(minute * 60e9)));
    const std::size_t i = firstNotBefore(s.times, t);
    return i < s.size() && s.times[i] == t ? s.values[i] : std::nan("");
}

TEST(Mended, ShiftAndRampIncludeBothEnds) {
    const Record r = flat(6, 50);
    EXPECT_EQ(r.mended({fix(ShiftFix{5}, 1, 3)}).values, (std::vector<double>{50, 55, 55, 55, 50, 50}));
    EXPECT_EQ(r.mended({fix(RampFix{1, -2}, 1, 4)}).values, (std::vector<double>{50, 51, 50, 49, 48, 50}));
}

TEST(Mended, BendGoesThroughItsKnotsAndIsHeldOutside) {
    const Record r = flat(7, 10);
    const BendFix bend{{{at(kMinute), 2}, {at(3 * kMinute), -2}, {at(4 * kMinute), 0}}};
    EXPECT_EQ(r.mended({fix(bend, 0, 5)}).values, (std::vector<double>{12, 12, 10, 8, 10, 10, 10}));
}

TEST(Mended, CurveDependsOnTheValueAndMovesInTime) {
    Record r;
    for (int m = 0; m <= 4; ++m) r.logged.push(at(m * kMinute), 10.0 * m);
    // At 0: +1, at 20: +3; held outside.
    const CurveFix one{{{at(0), {{0, 1}, {20, 3}}}}};
    EXPECT_EQ(r.mended({fix(one, 0, 4)}).values, (std::vector<double>{1, 12, 23, 33, 43}));
    // By minute 4 the calibration says 0 everywhere: half of it at minute 2.
    const CurveFix two{{{at(0), {{0, 1}, {20, 3}}}, {at(4 * kMinute), {{0, 0}}}}};
    EXPECT_EQ(r.mended({fix(two, 0, 4)}).values, (std::vector<double>{1, 11.5, 21.5, 30.75, 40}));
}

TEST(Mended, BridgesFillOnTheUsualSpacingAndSayTheyAreUncertain) {
    const Record r = riseWithGap(60, 20, 30);
    const Series line = r.mended({fix(BridgeFix{BridgeFix::Way::Line}, 10, 40)});
    ASSERT_EQ(line.size(), 60u);
    for (int m = 0; m < 60; ++m) EXPECT_NEAR(line.values[static_cast<std::size_t>(m)], m, 1e-9);
    for (std::size_t i = 0; i < 60; ++i)
        EXPECT_EQ(line.view().qualityAt(i), i >= 20 && i < 30 ? Quality::Uncertain : Quality::Good);
    const Series hold = r.mended({fix(BridgeFix{BridgeFix::Way::Hold}, 10, 40)});
    EXPECT_EQ(valueAtMinute(hold, 29), 19);
    for (const auto way : {BridgeFix::Way::Cubic, BridgeFix::Way::Spline})
        EXPECT_NEAR(valueAtMinute(r.mended({fix(BridgeFix{way}, 10, 40)}), 25), 25, 1e-9);
    // Only within the fix.
    const Series part = r.mended({fix(BridgeFix{BridgeFix::Way::Line}, 25, 40)});
    EXPECT_EQ(part.size(), 55u);
    EXPECT_NEAR(valueAtMinute(part, 25), 25, 1e-9);
    EXPECT_TRUE(std::isnan(valueAtMinute(part, 24)));
}

TEST(Mended, ALongerGapThanAllowedStays) {
    const Record r = riseWithGap(60, 20, 30);  // 11 minutes from sample to sample
    BridgeFix bridge;
    bridge.longest = 10 * kMinute;
    EXPECT_TRUE(same(r.mended({fix(bridge, 0, 59)}), r.logged));
    bridge.longest = 11 * kMinute;
    EXPECT_EQ(r.mended({fix(bridge, 0, 59)}).size(), 60u);
}

TEST(Mended, OverReplacesWhatIsThere) {
    Record r = riseWithGap(60, 0, 0);
    for (int m = 20; m < 30; ++m) r.logged.values[static_cast<std::size_t>(m)] = 20;  // stuck
    BridgeFix bridge;
    EXPECT_TRUE(same(r.mended({fix(bridge, 20, 29)}), r.logged));
    bridge.over = true;
    EXPECT_NEAR(valueAtMinute(r.mended({fix(bridge, 20, 29)}), 25), 25, 1e-9);
}

TEST(Mended, BadSamplesInAGapGiveWayToTheFill) {
    Record r = riseWithGap(60, 0, 0);
    r.logged.quality.assign(60, Quality::Good);
    for (std::size_t i = 20; i < 30; ++i) r.logged.quality[i] = Quality::Bad, r.logged.values[i] = 999;
    const Series s = r.mended({fix(BridgeFix{}, 15, 35)});
    EXPECT_EQ(s.size(), 60u);
    EXPECT_NEAR(valueAtMinute(s, 25), 25, 1e-9);
    EXPECT_EQ(s.view().qualityAt(25), Quality::Uncertain);
}

TEST(Mended, TheTwinIsScaledAndMeetsBothEnds) {
    Record r;
    for (int m = 0; m < 200; ++m) {
        const double truth = 50 + 10 * std::sin(m * 0.1);
        r.twin.push(at(m * kMinute + 7 * kSecond), 3 + 0.5 * (50 + 10 * std::sin((m + 7.0 / 60) * 0.1)));
        if (m < 80 || m >= 120) r.logged.push(at(m * kMinute), truth);
    }
    const Series s = r.mended({fix(BorrowFix{TagId(2), 40 * kMinute}, 70, 130)});
    double worst = 0;
    int filled = 0;
    for (std::size_t i = 0; i < s.size(); ++i) {
        if (s.view().qualityAt(i) != Quality::Uncertain) continue;
        ++filled;
        worst = std::max(worst,
                         std::abs(s.values[i] - (50 + 10 * std::sin(toSeconds(s.times[i] - at(0)) / 600))));
    }
    EXPECT_EQ(filled, 40);
    EXPECT_LT(worst, 0.02);  // lines between samples of a curve
}

TEST(Mended, DecayGoesThroughBothEndsWithTheTauSaidOrFitted) {
    Record r;
    const auto truth = [](double m) { return 20 + 60 * std::exp(-m / 30); };
    for (int m = 0; m < 120; ++m)
        if (m < 40 || m >= 80) r.logged.push(at(m * kMinute), truth(m));
    DecayFix decay;
    decay.tau = 30 * kMinute;
    for (const Series& s : {r.mended({fix(decay, 30, 90)}), r.mended({fix(DecayFix{}, 30, 90)})})
        for (int m = 40; m < 80; ++m) EXPECT_NEAR(valueAtMinute(s, m), truth(m), 1e-4) << m;
}

TEST(Mended, HiddenSamplesAreBadAndComeBackOneByOne) {
    const Record r = flat(10, 5);
    const Series all = r.mended({fix(HideFix{}, 3, 5)});
    EXPECT_EQ(all.size(), 10u);
    for (std::size_t i = 0; i < 10; ++i) EXPECT_EQ(all.view().usable(i), i < 3 || i > 5);
    HideFix some{{{at(3 * kMinute), at(3 * kMinute)}, {at(5 * kMinute), at(5 * kMinute)}}};
    const Series two = r.mended({fix(some, 3, 5)});
    EXPECT_TRUE(two.view().usable(4));
    EXPECT_FALSE(two.view().usable(3) || two.view().usable(5));
}

TEST(Mended, NothingIsDrawnOverACut) {
    const Record r = flat(10, 5);
    const Series s = r.mended({fix(CutFix{}, 3, 5)});
    ASSERT_EQ(s.size(), 8u);
    EXPECT_TRUE(s.view().ends(3));
    EXPECT_EQ(s.times[3], at(3 * kMinute));
    // A bridge fills it again.
    const Series again = r.mended({fix(CutFix{}, 3, 5), fix(BridgeFix{}, 0, 9)});
    ASSERT_EQ(again.size(), 10u);
    EXPECT_EQ(valueAtMinute(again, 4), 5);
}

TEST(Mended, AClockKeepsEverySample) {
    Record r = riseWithGap(60, 0, 0);
    const Series s = r.mended({fix(ClockFix{-30 * kMinute}, 40, 49)});
    ASSERT_EQ(s.size(), 60u);  // ten of them at instants that had samples
    EXPECT_TRUE(std::isnan(valueAtMinute(s, 45)));
    std::vector<double> sorted = s.values;
    std::sort(sorted.begin(), sorted.end());
    EXPECT_EQ(sorted, r.logged.values);
    for (std::size_t i = 1; i < s.size(); ++i) EXPECT_GT(s.times[i], s.times[i - 1]);
    // What is read of a part is what lies there after the move.
    const Series part =
        r.mended({fix(ClockFix{-30 * kMinute}, 40, 49)}, {at(10 * kMinute), at(12 * kMinute)});
    EXPECT_EQ(part.values, (std::vector<double>{10, 40, 11, 41}));
    EXPECT_EQ(r.mended({fix(ClockFix{-30 * kMinute}, 40, 49)}, {at(40 * kMinute), at(50 * kMinute)}).size(),
              0u);
}

TEST(Mended, OrderMattersWhereItShould) {
    const Record r = flat(10, 10);
    const CurveFix half{{{at(0), {{10, 5}, {20, 0}}}}};
    const Fix shift = fix(ShiftFix{10}, 0, 9), curve = fix(half, 0, 9);
    EXPECT_EQ(r.mended({shift, curve}).values[0], 20);
    EXPECT_EQ(r.mended({curve, shift}).values[0], 25);
    const Fix clock = fix(ClockFix{2 * kMinute}, 0, 0), there = fix(ShiftFix{1}, 2, 2);
    EXPECT_EQ(r.mended({clock, there}, {at(2 * kMinute), at(2 * kMinute + kSecond)}).values,
              (std::vector<double>{11, 10}));
}

TEST(Mended, AShiftAndItsOppositeAreNothing) {
    Record r;
    std::mt19937 random(3);
    for (int m = 0; m < 500; ++m) r.logged.push(at(m * kMinute), static_cast<double>(random() % 10000) / 100);
    const Series s = r.mended({fix(ShiftFix{3.7}, 20, 400), fix(ShiftFix{-3.7}, 20, 400)});
    for (std::size_t i = 0; i < s.size(); ++i) EXPECT_NEAR(s.values[i], r.logged.values[i], 1e-12);
}

std::vector<Fix> anyFixes(std::mt19937& random, int minutes) {
    std::vector<Fix> out;
    const auto any = [&](int most) { return static_cast<int>(random() % static_cast<unsigned>(most)); };
    for (int n = 1 + any(5); n > 0; --n) {
        const int from = any(minutes), to = from + 1 + any(60);
        const std::vector<FixBody> bodies{
            ShiftFix{1.5},
            RampFix{-1, 2},
            BendFix{{{at(from * kMinute), 1}, {at(to * kMinute), 3}}},
            CurveFix{{{at(0), {{0, 1}, {100, -1}}}}},
            BridgeFix{static_cast<BridgeFix::Way>(any(4)), 40 * kMinute, any(2) == 0},
            BorrowFix{TagId(2), 30 * kMinute, any(2) == 0},
            DecayFix{20 * kMinute, kHour, any(2) == 0},
            HideFix{},
            CutFix{},
            ClockFix{(any(2) ? 1 : -1) * (1 + any(90)) * kMinute}};
        Fix f = fix(bodies[static_cast<std::size_t>(any(static_cast<int>(bodies.size())))], from, to);
        f.on = any(5) > 0;
        out.push_back(f);
    }
    return out;
}

Record anyRecord(std::mt19937& random, int minutes) {
    Record r;
    for (int m = 0; m < minutes; ++m) {
        const double v = 50 + 20 * std::sin(m * 0.03) + static_cast<double>(random() % 100) / 50;
        r.twin.push(at(m * kMinute + 20 * kSecond), 10 + 0.7 * v);
        if (m % 170 > 150) continue;  // gaps
        r.logged.push(at(m * kMinute), v, random() % 40 == 0 ? Quality::Bad : Quality::Good);
    }
    return r;
}

TEST(MendedProperty, AllOffIsTheLoggedTagBitForBit) {
    for (unsigned seed = 0; seed < 40; ++seed) {
        std::mt19937 random(seed);
        const Record r = anyRecord(random, 600);
        std::vector<Fix> fixes = anyFixes(random, 600);
        for (Fix& f : fixes) f.on = false;
        EXPECT_TRUE(same(r.mended(fixes), r.logged)) << seed;
    }
}

TEST(MendedProperty, ReadInPiecesIsReadAsAWhole) {
    for (unsigned seed = 0; seed < 300; ++seed) {
        std::mt19937 random(seed);
        const Record r = anyRecord(random, 600);
        const std::vector<Fix> fixes = anyFixes(random, 600);
        const TimeRange all{at(-3 * kHour), at(14 * kHour)};
        const Series whole = r.mended(fixes, all);
        Series pieces;
        for (Instant t = all.from; t < all.to; t += 37 * kMinute) {
            const Series piece = r.mended(fixes, {t, std::min(t + 37 * kMinute, all.to)});
            pieces.append(piece.view());
        }
        if (pieces.quality.empty()) pieces.quality.resize(pieces.size(), Quality::Good);
        EXPECT_TRUE(same(whole, pieces)) << seed;
        for (std::size_t i = 1; i < whole.size(); ++i) ASSERT_GT(whole.times[i], whole.times[i - 1]) << seed;
    }
}

TEST(Mended, ManyFixesOverEachOtherReadLittleMoreThanOne) {
    std::vector<Fix> fixes;
    for (int i = 0; i < 30; ++i)
        fixes.push_back(fix(BridgeFix{BridgeFix::Way::Line, kHour, true}, 100 + i, 300 + i));
    const Record r = flat(600, 7);
    std::size_t samples = 0;
    MendSources sources = r.sources();
    sources.logged = [&](TimeRange range) {
        const Series out = Record::cut(r.logged, range);
        samples += out.size();
        return out;
    };
    const Series mended = mendedSamples(fixes, kAll, sources);
    EXPECT_EQ(mended.size(), 600u);
    EXPECT_LT(samples, 600u * 30 * 4) << "each fix would read three times what the one before it reads";
    EXPECT_TRUE(same(mended, r.mended(fixes)));
}

TEST(Mended, OfALongGapOnlyWhatIsAskedForIsCalculated) {
    Record r = riseWithGap(200'010, 5, 200'005);
    const std::vector<Fix> bridge{fix(BridgeFix{BridgeFix::Way::Line, 200 * kDay, false}, 0, 200'010)};
    const Series whole = r.mended(bridge);
    ASSERT_EQ(whole.size(), 200'010u);
    for (const int from : {0, 3, 1000, 77'777, 200'000}) {
        const TimeRange part{at(from * kMinute + 13 * kSecond), at((from + 9) * kMinute)};
        EXPECT_TRUE(same(r.mended(bridge, part), Record::cut(whole, part))) << from;
    }
}

TEST(Mended, AGapThatWouldNotFitInMemoryStaysOne) {
    Record r = riseWithGap(20, 5, 15);
    r.spacing = (kMillisecond / 1000);
    const std::vector<Fix> bridge{fix(BridgeFix{BridgeFix::Way::Line, kDay, false}, 0, 20)};
    EXPECT_EQ(r.mended(bridge).size(), 10u);
}

}  // namespace
}  // namespace jacinth
