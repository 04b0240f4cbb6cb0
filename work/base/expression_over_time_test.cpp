// What is evaluated in pieces is what is evaluated as a whole.
#include "work/base/expression_over_time.h"

#include <gtest/gtest.h>

#include <atomic>
#include <cmath>

#include "core/expr/evaluate.h"
#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "work/base/study_fixture.h"

namespace jacinth {
namespace {

/// Forty days of one asset: a tag every 10 s with two gaps and a bad stretch, a held one every hour, states.
class OverTime : public NewStudy {
  protected:
    void fill() override {
        const auto asset = study->catalog().addAsset("Press 1");
        const auto temp = study->catalog().addTag(asset, "Temp", "°C", TagKind::Continuous);
        const auto load = study->catalog().addTag(asset, "Load", "", TagKind::Stepped);
        const auto step = study->catalog().addTag(asset, "Step", "", TagKind::State);
        for (const char* name : {"Rest", "Hot"}) study->catalog().addState(step, name);
        Series temps, loads, steps;
        for (Duration t{}; t < 40 * kDay; t += 10 * kSecond) {
            const bool gap = (t > 7 * kDay && t < 8 * kDay) || (t > 20 * kDay && t < 26 * kDay);
            if (gap) continue;
            const Quality q = t > 12 * kDay && t < 12 * kDay + 3 * kHour ? Quality::Bad : Quality::Good;
            temps.push(at(t),
                       50 + 20 * std::sin(toHours(t) / 5) + static_cast<double>(t / kSecond % 70) / 100, q);
        }
        for (Duration t{}; t < 40 * kDay; t += kHour) loads.push(at(t), static_cast<double>(t / kHour % 9));
        for (Duration t{}; t < 40 * kDay; t += 5 * kHour)
            steps.push(at(t), static_cast<double>(t / (5 * kHour) % 2));
        study->samples().write(temp, temps);
        study->samples().write(load, loads);
        study->samples().write(step, steps);
        study->catalog().setSpacing(temp, 10 * kSecond);
        study->catalog().setSpacing(load, kHour);
        study->catalog().setSpacing(step, 5 * kHour);
    }
    AssetId asset() const { return study->catalog().assetNamed("Press 1")->id; }
    Expression compiled(const std::string& text) const {
        auto e = compileExpression(text, namesIn(*study, asset()));
        EXPECT_TRUE(e) << text << (e ? "" : ": " + e.error().message);
        return *e;
    }
    static bool near(const std::vector<TimeRange>& a, const std::vector<TimeRange>& b) {
        return a.size() == b.size() &&
               std::equal(a.begin(), a.end(), b.begin(), [](const TimeRange& x, const TimeRange& y) {
                   return std::chrono::abs(x.from - y.from) <= Duration(100) &&
                          std::chrono::abs(x.to - y.to) <= Duration(100);  // ns: rounding of sums
               });
    }
};

TEST_F(OverTime, PiecesGiveTheStretchesAndTheCoverageOfTheWhole) {
    const TimeRange record = study->record();
    for (const char* text :
         {"@temp > 60", "mean(@temp over 6h) > 55", "slope(@temp over 3h) > 1 for 20m",
          "@load > 5 and @temp < 50", "@step is \"Hot\" and mean(@temp over 2h) > 50", "missing(@temp)",
          "elapsed(@step is \"Hot\") > 2h", "count(@temp over 1d) < 8000", "delay(@temp, 1d) > @temp",
          "stuck(@load over 3h)"}) {
        const Expression e = compiled(text);
        StudyInputs inputs(*study, asset(), record, e.lookBack, Which::Mended);
        const auto whole = evaluate(e, inputs, record);
        ASSERT_TRUE(whole) << text;
        const auto pieces = ExpressionOverTime(*study, Which::Mended).evaluate(asset(), e, record);
        ASSERT_TRUE(pieces) << text;
        const auto expected = stretches(std::get<Condition>(*whole), record);
        EXPECT_TRUE(near(stretches(std::get<Condition>(pieces->value), record), expected)) << text;
        EXPECT_TRUE(near(pieces->covered, inputs.covered())) << text;
    }
}

TEST_F(OverTime, ANumberHasTheSameValueEverywhere) {
    const TimeRange record = study->record();
    const Expression e = compiled("mean(@temp over 4h) - @load");
    StudyInputs inputs(*study, asset(), record, e.lookBack, Which::Mended);
    const Signal whole = std::get<Signal>(*evaluate(e, inputs, record));
    const Signal pieces =
        std::get<Signal>(ExpressionOverTime(*study, Which::Mended).evaluate(asset(), e, record)->value);
    for (Instant t; t < record.to; t += 17 * kMinute) {
        const double a = signalAt(whole, t), b = signalAt(pieces, t);
        ASSERT_EQ(std::isnan(a), std::isnan(b)) << toIso(t);
        if (!std::isnan(a)) ASSERT_NEAR(a, b, 1e-8) << toIso(t);
    }
}

TEST_F(OverTime, ItCanBeStoppedAndReportsItsShare) {
    std::vector<double> shares;
    ExpressionOverTime evaluator(*study, Which::Mended);
    const Expression e = compiled("mean(@temp over 1h) > 55");
    ASSERT_TRUE(evaluator.evaluate(asset(), e, study->record(), [&](double share) {
        shares.push_back(share);
        return true;
    }));
    ASSERT_GT(shares.size(), 3u);
    EXPECT_TRUE(std::is_sorted(shares.begin(), shares.end()));
    EXPECT_DOUBLE_EQ(shares.back(), 1);
    const auto stopped =
        evaluator.evaluate(asset(), e, study->record(), [&](double share) { return share < 0.3; });
    ASSERT_FALSE(stopped);
    EXPECT_TRUE(stopped.error().isCancelled());
    // And again, with the connections that there are.
    EXPECT_TRUE(evaluator.evaluate(asset(), e, study->record()));
}

}  // namespace
}  // namespace jacinth
