// Moments of a relation: taken out by a fix, remembered, forgotten; what no fix takes out says so.
#include "work/mend/relation_moments.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "work/base/study_fixture.h"
#include "work/mend/mending.h"

namespace jacinth {
namespace {

/// 200 hours of a tag that follows its companion, 4 higher from hour 120 on.
class Moments : public NewStudy {
  protected:
    void fill() override {
        const AssetId kiln = study->catalog().addAsset("Kiln 1");
        y = study->catalog().addTag(kiln, "RH", "%", TagKind::Stepped);
        x = study->catalog().addTag(kiln, "RH twin", "%", TagKind::Stepped);
        std::mt19937 random(5);
        std::normal_distribution<double> normal;
        Series a, b;
        for (int i = 0; i < 1200; ++i) {  // each ten minutes
            const double v = 50 + 10 * std::sin(i / 50.0);
            b.push(at(i * 10 * kMinute), v);
            a.push(at(i * 10 * kMinute), 1.1 * v + 0.2 * normal(random) + (i >= 720 ? 4 : 0));
        }
        study->samples().write(y, a);
        study->samples().write(x, b);
    }
    RelationQuestion question() {
        RelationQuestion q;
        q.of = y;
        q.on = {x};
        q.every = {Period::Unit::Length, kHour};
        q.search = {0.001, {IndicatorKind::Level}};
        return q;
    }
    TagId x, y;
};

TEST_F(Moments, ALevelIsTakenOutByAShiftAndNotFoundAgain) {
    const auto made = checkRelation(*study, question());
    ASSERT_TRUE(made);
    ASSERT_EQ(made->relation.found.size(), 1u);
    const FoundIndicator& moment = made->relation.found[0];
    EXPECT_EQ(made->values.size(), made->times.size());
    EXPECT_EQ(rowOfMoment(*made, moment).from, at(120 * kHour));
    EXPECT_EQ(rowOfMoment(*made, moment).to, at(121 * kHour));
    auto fix = fixOfMoment(*study, question(), *made, moment);
    ASSERT_TRUE(fix);
    EXPECT_NEAR(std::get<ShiftFix>(fix->body).by, -4, 0.2);
    EXPECT_EQ(fix->from, at(120 * kHour));
    EXPECT_EQ(fix->to, study->record().to);
    EXPECT_NE(fix->why.find("against Kiln 1/RH twin the level changes by +"), std::string::npos) << fix->why;
    ASSERT_TRUE(enterFix(*study, *fix));
    EXPECT_TRUE(checkRelation(*study, question())->relation.found.empty());
}

TEST_F(Moments, AnEventIsRememberedOnceAndForgotten) {
    const auto made = checkRelation(*study, question());
    ASSERT_TRUE(made);
    const FoundIndicator& moment = made->relation.found.at(0);
    EXPECT_FALSE(judgedMoments(*study, question(), *made)[0]);
    EXPECT_FALSE(rememberMoment(*study, question(), *made, moment, " "));
    ASSERT_TRUE(rememberMoment(*study, question(), *made, moment, "new fan"));
    const auto judged = judgedMoments(*study, question(), *made);
    ASSERT_TRUE(judged[0]);
    EXPECT_EQ(judged[0]->why, "new fan");
    ASSERT_TRUE(forgetMoment(*study, question(), *made, moment));
    EXPECT_FALSE(judgedMoments(*study, question(), *made)[0]);
}

TEST_F(Moments, EachKindHasItsFix) {
    const auto made = checkRelation(*study, question());
    ASSERT_TRUE(made);
    FoundIndicator moment = made->relation.found.at(0);
    RelationQuestion q = question();
    const auto fixOf = [&] { return fixOfMoment(*study, q, *made, moment); };
    moment.kind = IndicatorKind::Point;
    EXPECT_EQ(fixOf()->kind(), FixKind::Hide);
    EXPECT_EQ(fixOf()->to, at(121 * kHour) - kNanosecond);
    moment.kind = IndicatorKind::Trend;
    moment.size = 0.01, moment.error = 0.001;
    const Fix ramp = *fixOf();
    EXPECT_EQ(ramp.kind(), FixKind::Ramp);
    EXPECT_NEAR(std::get<RampFix>(ramp.body).endBy, -0.01 * static_cast<double>(made->times.size() - 121),
                0.05);
    q.differences = true;
    EXPECT_FALSE(fixOf()) << "a bend";
    moment.kind = IndicatorKind::Level;
    EXPECT_EQ(fixOf()->kind(), FixKind::Ramp);
    moment.kind = IndicatorKind::Point;
    EXPECT_EQ(fixOf()->kind(), FixKind::Shift);
    q.logarithms = true;
    ASSERT_FALSE(fixOf());
    EXPECT_NE(fixOf().error().message.find("factor"), std::string::npos);
}

}  // namespace
}  // namespace jacinth
