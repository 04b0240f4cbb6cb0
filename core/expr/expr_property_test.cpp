// The language against its own meaning at single moments: what the whole-record evaluation says at a time is
// what the definition says there.
#include <gtest/gtest.h>

#include <random>

#include "core/expr/evaluate.h"
#include "core/expr/window.h"
#include "core/series/value_at.h"

namespace jacinth {
namespace {

struct RandomTag {
    Series series;
    Bridging bridging;
    Signal signal;
};

RandomTag randomTag(std::mt19937& random, bool stepped) {
    RandomTag out;
    out.bridging = {stepped ? TagKind::Stepped : TagKind::Continuous, stepped ? kWithoutEnd : 5 * kMinute};
    Instant t = 0;
    for (int i = 0; i < 400; ++i) {
        t += (1 + static_cast<Instant>(random() % 90)) * kSecond;
        if (random() % 60 == 0) t += 12 * kMinute;
        out.series.push(t, static_cast<double>(static_cast<int>(random() % 2000)) / 100 - 10,
                        random() % 40 ? Quality::Good : Quality::Bad);
    }
    out.signal = signalOf(out.series, out.bridging, out.series.times.front());
    return out;
}

class Meaning : public ::testing::TestWithParam<unsigned> {};

TEST_P(Meaning, TheSignalOfATagIsItsValueAtAnyTime) {
    std::mt19937 random(GetParam());
    for (const bool stepped : {false, true}) {
        const RandomTag tag = randomTag(random, stepped);
        for (int i = 0; i < 500; ++i) {
            const Instant t = static_cast<Instant>(random() % 20000) * kSecond + 500 * kMillisecond;
            const double a = valueAt(tag.series, tag.bridging, t), b = signalAt(tag.signal, t);
            if (std::isnan(a))
                EXPECT_TRUE(std::isnan(b)) << t;
            else
                EXPECT_NEAR(a, b, 1e-9);
        }
    }
}

Truth truthAt(const Condition& c, Instant t) {
    Truth out = Truth::Unknown;
    for (std::size_t i = 0; i < c.times.size() && c.times[i] <= t; ++i) out = c.values[i];
    return out;
}

TEST_P(Meaning, AComparisonIsTrueWhereTheValueSaysSo) {
    std::mt19937 random(GetParam() + 100);
    const RandomTag x = randomTag(random, false), y = randomTag(random, GetParam() % 2);
    const Signal difference = combine(x.signal, y.signal, [](double a, double b) { return a - b; });
    const Condition c = compareWithZero(difference, Comparison::Greater);
    for (int i = 0; i < 800; ++i) {
        const Instant t = static_cast<Instant>(random() % 20000) * kSecond + 300 * kMillisecond;
        const double d = signalAt(difference, t);
        const Truth truth = truthAt(c, t);
        if (std::isnan(d))
            EXPECT_EQ(truth, Truth::Unknown) << t;
        else if (std::abs(d) > 1e-9)
            EXPECT_EQ(truth, d > 0 ? Truth::True : Truth::False) << t;
    }
}

TEST_P(Meaning, KleenesTablesHoldAtEveryMoment) {
    std::mt19937 random(GetParam() + 200);
    const Condition a = compareWithZero(randomTag(random, false).signal, Comparison::Less);
    const Condition b = compareWithZero(randomTag(random, true).signal, Comparison::GreaterEqual);
    const Condition both_ = both(a, b), either_ = either(a, b), deMorgan = !(either(!a, !b));
    for (int i = 0; i < 800; ++i) {
        const Instant t = static_cast<Instant>(random() % 20000) * kSecond;
        const Truth x = truthAt(a, t), y = truthAt(b, t);
        const bool anyFalse = x == Truth::False || y == Truth::False,
                   anyTrue = x == Truth::True || y == Truth::True;
        const bool known = x != Truth::Unknown && y != Truth::Unknown;
        EXPECT_EQ(truthAt(both_, t), anyFalse ? Truth::False : known ? Truth::True : Truth::Unknown);
        EXPECT_EQ(truthAt(either_, t), anyTrue ? Truth::True : known ? Truth::False : Truth::Unknown);
        EXPECT_EQ(truthAt(deMorgan, t), truthAt(both_, t));
    }
}

TEST_P(Meaning, LastingNeedsTheWholeTimeBefore) {
    std::mt19937 random(GetParam() + 300);
    const Condition c = compareWithZero(randomTag(random, false).signal, Comparison::Greater);
    const Duration d = 40 * kSecond;
    const Condition lasts = lasting(c, d);
    for (int i = 0; i < 400; ++i) {
        const Instant t = static_cast<Instant>(random() % 20000) * kSecond + 700 * kMillisecond;
        bool held = true;
        for (Instant back = 0; back <= d; back += 250 * kMillisecond)
            held &= truthAt(c, t - back) == Truth::True;
        if (truthAt(lasts, t) == Truth::True) EXPECT_TRUE(held) << t;
        // And the other way round, away from the edge by more than the probe's step.
        bool longer = true;
        for (Instant back = 0; back <= d + kSecond; back += 250 * kMillisecond)
            longer &= truthAt(c, t - back) == Truth::True;
        if (longer) EXPECT_EQ(truthAt(lasts, t), Truth::True) << t;
    }
}

TEST_P(Meaning, AMeanIsTheAreaOverTheCoveredTime) {
    std::mt19937 random(GetParam() + 400);
    const RandomTag x = randomTag(random, GetParam() % 2);
    const Duration width = 7 * kMinute;
    for (int i = 0; i < 60; ++i) {
        const Instant t = 10 * kMinute + static_cast<Instant>(random() % 15000) * kSecond;
        const double mean = slide(WindowFigure::Mean, x.signal, width, {t})[0];
        double sum = 0;
        int known = 0, probes = 0;
        for (Instant at = t - width + kSecond / 4; at < t; at += kSecond / 2, ++probes)
            if (const double v = signalAt(x.signal, at); std::isfinite(v)) sum += v, ++known;
        if (std::abs(known * 2 - probes) < 4) continue;  // too near to half covered for a probe to tell
        if (known * 2 < probes)
            EXPECT_TRUE(std::isnan(mean)) << t;
        else
            EXPECT_NEAR(mean, sum / known, 0.06) << t;
    }
}

TEST_P(Meaning, StretchesAreWhereItIsTrueAndNothingElse) {
    std::mt19937 random(GetParam() + 500);
    const Condition c = compareWithZero(randomTag(random, false).signal, Comparison::Less);
    const TimeRange range{2000 * kSecond, 9000 * kSecond};
    Duration total = 0;
    for (const Truth v : {Truth::True, Truth::False, Truth::Unknown})
        for (const TimeRange& r : stretches(c, range, v)) {
            EXPECT_GE(r.from, range.from);
            EXPECT_LE(r.to, range.to);
            EXPECT_EQ(truthAt(c, r.from), v);
            EXPECT_EQ(truthAt(c, r.to - 1), v);
            total += r.length();
        }
    EXPECT_EQ(total, range.length());
}

INSTANTIATE_TEST_SUITE_P(Seeds, Meaning, ::testing::Range(1U, 7U));

TEST(Tokens, AreWhatTheEditorColours) {
    const auto tokens = tokenize("slope(@x over 6h) > 0.5 # why");
    std::vector<TokenKind> kinds;
    for (const Token& t : tokens) kinds.push_back(t.kind);
    using enum TokenKind;
    EXPECT_EQ(kinds, (std::vector<TokenKind>{Word, Symbol, Role, Keyword, DurationWord, Symbol, Symbol,
                                             Number, Comment, End}));
    EXPECT_EQ(tokens[2].column, 7);
    EXPECT_EQ(tokens[2].length, 2);
    EXPECT_EQ(tokens[4].duration, 6 * kHour);
}

TEST(Tokens, UnreadableTextIsKeptNotLost) {
    EXPECT_EQ(tokenize("\"open")[0].kind, TokenKind::Unknown);
    EXPECT_EQ(tokenize("6parsecs")[0].kind, TokenKind::Unknown);
    EXPECT_EQ(tokenize("@")[0].kind, TokenKind::Unknown);
    EXPECT_EQ(tokenize("")[0].kind, TokenKind::End);
}

TEST(NearestName, IsNearOrNothing) {
    const std::vector<std::string> known{"bearing_vibration", "bearing_temp", "fan_current"};
    EXPECT_EQ(nearestName("bearing_vibratoin", known), "bearing_vibration");
    EXPECT_EQ(nearestName("fan_curent", known), "fan_current");
    EXPECT_EQ(nearestName("zzz", known), "");
}

}  // namespace
}  // namespace jacinth
