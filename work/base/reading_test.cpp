// What the study is read by for calculations: values on a step, over what time an expression has a value, and
// work side by side on connections of its own.
#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>
#include <nlohmann/json.hpp>
#include <set>
#include <stdexcept>

#include "core/time/times_for_tests.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "work/base/expression_reach.h"
#include "work/base/on_step.h"
#include "work/base/side_by_side.h"
#include "work/base/study_fixture.h"

namespace jacinth {
namespace {

class Reading : public NewStudy {
  protected:
    void fill() override {
        Catalog& catalog = study->catalog();
        asset = catalog.addAsset("Press 1");
        temp = catalog.addTag(asset, "Temp", "°C", TagKind::Continuous);
        mode = catalog.addTag(asset, "Mode", "", TagKind::State);
        slow = catalog.addTag(asset, "Slow", "%", TagKind::Continuous);
        empty = catalog.addTag(asset, "Empty", "%", TagKind::Continuous);
        Series t, m, s;
        for (int i = 0; i < 600; ++i)
            if (i < 200 || i >= 400) t.push(at(i * kMinute), i);
        m.push(at(kHour), 0);
        m.push(at(3 * kHour), 1);
        for (int h = 2; h < 40; ++h) s.push(at(h * kHour), h);
        study->samples().write(temp, t);
        study->samples().write(mode, m);
        study->samples().write(slow, s);
        catalog.setSpacing(temp, kMinute);
        catalog.setSpacing(slow, kHour);
    }
    std::vector<double> onStep(TagId tag, TimeRange range, Duration step, Which which = Which::Mended) {
        return valuesOnStep(*study, *study->catalog().tag(tag), range, step, which);
    }
    ExpressionReach reach(const std::string& text) {
        const auto e = compileExpression(text, namesIn(*study, asset));
        EXPECT_TRUE(e) << text << ": " << e.error().message;
        return reachOf(*study, *e, asset);
    }
    AssetId asset;
    TagId temp, mode, slow, empty;
};

TEST_F(Reading, OnAStepValuesLieOnTheLinesBetweenSamples) {
    const auto v = onStep(temp, {at(kMinute / 2), at(5 * kMinute)}, kMinute);
    ASSERT_EQ(v.size(), 5u);
    for (std::size_t i = 0; i < v.size(); ++i) EXPECT_NEAR(v[i], static_cast<double>(i) + 0.5, 1e-12);
    EXPECT_TRUE(onStep(temp, {at(kHour), at(kHour)}, kMinute).empty());
    EXPECT_EQ(onStep(temp, {at(0), at(kHour) + kNanosecond}, kHour).size(), 2u) << "the end is not in it";
}

TEST_F(Reading, OnAStepNothingIsKnownInAGapAndBeforeTheRecord) {
    const auto v = onStep(temp, {at(-kHour), at(10 * kHour)}, 10 * kMinute);
    for (std::size_t i = 0; i < v.size(); ++i) {
        const int minute = static_cast<int>(i) * 10 - 60;
        const bool known = minute >= 0 && minute <= 599 && (minute <= 199 || minute >= 400);
        EXPECT_EQ(std::isfinite(v[i]), known) << minute;
        if (known) EXPECT_NEAR(v[i], minute, 1e-9);
    }
}

TEST_F(Reading, OnAStepAStateHolds) {
    const auto v = onStep(mode, {at(0), at(5 * kHour)}, 30 * kMinute);
    for (std::size_t i = 0; i < v.size(); ++i) {
        const double hour = static_cast<double>(i) / 2;
        if (hour < 1)
            EXPECT_TRUE(std::isnan(v[i])) << hour;
        else
            EXPECT_EQ(v[i], hour < 3 ? 0 : 1) << hour;
    }
}

TEST_F(Reading, OnAStepFixesCountOnlyInMendedData) {
    Fix fix;
    fix.tag = temp;
    fix.body = ShiftFix{100};
    fix.from = at(0);
    fix.to = at(kDay);
    fix.why = "offset";
    study->change("fix", "", {}, [&] { study->judgement().addFix(fix); });
    const TimeRange range{at(0), at(3 * kMinute)};
    EXPECT_EQ(onStep(temp, range, kMinute), (std::vector<double>{100, 101, 102}));
    EXPECT_EQ(onStep(temp, range, kMinute, Which::AsLogged), (std::vector<double>{0, 1, 2}));
}

TEST_F(Reading, AnExpressionReachesAsFarAsItsTagsTogether) {
    const ExpressionReach one = reach("@temp");
    EXPECT_EQ(one.range.from, at(0));
    EXPECT_GT(one.range.to, at(599 * kMinute));
    EXPECT_LE(one.range.to, at(600 * kMinute));
    EXPECT_EQ(one.spacing, kMinute);
    const ExpressionReach both = reach("@temp + mean(@slow over 3h)");
    EXPECT_EQ(both.range.from, at(0));
    EXPECT_GT(both.range.to, at(39 * kHour));
    EXPECT_EQ(both.spacing, kMinute) << "the finest of them";
    const Duration gap = study->catalog().tag(temp)->bridging().longestGap;
    EXPECT_EQ(both.longestGap, std::min(gap, study->catalog().tag(slow)->bridging().longestGap));
    EXPECT_EQ(both.margin, study->catalog().tag(slow)->bridging().longestGap) << "over which lines may reach";
}

TEST_F(Reading, WithoutSamplesItIsTheWholeRecord) {
    const ExpressionReach none = reach("@empty");
    EXPECT_EQ(none.range, study->record());
    EXPECT_GT(none.longestGap, Duration::zero());
    EXPECT_EQ(reach("3 > 2").range, study->record());
}

TEST_F(Reading, SideBySideEveryPieceOfWorkIsDoneOnce) {
    std::mutex mutex;
    std::multiset<std::size_t> done;
    std::set<Study*> with;
    forEachSideBySide(*study, 200, [&](Study& mine, std::size_t i) {
        const double first = valuesOnStep(mine, *mine.catalog().tag(temp), {at(i * kMinute), at(kDay)}, kDay,
                                          Which::AsLogged)[0];
        const std::lock_guard lock(mutex);
        done.insert(i);
        with.insert(&mine);
        EXPECT_EQ(first, static_cast<double>(i));
        EXPECT_TRUE(&mine == study.get() || mine.readOnly());
    });
    EXPECT_EQ(done.size(), 200u);
    for (std::size_t i = 0; i < 200; ++i) EXPECT_EQ(done.count(i), 1u) << i;
    forEachSideBySide(*study, 0, [](Study&, std::size_t) { FAIL() << "nothing was asked"; });
}

TEST_F(Reading, SideBySideWhatIsThrownComesOutAndTheRestIsLeft) {
    for (const std::size_t bad : {std::size_t{0}, std::size_t{7}, std::size_t{999}}) {
        std::atomic<int> done{0};
        EXPECT_THROW(forEachSideBySide(*study, 1000,
                                       [&](Study&, std::size_t i) {
                                           if (i == bad) throw std::runtime_error("no");
                                           ++done;
                                       }),
                     std::runtime_error);
        EXPECT_LT(done, 1000);
    }
}

}  // namespace
}  // namespace jacinth
