// What Mend lists beside its fixes: stuck stretches, samples one by one, levels on both sides of a step.
#include <gtest/gtest.h>

#include <cmath>

#include "core/time/times_for_tests.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "work/base/study_fixture.h"
#include "work/mend/level_change.h"
#include "work/mend/mending.h"
#include "work/mend/sample_rows.h"
#include "work/mend/stuck_search.h"

namespace jacinth {
namespace {

/// A day of two tags, a sample a minute. RH stands still from 06:00 to 08:00, and is 5 higher from 12:00 on.
class Lists : public NewStudy {
  protected:
    void fill() override {
        const AssetId kiln = study->catalog().addAsset("Kiln 1");
        study->catalog().addAsset("Kiln 2");
        rh = study->catalog().addTag(kiln, "RH", "%", TagKind::Continuous);
        twin = study->catalog().addTag(kiln, "RH twin", "%", TagKind::Continuous);
        Series a, b;
        for (int m = 0; m < 1440; ++m) {
            const double v = 50 + std::round(10 * std::sin(m * 1.7)) / 10;
            a.push(at(m * kMinute), (m >= 360 && m < 480 ? 50.3 : v) + (m >= 720 ? 5 : 0));
            b.push(at(m * kMinute), v);
        }
        study->samples().write(rh, a);
        study->samples().write(twin, b);
    }
    Fix shift(Duration from, Duration to, double by) {
        Fix fix;
        fix.tag = rh;
        fix.body = ShiftFix{by};
        fix.from = at(from), fix.to = at(to);
        fix.why = "step";
        return fix;
    }
    const Tag& tag() { return *study->catalog().tag(rh); }
    TagId rh, twin;
};

TEST_F(Lists, AStuckStretchNamesWhatMovedBesideIt) {
    const auto found = findStuck(*study, {});
    ASSERT_TRUE(found);
    ASSERT_EQ(found->size(), 1u);
    EXPECT_EQ((*found)[0].tag, rh);
    EXPECT_EQ((*found)[0].stretch.range.from, at(6 * kHour));
    EXPECT_EQ((*found)[0].stretch.range.to, at(8 * kHour - kMinute));
    EXPECT_EQ((*found)[0].beside, twin);
    EXPECT_NEAR((*found)[0].besideMoved, 2, 0.01);
    const std::string said = stuckSentence(*study, (*found)[0]);
    EXPECT_NE(said.find("Kiln 1/RH reads 50.3 % for 1 h 59 min (120 samples"), std::string::npos) << said;
    EXPECT_NE(said.find("RH twin moved by 2 % meanwhile"), std::string::npos) << said;
}

TEST_F(Lists, WhatIsStuckIsLookedForWhereItIsAskedFor) {
    StuckQuestion question;
    question.tag = twin;
    EXPECT_TRUE(findStuck(*study, question)->empty());
    question.tag = {};
    question.assets = {study->catalog().assets()[1].id};
    EXPECT_TRUE(findStuck(*study, question)->empty());
    question.assets = {};
    question.range = between(9 * kHour, 20 * kHour);
    EXPECT_TRUE(findStuck(*study, question)->empty());
    question.range = {};
    question.search.least = 3 * kHour;
    EXPECT_TRUE(findStuck(*study, question)->empty());
    EXPECT_FALSE(findStuck(*study, {}, Progress([](double) { return false; })));
}

TEST_F(Lists, AStuckStretchThatIsHiddenIsNotFoundAgain) {
    Fix hide = shift(6 * kHour, 8 * kHour, 0);
    hide.body = HideFix{};
    ASSERT_TRUE(enterFix(*study, hide));
    EXPECT_TRUE(findStuck(*study, {})->empty());
}

TEST_F(Lists, SamplesStandAsLoggedBesideAsMended) {
    const FixId id = *enterFix(*study, shift(60 * kMinute, 62 * kMinute, -2));
    const SampleRows rows =
        samplesIn(*study, tag(), between(kHour - kMinute, kHour + 4 * kMinute), at(kHour));
    ASSERT_EQ(rows.rows.size(), 5u);
    EXPECT_TRUE(rows.rows[0].fixes.empty());
    EXPECT_EQ(rows.rows[0].logged, rows.rows[0].mended);
    ASSERT_EQ(rows.rows[1].fixes, std::vector<FixId>{id});
    EXPECT_DOUBLE_EQ(rows.rows[1].mended, rows.rows[1].logged - 2);
    EXPECT_EQ(rows.rows[3].fixes.size(), 1u);
    EXPECT_TRUE(rows.rows[4].fixes.empty());
}

TEST_F(Lists, HiddenCutFilledAndMovedSamplesAllShow) {
    Fix fix = shift(60 * kMinute, 61 * kMinute, 0);
    fix.body = HideFix{{{at(61 * kMinute), at(61 * kMinute)}}};
    const FixId hidden = *enterFix(*study, fix);
    fix = shift(63 * kMinute, 63 * kMinute, 0);
    fix.body = CutFix{};
    ASSERT_TRUE(enterFix(*study, fix));
    fix = shift(66 * kMinute, 66 * kMinute, 0);
    fix.body = ClockFix{30 * kSecond};
    ASSERT_TRUE(enterFix(*study, fix));
    const SampleRows rows = samplesIn(*study, tag(), between(60 * kMinute, 68 * kMinute), at(kHour));
    const auto rowAt = [&](Duration d) {
        for (const SampleRow& row : rows.rows)
            if (row.time == at(d)) return row;
        ADD_FAILURE();
        return SampleRow{};
    };
    EXPECT_TRUE(rowAt(60 * kMinute).fixes.empty()) << "the fix hides one of its two samples";
    EXPECT_EQ(rowAt(61 * kMinute).fixes, std::vector<FixId>{hidden});
    EXPECT_EQ(rowAt(61 * kMinute).loggedQuality, Quality::Good);
    EXPECT_EQ(rowAt(61 * kMinute).mendedQuality, Quality::Bad);
    EXPECT_TRUE(rowAt(63 * kMinute).isLogged);
    EXPECT_FALSE(std::isfinite(rowAt(63 * kMinute).mended));
    EXPECT_FALSE(rowAt(66 * kMinute).isMended);
    EXPECT_FALSE(rowAt(66 * kMinute + 30 * kSecond).isLogged);
    EXPECT_DOUBLE_EQ(rowAt(66 * kMinute + 30 * kSecond).mended, rowAt(66 * kMinute).logged);
}

TEST_F(Lists, OfManySamplesThoseAboutTheMomentAreGiven) {
    const SampleRows rows = samplesIn(*study, tag(), between(0, kDay), at(20 * kHour), 200);
    EXPECT_EQ(rows.rows.size(), 200u);
    EXPECT_EQ(rows.rows.front().time, rows.range.from);
    EXPECT_LT(rows.rows.back().time, rows.range.to);
    EXPECT_TRUE(rows.range.contains(at(20 * kHour)));
    EXPECT_TRUE(samplesIn(*study, tag(), between(2 * kDay, 3 * kDay), at(2 * kDay)).rows.empty());
}

TEST_F(Lists, AStepIsMeasuredOnBothSidesOfItsStart) {
    const Fix fix = shift(12 * kHour, kDay, 0);
    const auto change = levelChangeAtEnds(*study, fix, 2 * kHour);
    ASSERT_TRUE(change);
    EXPECT_NEAR(change->size, 5, 0.2);
    EXPECT_NEAR(change->before.value, 50, 0.2);
    EXPECT_GT(change->error, 0);
    EXPECT_NEAR(change->takenOutBy(), -5, 0.2);
    EXPECT_EQ(toErrorDigits(5.0371, 0.13), 5.0);
    EXPECT_EQ(toErrorDigits(537.1, 13), 540);
    EXPECT_EQ(toErrorDigits(5.0371, 0), 5.0371);
}

TEST_F(Lists, AStepThatReturnsIsMeasuredAtBothEnds) {
    ASSERT_TRUE(enterFix(*study, shift(18 * kHour, kDay, -5)));  // back from 18:00 on
    const Fix fix = shift(12 * kHour, 18 * kHour - kMinute, 0);
    const auto both = levelChangeAtEnds(*study, fix, 2 * kHour);
    ASSERT_TRUE(both);
    EXPECT_NEAR(both->size, 5, 0.2);
    const auto one =
        levelChange(*study, fix, between(10 * kHour, 12 * kHour), between(12 * kHour, 14 * kHour));
    EXPECT_LT(both->error, one->error);
}

TEST_F(Lists, TwoStretchesByHandAndWhatIsTooShort) {
    const Fix fix = shift(12 * kHour, kDay, 0);
    const auto change =
        levelChange(*study, fix, between(8 * kHour, 10 * kHour), between(20 * kHour, 22 * kHour));
    ASSERT_TRUE(change);
    EXPECT_NEAR(change->size, 5, 0.2);
    const auto none = levelChange(*study, fix, between(8 * kHour, 8 * kHour + 2 * kMinute),
                                  between(20 * kHour, 22 * kHour));
    ASSERT_FALSE(none);
    EXPECT_NE(none.error().message.find("too few samples"), std::string::npos);
}

}  // namespace
}  // namespace jacinth
