// The language against its own meaning at single moments: what the whole-record evaluation says at a time is
// what the definition says there.
#include <gtest/gtest.h>

#include <array>
#include <map>
#include <random>

#include "core/expr/evaluate.h"
#include "core/expr/window.h"
#include "core/series/value_at.h"
#include "core/time/times_for_tests.h"

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
    Instant t{};
    for (int i = 0; i < 400; ++i) {
        t += (1 + static_cast<std::int64_t>(random() % 90)) * kSecond;
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
            const Instant t = Instant(static_cast<int>(random() % 20000) * kSecond) + 500 * kMillisecond;
            const double a = valueAt(tag.series, tag.bridging, t), b = signalAt(tag.signal, t);
            if (std::isnan(a))
                EXPECT_TRUE(std::isnan(b)) << toIso(t);
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
        const Instant t = Instant(static_cast<int>(random() % 20000) * kSecond) + 300 * kMillisecond;
        const double d = signalAt(difference, t);
        const Truth truth = truthAt(c, t);
        if (std::isnan(d))
            EXPECT_EQ(truth, Truth::Unknown) << toIso(t);
        else if (std::abs(d) > 1e-9)
            EXPECT_EQ(truth, d > 0 ? Truth::True : Truth::False) << toIso(t);
    }
}

TEST_P(Meaning, KleenesTablesHoldAtEveryMoment) {
    std::mt19937 random(GetParam() + 200);
    const Condition a = compareWithZero(randomTag(random, false).signal, Comparison::Less);
    const Condition b = compareWithZero(randomTag(random, true).signal, Comparison::GreaterEqual);
    const Condition both_ = both(a, b), either_ = either(a, b), deMorgan = !(either(!a, !b));
    for (int i = 0; i < 800; ++i) {
        const Instant t = Instant(static_cast<int>(random() % 20000) * kSecond);
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
        const Instant t = Instant(static_cast<int>(random() % 20000) * kSecond) + 700 * kMillisecond;
        bool held = true;
        for (Duration back{}; back <= d; back += 250 * kMillisecond)
            held &= truthAt(c, t - back) == Truth::True;
        if (truthAt(lasts, t) == Truth::True) EXPECT_TRUE(held) << toIso(t);
        // And conversely, away from the edge by more than the probe's step.
        bool longer = true;
        for (Duration back{}; back <= d + kSecond; back += 250 * kMillisecond)
            longer &= truthAt(c, t - back) == Truth::True;
        if (longer) EXPECT_EQ(truthAt(lasts, t), Truth::True) << toIso(t);
    }
}

TEST_P(Meaning, AMeanIsTheAreaOverTheCoveredTime) {
    std::mt19937 random(GetParam() + 400);
    const RandomTag x = randomTag(random, GetParam() % 2);
    const Duration width = 7 * kMinute;
    for (int i = 0; i < 60; ++i) {
        const Instant t = at(10 * kMinute + static_cast<int>(random() % 15000) * kSecond);
        const double mean = slide(WindowFigure::Mean, x.signal, width, {t})[0];
        double sum = 0;
        int known = 0, probes = 0;
        for (Instant at = t - width + kSecond / 4; at < t; at += kSecond / 2, ++probes)
            if (const double v = signalAt(x.signal, at); std::isfinite(v)) sum += v, ++known;
        if (std::abs(known * 2 - probes) < 4) continue;  // too near to half covered for a probe to decide
        if (known * 2 < probes)
            EXPECT_TRUE(std::isnan(mean)) << toIso(t);
        else
            EXPECT_NEAR(mean, sum / known, 0.06) << toIso(t);
    }
}

TEST_P(Meaning, StretchesAreWhereItIsTrueAndNothingElse) {
    std::mt19937 random(GetParam() + 500);
    const Condition c = compareWithZero(randomTag(random, false).signal, Comparison::Less);
    const TimeRange range = between(2000 * kSecond, 9000 * kSecond);
    Duration total{};
    for (const Truth v : {Truth::True, Truth::False, Truth::Unknown})
        for (const TimeRange& r : stretches(c, range, v)) {
            EXPECT_GE(r.from, range.from);
            EXPECT_LE(r.to, range.to);
            EXPECT_EQ(truthAt(c, r.from), v);
            EXPECT_EQ(truthAt(c, r.to - kNanosecond), v);
            total += r.length();
        }
    EXPECT_EQ(total, range.length());
}

/// Gives the tags as they are read for a stretch: cut to it and what its edges depend on.
class CutInputs : public Inputs {
  public:
    explicit CutInputs(TimeRange read) : read_(read) {}
    Result<Signal> role(const std::string& name) override {
        const RandomTag& tag = tags.at(name);
        Series cut;
        const auto& all = tag.series;
        // Lines reach over bad samples to the next usable one; what is held comes from the last usable one.
        const Duration gap = tag.bridging.kind == TagKind::Continuous ? tag.bridging.longestGap : Duration();
        std::size_t a = firstNotBefore(all.times, read_.from - gap);
        const std::size_t b = firstNotBefore(all.times, read_.to + gap);
        while (a > 0 && (a == all.size() || all.times[a] > read_.from - gap || !all.view().usable(a))) --a;
        for (std::size_t i = a; i < std::min(all.size(), b + 1); ++i)
            cut.push(all.times[i], all.values[i], all.view().qualityAt(i));
        Signal s = signalOf(cut, tag.bridging, all.times.front());
        s.states = {"low", "high"};
        return s;
    }
    Result<Signal> path(const std::string& name) override { return role(name); }
    Result<std::vector<TimeRange>> track(const std::string&) override {
        return std::vector<TimeRange>{between(3000 * kSecond, 3500 * kSecond),
                                      between(9000 * kSecond, 9100 * kSecond)};
    }
    std::map<std::string, RandomTag> tags;

  private:
    TimeRange read_;
};

/// One random expression of numbers (depth bounded), and one of conditions.
std::string randomNumber(std::mt19937& random, int depth);
std::string randomCondition(std::mt19937& random, int depth) {
    const auto n = [&] { return randomNumber(random, depth - 1); };
    if (depth <= 0) return random() % 2 ? "@x > 1" : "@s <= 2";
    const auto c = [&] { return randomCondition(random, depth - 1); };
    switch (random() % 10) {
        case 0:
            return n() + " > " + n();
        case 1:
            return n() + " between -3 and " + n();
        case 2:
            return "(" + c() + " and " + c() + ")";
        case 3:
            return "(" + c() + " or not " + c() + ")";
        case 4:
            return "(" + c() + " for 90s)";
        case 5:
            return random() % 2 ? "missing(@x + @y)" : "missing(@s)";
        case 6:
            return "stuck(@s over 4m)";
        case 7:
            return "inside(\"Stops\")";
        case 8:
            return "rising(" + c() + ")";
        default:
            return n() + " < 2";
    }
}
std::string randomNumber(std::mt19937& random, int depth) {
    if (depth <= 0) return std::array<const char*, 4>{"@x", "@y", "@s", "2.5"}[random() % 4];
    const auto n = [&] { return randomNumber(random, depth - 1); };
    static const std::array<const char*, 14> windows{"mean",   "median", "min",   "max",   "range",
                                                     "sum",    "sd",     "count", "slope", "integral",
                                                     "change", "rate",   "first", "last"};
    switch (random() % 10) {
        case 0:
            return "(" + n() + " + " + n() + ")";
        case 1:
            return "(" + n() + " * 0.5 - " + n() + ")";
        case 2:
            return "clip(" + n() + ", -4, 4)";
        case 3:
            return "if(" + randomCondition(random, depth - 1) + ", " + n() + ", " + n() + ")";
        case 4:
            return "fill(" + n() + ", 1)";
        case 5:
        case 6:
            return "share(" + randomCondition(random, depth - 1) + " over 6m)";
        case 7:
            return "quantile(" + n() + ", 0.8 over 5m)";
        default:
            return std::string(windows[random() % windows.size()]) + "(" + n() + " over " +
                   (random() % 3 ? "7m" : "5 samples") + ")";
    }
}

/// The whole record at once, and only what one moment needs: the same value there.
TEST_P(Meaning, TheWholeRecordAndOneMomentAgree) {
    std::mt19937 random(GetParam() + 600);
    const TimeRange record = between(0, 40000 * kSecond);
    std::map<std::string, RandomTag> tags{
        {"x", randomTag(random, false)}, {"y", randomTag(random, false)}, {"s", randomTag(random, true)}};
    Names names;
    for (const auto& [role, tag] : tags)
        names.roles[role] = {
            tag.bridging.kind, "", {}, tag.bridging.kind == TagKind::Continuous ? 5 * kMinute : Duration()};
    names.tracks = {"Stops"};
    int compared = 0;
    for (int round = 0; round < 120; ++round) {
        const bool asCondition = round % 2 == 0;
        const std::string text = asCondition ? randomCondition(random, 3) : randomNumber(random, 3);
        const auto e = compileExpression(text, names);
        ASSERT_TRUE(e) << text << ": " << e.error().message;
        CutInputs whole(record);
        whole.tags = tags;
        const auto all = evaluate(*e, whole, record);
        ASSERT_TRUE(all) << text;
        for (int i = 0; i < 6; ++i) {
            // At samples: between them a figure is drawn on, which needs the sample after.
            std::vector<std::string> used(e->roles.begin(), e->roles.end());
            if (used.empty()) break;
            const Series& of = tags[used[random() % used.size()]].series;
            const std::size_t place = 100 + random() % 250;
            if (!of.view().usable(place)) continue;
            const Instant t = of.times[place];
            CutInputs moment({t - e->lookBack, t + kNanosecond});
            moment.tags = tags;
            const auto one = evaluate(*e, moment, {t, t + kNanosecond});
            ASSERT_TRUE(one) << text;
            ++compared;
            if (asCondition) {
                EXPECT_EQ(truthAt(std::get<Condition>(*all), t), truthAt(std::get<Condition>(*one), t))
                    << text << " at " << toIso(t);
                continue;
            }
            const double a = signalAt(std::get<Signal>(*all), t), b = signalAt(std::get<Signal>(*one), t);
            if (std::isnan(a) || std::isnan(b))
                EXPECT_EQ(std::isnan(a), std::isnan(b))
                    << text << " at " << toIso(t) << ": " << a << " " << b;
            else
                EXPECT_NEAR(a, b, 1e-6 * (1 + std::abs(a))) << text << " at " << toIso(t);
        }
    }
    EXPECT_GT(compared, 500);
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
