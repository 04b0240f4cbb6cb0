// Several expressions about one asset give what each of them gives alone, and read each tag once.
#include <gtest/gtest.h>

#include "core/expr/record_fixture.h"

namespace jacinth {
namespace {

/// Counts how often each tag is asked for.
class CountedInputs : public PartOf {
  public:
    using PartOf::PartOf;
    Result<Signal> role(const std::string& name) override {
        ++asked[name];
        return name == "gone" ? Result<Signal>(Error{"it is gone"}) : PartOf::role(name);
    }
    std::map<std::string, int> asked;
};

std::vector<Expression> compiled(const std::vector<std::string>& texts) {
    Names names = recordNames();
    names.roles["gone"] = {TagKind::Continuous, "", {}, kHour};
    std::vector<Expression> out;
    for (const std::string& text : texts) {
        const auto e = compileExpression(text, names);
        EXPECT_TRUE(e) << text << ": " << e.error().message;
        if (e) out.push_back(*e);
    }
    return out;
}

TEST(EvaluateEach, GivesWhatEachGivesAlone) {
    const std::vector<Expression> rules =
        compiled({"@x > 2", "mean(@x over 2h) > 1", "mean(@x over 2h) > 3", "mean(@x over 7h) > 1 and @s > 1",
                  "slope(@x over 5h) > 0 for 1h", "not @x > 2", "@x * @s > 4", "@x", "elapsed(@x > 5) > 1h"});
    for (unsigned seed = 1; seed <= 3; ++seed) {
        const Record record = randomRecord(seed);
        const TimeRange range{record.x.times.front(), record.x.times.back() + kHour};
        PartOf inputs(record, {range.from - kDay, range.to});
        std::size_t next = 0;
        const Status done = evaluateEach(rules, inputs, range, [&](std::size_t i, Value value) {
            ASSERT_EQ(i, next++) << "in order";
            PartOf own(record, {range.from - kDay, range.to});
            const auto alone = evaluate(rules[i], own, range);
            ASSERT_TRUE(alone);
            if (const auto* c = std::get_if<Condition>(&*alone)) {
                EXPECT_EQ(std::get<Condition>(value).times, c->times) << i;
                EXPECT_EQ(std::get<Condition>(value).values, c->values) << i;
                return;
            }
            for (Instant t = range.from; t < range.to; t += 3571 * kSecond) {
                const double a = signalAt(std::get<Signal>(value), t),
                             b = signalAt(std::get<Signal>(*alone), t);
                EXPECT_TRUE(a == b || (std::isnan(a) && std::isnan(b))) << i;
            }
        });
        ASSERT_TRUE(done);
        EXPECT_EQ(next, rules.size());
    }
}

TEST(EvaluateEach, ReadsWhatTheyShareOnce) {
    const Record record = randomRecord(1);
    const TimeRange range{record.x.times.front(), record.x.times.back()};
    CountedInputs inputs(record, range);
    int taken = 0;
    ASSERT_TRUE(evaluateEach(compiled({"@x > 1", "@x > 2", "mean(@x over 1h) > 1", "@s > 1 or @x > 3"}),
                             inputs, range, [&](std::size_t, const Value&) { ++taken; }));
    EXPECT_EQ(taken, 4);
    EXPECT_EQ(inputs.asked["x"], 1);
    EXPECT_EQ(inputs.asked["s"], 1);
}

TEST(EvaluateEach, EndsWithTheFirstThatCannotBeAndWhenStopped) {
    const Record record = randomRecord(1);
    const TimeRange range{record.x.times.front(), record.x.times.back()};
    CountedInputs inputs(record, range);
    int taken = 0;
    const auto take = [&](std::size_t, const Value&) { ++taken; };
    const Status wrong = evaluateEach(compiled({"@x > 1", "@gone > 2", "@x > 3"}), inputs, range, take);
    ASSERT_FALSE(wrong);
    EXPECT_EQ(wrong.error().message, "it is gone");
    EXPECT_EQ(taken, 1) << "what was there before is handed over";
    const Status stopped = evaluateEach(compiled({"@x > 1", "@x > 2"}), inputs, range, take,
                                        Progress([](double) { return false; }));
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, ErrorKind::Cancelled);
    EXPECT_TRUE(evaluateEach({}, inputs, range, take));
}

}  // namespace
}  // namespace jacinth
