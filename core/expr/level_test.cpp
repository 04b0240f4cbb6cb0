// A signal compared with levels: by blocks or knot by knot, the condition is the same.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/base/missing.h"
#include "core/expr/signal.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

constexpr std::array<Comparison, 6> kComparisons{Comparison::Less,    Comparison::LessEqual,
                                                 Comparison::Greater, Comparison::GreaterEqual,
                                                 Comparison::Equal,   Comparison::NotEqual};

/// Values from 0 to 9 in whole steps, so that levels are met exactly, with quiet stretches and gaps.
Signal anySignal(std::mt19937& random, bool stepped, std::size_t n) {
    Signal out;
    out.stepped = stepped;
    Instant t{};
    double v = 5;
    for (std::size_t i = 0; i < n; ++i) {
        t += kSecond + Duration(random() % 1'000'000'000);
        if (random() % 40 == 0) v = random() % 10;
        if (random() % 3 == 0 && i / 100 % 2 == 0) v = std::clamp(v + (random() % 2 ? 1 : -1), 0.0, 9.0);
        out.times.edit().push_back(t);
        out.values.edit().push_back(random() % 90 == 0 ? kMissing : v);
    }
    return out;
}

Truth truthOf(double v, Comparison c, double level) {
    if (std::isnan(v)) return Truth::Unknown;
    const bool is = c == Comparison::Less           ? v < level
                    : c == Comparison::LessEqual    ? v <= level
                    : c == Comparison::Greater      ? v > level
                    : c == Comparison::GreaterEqual ? v >= level
                    : c == Comparison::Equal        ? v == level
                                                    : v != level;
    return is ? Truth::True : Truth::False;
}

class Levels : public ::testing::TestWithParam<unsigned> {};

TEST_P(Levels, ByBlocksIsKnotByKnot) {
    std::mt19937 random(GetParam());
    for (const std::size_t n : {0u, 1u, 2u, 63u, 64u, 65u, 66u, 128u, 129u, 1000u}) {
        const Signal x = anySignal(random, GetParam() % 2, n);
        const BlockExtremes extremes(x);
        for (const double level : {-1.0, 0.0, 3.0, 4.5, 9.0, 20.0})
            for (const Comparison c : kComparisons) {
                const Condition plain = compareWithLevel(x, level, c),
                                quick = compareWithLevel(x, level, c, &extremes);
                ASSERT_EQ(plain.times, quick.times) << n << " knots, level " << level;
                ASSERT_EQ(plain.values, quick.values) << n << " knots, level " << level;
            }
    }
}

TEST_P(Levels, SayAtEveryKnotAndBetweenWhatTheValueSays) {
    std::mt19937 random(GetParam() + 50);
    const Signal x = anySignal(random, GetParam() % 2, 500);
    for (const double level : {0.0, 4.0, 4.5})
        for (const Comparison c : kComparisons) {
            const Condition condition = compareWithLevel(x, level, c);
            for (std::size_t i = 0; i + 1 < x.times.size(); ++i) {
                ASSERT_EQ(conditionAt(condition, x.times[i]), truthOf(x.values[i], c, level)) << i;
                const Instant between = x.times[i] + (x.times[i + 1] - x.times[i]) * 37 / 100;
                ASSERT_EQ(conditionAt(condition, between), truthOf(signalAt(x, between), c, level)) << i;
            }
            for (std::size_t i = 1; i < condition.values.size(); ++i)
                ASSERT_NE(condition.values[i - 1], condition.values[i]) << "nothing is put down twice";
        }
}

TEST_P(Levels, TheOtherWayRoundIsTheSame) {
    std::mt19937 random(GetParam() + 90);
    const Signal x = anySignal(random, false, 300);
    for (const Comparison c : kComparisons) {
        const Condition left = compareWithZero(combine(constantSignal(4), x, Operator::Subtract), c);
        const Condition right = compareWithLevel(x, 4, mirrored(c));
        EXPECT_EQ(left.times, right.times);
        EXPECT_EQ(left.values, right.values);
    }
}

TEST_P(Levels, LastingIsTrueWhereItSurelyHeldAndUnknownWhereItMayHave) {
    std::mt19937 random(GetParam() + 130);
    const Condition c = compareWithLevel(anySignal(random, true, 300), 5, Comparison::GreaterEqual);
    const Duration d = 5 * kSecond;
    const Condition lasts = lasting(c, d);
    for (Instant t = c.times.front() + d + kSecond; t < c.times.back() + 10 * kSecond;
         t += 130 * kMillisecond) {
        // What the condition was at all moments of (t − d, t], by its changes in there.
        bool sure = conditionAt(c, t - d) == Truth::True, may = conditionAt(c, t - d) != Truth::False;
        for (std::size_t i = 0; i < c.times.size(); ++i)
            if (c.times[i] > t - d && c.times[i] <= t) {
                sure &= c.values[i] == Truth::True;
                may &= c.values[i] != Truth::False;
            }
        ASSERT_EQ(conditionAt(lasts, t), sure  ? Truth::True
                                         : may ? Truth::Unknown
                                               : Truth::False)
            << toIso(t);
    }
}

INSTANTIATE_TEST_SUITE_P(Seeds, Levels, ::testing::Range(1u, 7u));

}  // namespace
}  // namespace jacinth
