// Where a search begins, from what the tags did.
#include "work/prove/starting_ranges.h"

#include "core/expr/signal.h"
#include "core/stats/stats.h"
#include "work/base/expression_over_time.h"
#include "work/prove/proving_fixture.h"

namespace jacinth {
namespace {

class StartingRanges : public Proving {
  protected:
    std::vector<StartingSetting> of(const std::string& rule, Settings settings = {}) {
        ProveRequest request = asking(rule);
        request.settings = std::move(settings);
        auto found = startingRanges(*study, request);
        EXPECT_TRUE(found);
        return found ? *found : std::vector<StartingSetting>();
    }
};

TEST_F(StartingRanges, LieWhereTheMeasureLies) {
    const auto found = of("mean(@vib over {hours}h) > {limit}");
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0].vary.name, "hours");
    EXPECT_EQ(found[0].value, 6);
    // What an expression by itself says of the same tag.
    const auto fleet = compileRule(*study, "mean(@vib over 6h)", "");
    ASSERT_TRUE(fleet);
    std::vector<double> all;
    ExpressionOverTime evaluator(*study, Which::Mended);
    for (const auto& [asset, expression] : fleet->byAsset) {
        const auto value = evaluator.evaluate(asset.id, expression, study->record());
        ASSERT_TRUE(value);
        for (Instant t = study->record().from; t < study->record().to; t += 10 * kMinute)
            all.push_back(signalAt(std::get<Signal>(value->value), t));
    }
    std::erase_if(all, [](double v) { return !std::isfinite(v); });
    const double top = quantile(all, 0.99), middle = quantile(all, 0.5);
    const Vary& limit = found[1].vary;
    const double step = (limit.high - limit.low) / (limit.steps - 1);
    EXPECT_NEAR(found[1].value, top, 1.5 * step);
    EXPECT_NEAR(limit.low, middle, 1.5 * step);
    EXPECT_NE(found[1].from.find("2 assets"), std::string::npos) << found[1].from;
}

TEST_F(StartingRanges, TheOtherSettingsCount) {
    const auto raw = of("@vib * {times} > {limit}", {{"times", 10}, {"limit", 3}});
    const auto plain = of("@vib * {times} > {limit}", {{"times", 1}, {"limit", 3}});
    ASSERT_EQ(raw.size(), 2u);
    EXPECT_NEAR(raw[1].value, 10 * plain[1].value, 1e-6 * raw[1].value);
}

TEST_F(StartingRanges, AreAroundTheNumberWhereNothingCanBeMeasured) {
    for (const char* rule :
         {"@vib > 3 and abs({x}) > 3", "@nothing > {x}", "`No/Tag` < {x}", "@vib > > {x}"}) {
        const auto found = of(rule, {{"x", 8}});
        ASSERT_EQ(found.size(), 1u) << rule;
        EXPECT_EQ(found[0].vary.low, 4) << rule;
        EXPECT_EQ(found[0].vary.high, 16) << rule;
    }
    EXPECT_TRUE(of("@vib > 3").empty());
}

TEST_F(StartingRanges, CanBeStopped) {
    ProveRequest request = asking("@vib > {limit}");
    EXPECT_FALSE(startingRanges(*study, request, [](double) { return false; }));
}

}  // namespace
}  // namespace jacinth
