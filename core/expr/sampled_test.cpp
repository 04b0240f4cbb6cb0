// What a derived tag is kept as says the same as the expression.
#include "core/expr/sampled.h"

#include <gtest/gtest.h>

#include "core/expr/pieces.h"
#include "core/expr/record_fixture.h"
#include "core/series/value_at.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

Series samplesOf(const Expression& expression, const Record& all, TimeRange range, Duration longestGap,
                 Duration piece) {
    Sampler sampler(longestGap);
    Series out;
    const Status done = evaluateInPieces(
        expression, range, {expression.lookBack >= kAllBefore ? Duration() : piece, 3 * kHour},
        [&](TimeRange reach) { return std::make_unique<PartOf>(all, reach); },
        [&](TimeRange part, const Value& value) {
            sampler.add(part, value);
            out.append(sampler.take());
        });
    EXPECT_TRUE(done);
    sampler.finish(range.to);
    out.append(sampler.take());
    return out;
}

class Sampled : public ::testing::TestWithParam<const char*> {};

TEST_P(Sampled, ReadBackAreTheValueThroughout) {
    for (unsigned seed = 1; seed <= 3; ++seed) {
        const Record all = randomRecord(seed);
        const TimeRange range{all.x.times.front(), all.x.times.back() + kNanosecond};
        const auto expression = compileExpression(GetParam(), recordNames());
        ASSERT_TRUE(expression) << expression.error().message;
        PartOf whole(all, {range.from - kDay, range.to + kDay});
        const auto expected = evaluate(*expression, whole, range);
        ASSERT_TRUE(expected);
        const Duration longestGap = 40 * kMinute;
        const Series samples = samplesOf(*expression, all, range, longestGap, 31 * kHour + 17 * kMinute);
        for (std::size_t i = 1; i < samples.size(); ++i) ASSERT_LT(samples.times[i - 1], samples.times[i]);
        const Condition* c = std::get_if<Condition>(&*expected);
        const bool held = c || std::get<Signal>(*expected).stepped;
        const Bridging bridging{held ? TagKind::Stepped : TagKind::Continuous, longestGap};
        const Signal back = signalOf(samples, bridging, range.from);
        ValueWalk walk(samples.view(), bridging);
        int known = 0;
        for (Instant t = range.from + 7 * kSecond; t < range.to; t += 611 * kSecond) {
            double want = 0;
            if (c) {
                const Truth truth = conditionAt(*c, t);
                want = truth == Truth::Unknown ? std::nan("") : truth == Truth::True ? 1 : 0;
            } else {
                want = signalAt(std::get<Signal>(*expected), t);
            }
            known += std::isfinite(want);
            for (const double got : {signalAt(back, t), walk.at(t)}) {
                ASSERT_EQ(std::isnan(want), std::isnan(got)) << toIso(t);
                if (!std::isnan(want)) ASSERT_NEAR(want, got, 1e-6 * (1 + std::abs(want))) << toIso(t);
            }
        }
        EXPECT_GT(known, 1000);
    }
}

INSTANTIATE_TEST_SUITE_P(Expressions, Sampled,
                         ::testing::Values("@x", "@x + @s", "@s * 2", "sqrt(@x)", "1 / (@s - 2)",
                                           "mean(@x over 5h)", "elapsed(@x > 9)", "median(@x over 4h) - @x",
                                           "@x > 3 for 20m", "@x > 0", "missing(@x)", "@s > 1",
                                           "if(@x > 0, @x, @s)"));

TEST(Sampler, FillsLongLinesAndMarksEnds) {
    Signal line;
    line.times = instants(0, 10 * kHour, 10 * kHour + kNanosecond, 20 * kHour);
    line.values = {0, 10, std::nan(""), 5};
    Sampler sampler(3 * kHour);
    sampler.add(between(0, 21 * kHour), line);
    sampler.finish(at(21 * kHour));
    const Series s = sampler.take();
    EXPECT_EQ(s.times, (instants(0, 5 * kHour / 2, 5 * kHour, 15 * kHour / 2, 10 * kHour,
                                 10 * kHour + kNanosecond, 20 * kHour)));
    EXPECT_NEAR(s.values[1], 2.5, 1e-12);
    EXPECT_NEAR(s.values[3], 7.5, 1e-12);
    EXPECT_TRUE(s.view().ends(5));
    EXPECT_FALSE(s.view().usable(5));
    EXPECT_TRUE(s.view().usable(6));
}

TEST(Sampler, HoldsUpToTheEndAndNothingIsKnownBeforeTheFirst) {
    Condition c;
    c.push(at(0), Truth::Unknown);
    c.push(at(kHour), Truth::True);
    Sampler sampler(2 * kHour);
    sampler.add(between(0, 2 * kHour), c);
    Condition later;
    later.push(at(2 * kHour), Truth::True);
    sampler.add(between(2 * kHour, 6 * kHour), later);
    sampler.finish(at(6 * kHour));
    const Series s = sampler.take();
    ASSERT_GE(s.size(), 3u);
    EXPECT_EQ(s.times.front(), at(kHour));
    EXPECT_GE(s.times.back(), at(4 * kHour));
    EXPECT_LT(s.times.back(), at(6 * kHour));
    for (const double v : s.values) EXPECT_EQ(v, 1);
}

}  // namespace
}  // namespace jacinth
