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
    const InPieces work{expressions, spec, inputs,
                        [&](TimeRange, std::vector<Value> v) { together.push_back(std::move(v)); }};
    ASSERT_TRUE(evaluateEachInPieces({&work, 1}, range));
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

TEST(Pieces, OfSeveralAssetsComeInOrderAsEachGivesAlone) {
    const std::vector<Record> records{randomRecord(11), randomRecord(12), randomRecord(13)};
    const TimeRange range{records[0].x.times.front(), records[0].x.times.front() + 12 * kDay};
    const std::vector<Expression> expressions{*compileExpression("slope(@x over 3h) > 0", recordNames()),
                                              *compileExpression("elapsed(@x > 0) > 2h", recordNames())};
    // Cut finely, coarsely, and not at all.
    const std::vector<PieceSpec> specs{{31 * kHour, 3 * kHour}, {5 * kDay, 3 * kHour}, {}};
    std::vector<std::vector<TimeRange>> parts(3);
    std::vector<std::optional<Value>> joined(3);
    std::vector<std::size_t> order;
    std::vector<InPieces> works;
    for (std::size_t a = 0; a < 3; ++a)
        works.push_back({{&expressions[a == 2 ? 1 : 0], 1},
                         specs[a],
                         [&, a](TimeRange reach) { return std::make_unique<PartOf>(records[a], reach); },
                         [&, a](TimeRange part, std::vector<Value> v) {
                             order.push_back(a);
                             parts[a].push_back(part);
                             if (joined[a])
                                 appendPiece(*joined[a], part, v.front());
                             else
                                 joined[a] = std::move(v.front());
                         }});
    std::vector<double> shares;
    ASSERT_TRUE(evaluateEachInPieces(works, range, 4, [&](double share) {
        shares.push_back(share);
        return true;
    }));
    EXPECT_TRUE(std::is_sorted(order.begin(), order.end()));
    EXPECT_EQ(parts[0].size(), 10u);  // 12 d by 31 h
    EXPECT_EQ(parts[1].size(), 3u);
    EXPECT_EQ(parts[2], (std::vector<TimeRange>{range}));
    EXPECT_TRUE(std::is_sorted(shares.begin(), shares.end()));
    EXPECT_DOUBLE_EQ(shares.back(), 1);
    for (std::size_t a = 0; a < 3; ++a) {
        PartOf whole(records[a], {range.from - 2 * kDay, range.to + kDay});
        const auto alone = evaluate(expressions[a == 2 ? 1 : 0], whole, range);
        ASSERT_TRUE(alone);
        for (Instant t = range.from; t < range.to; t += 7 * kMinute)
            ASSERT_EQ(conditionAt(std::get<Condition>(*joined[a]), t),
                      conditionAt(std::get<Condition>(*alone), t))
                << a << " " << toIso(t);
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
