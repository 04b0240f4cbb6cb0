// Piece by piece gives what the whole record gives.
#include "core/expr/pieces.h"

#include <gtest/gtest.h>

#include "core/expr/record_fixture.h"

namespace jacinth {
namespace {

class Pieces : public ::testing::TestWithParam<const char*> {};

TEST_P(Pieces, GiveTheSameAsTheWhole) {
    for (unsigned seed = 1; seed <= 4; ++seed) {
        const Record all = randomRecord(seed);
        const TimeRange range{all.x.times.front(), all.x.times.back() + kHour};
        const auto expression = compileExpression(GetParam(), recordNames());
        ASSERT_TRUE(expression) << expression.error().message;
        PartOf whole(all, {range.from - kDay, range.to + kDay});
        const auto expected = evaluate(*expression, whole, range);
        ASSERT_TRUE(expected);
        std::optional<Value> joined;
        Instant last = range.from;
        const Status done = evaluateInPieces(
            *expression, range, {31 * kHour + 17 * kMinute, 3 * kHour},
            [&](TimeRange reach) { return std::make_unique<PartOf>(all, reach); },
            [&](TimeRange part, const Value& value) {
                EXPECT_EQ(part.from, last);  // in order, without holes
                last = part.to;
                if (joined)
                    appendPiece(*joined, part, value);
                else
                    joined = value;
            });
        ASSERT_TRUE(done);
        EXPECT_EQ(last, range.to);
        for (Instant t = range.from + 7 * kSecond; t < range.to; t += 613 * kSecond) {
            if (const auto* c = std::get_if<Condition>(&*expected)) {
                ASSERT_EQ(conditionAt(std::get<Condition>(*joined), t), conditionAt(*c, t)) << toIso(t);
                continue;
            }
            const double a = signalAt(std::get<Signal>(*expected), t),
                         b = signalAt(std::get<Signal>(*joined), t);
            ASSERT_EQ(std::isnan(a), std::isnan(b)) << toIso(t);
            if (!std::isnan(a)) ASSERT_NEAR(a, b, 1e-7 * (1 + std::abs(a))) << toIso(t);
        }
    }
}

INSTANTIATE_TEST_SUITE_P(Expressions, Pieces,
                         ::testing::Values("@x", "@x + @s", "mean(@x over 5h)", "slope(@x over 3h) * 2",
                                           "sd(@x over 90m)", "median(@x over 4h)", "delay(@x, 40m)",
                                           "mean(@s over 6h)", "@x > 3 for 20m",
                                           "slope(@x over 6h) > 0.2 and mean(@x over 2h) < 1", "missing(@x)",
                                           "share(@x > 0 over 7h) > 0.5",
                                           "max(@x over 2h) - min(@s over 3h)"));

TEST(Pieces, SeveralAtOnceGiveWhatEachGivesAlone) {
    const Record all = randomRecord(6);
    const TimeRange range{all.x.times.front(), all.x.times.back() + kHour};
    const PieceSpec spec{31 * kHour + 17 * kMinute, 3 * kHour};
    const auto inputs = [&](TimeRange reach) { return std::make_unique<PartOf>(all, reach); };
    std::vector<Expression> expressions;
    for (const char* text : {"mean(@x over 5h) > 1", "mean(@x over 5h) > 2 for 30m", "@s > 3", "@x + @s"})
        expressions.push_back(*compileExpression(text, recordNames()));
    std::vector<std::vector<Value>> together;
    ASSERT_TRUE(evaluateEachInPieces(expressions, range, spec, inputs, [&](TimeRange, std::vector<Value> v) {
        together.push_back(std::move(v));
    }));
    for (std::size_t i = 0; i < expressions.size(); ++i) {
        std::size_t piece = 0;
        ASSERT_TRUE(
            evaluateInPieces(expressions[i], range, spec, inputs, [&](TimeRange part, const Value& v) {
                const Value& other = together.at(piece++)[i];
                if (const auto* c = std::get_if<Condition>(&v)) {
                    // The longest look-back of all is read before each piece: nothing else may differ.
                    EXPECT_EQ(stretches(*c, part), stretches(std::get<Condition>(other), part));
                    return;
                }
                for (Instant t = part.from; t < part.to; t += 11 * kMinute) {
                    const double a = signalAt(std::get<Signal>(v), t),
                                 b = signalAt(std::get<Signal>(other), t);
                    ASSERT_TRUE(a == b || (std::isnan(a) && std::isnan(b))) << toIso(t);
                }
            }));
        EXPECT_EQ(piece, together.size());
    }
}

TEST(Pieces, WhatNeedsAllBeforeIsNotCut) {
    EXPECT_EQ(piecesFor(*compileExpression("elapsed(@x > 0)", recordNames()), kMinute, kHour).length,
              Duration());
    EXPECT_GT(piecesFor(*compileExpression("mean(@x over 30d)", recordNames()), kMinute, kHour).length,
              100 * kDay);
}

TEST(Pieces, StopWhenAsked) {
    const Record all = randomRecord(9);
    const auto expression = compileExpression("@x", recordNames());
    int taken = 0;
    const Status done = evaluateInPieces(
        *expression, {all.x.times.front(), all.x.times.back()}, {kDay, kHour},
        [&](TimeRange reach) { return std::make_unique<PartOf>(all, reach); },
        [&](TimeRange, const Value&) { ++taken; }, 2, [](double) { return false; });
    EXPECT_FALSE(done);
    EXPECT_EQ(taken, 1);
}

}  // namespace
}  // namespace jacinth
