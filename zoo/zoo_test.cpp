// The plants of the zoo are what they say, and the finder of false steps does on them about what the docs
// say.
#include <gtest/gtest.h>

#include <cmath>

#include "core/stats/stats.h"
#include "zoo/step_score.h"

namespace jacinth::zoo {
namespace {

class OfFamily : public testing::TestWithParam<int> {
  protected:
    Family family() const { return static_cast<Family>(GetParam()); }
};

std::string nameForTest(const testing::TestParamInfo<int>& info) {
    std::string out = nameOf(static_cast<Family>(info.param));
    std::erase(out, ' ');
    return out;
}

TEST_P(OfFamily, TheSameSeedMakesTheSamePlant) {
    const Plant a = makePlant(family(), 7), b = makePlant(family(), 7), other = makePlant(family(), 8);
    ASSERT_EQ(a.tags.size(), b.tags.size());
    EXPECT_GE(a.tags.size(), 3u);
    for (std::size_t i = 0; i < a.tags.size(); ++i) {
        EXPECT_EQ(a.tags[i].series.values, b.tags[i].series.values);
        EXPECT_GT(a.tags[i].noise, 0);
        EXPECT_GT(a.tags[i].series.size(), 4000u);
    }
    EXPECT_NE(a.tags[0].series.values, other.tags[0].series.values);
    EXPECT_GE(a.range.length(), 30 * kDay);
}

TEST_P(OfFamily, StepsLieApartAndAreOfTheSizeTheySay) {
    for (std::uint64_t seed = 1; seed <= 5; ++seed) {
        const Plant p = makePlant(family(), seed);
        EXPECT_GE(p.steps.size(), 2u);
        for (const TrueStep& s : p.steps) {
            EXPECT_GE(s.inNoise, 3);
            EXPECT_LE(s.inNoise, 20);
            EXPECT_NEAR(std::abs(s.size), s.inNoise * p.tags[s.tag].noise, 1e-9);
            EXPECT_TRUE(p.range.contains(s.time));
            if (s.returns) EXPECT_GT(*s.returns, s.time);
            for (const TrueStep& o : p.steps)
                if (o.time != s.time) EXPECT_GE(abs(o.time - s.time), kDay);
        }
    }
}

/// Bounds well below what finders_bench measures on many plants: three plants say little.
TEST_P(OfFamily, ClearStepsAreFoundAndFewOthers) {
    StepScore score;
    for (std::uint64_t seed = 101; seed <= 103; ++seed) {
        const Plant plant = makePlant(family(), seed);
        score.add(scoreOf(plant, stepsIn(plant)));
    }
    EXPECT_GE(score.strong.right + score.middle.right, 0.6 * (score.strong.of + score.middle.of));
    EXPECT_GE(score.inRange.right, 0.6 * score.inRange.of);
    EXPECT_LE(score.wrongPerAssetMonth(), 2);
}

INSTANTIATE_TEST_SUITE_P(Zoo, OfFamily, testing::Range(0, static_cast<int>(kFamilies)), nameForTest);

TEST(StepScores, TheTruthScoresAllAndNothingScoresNone) {
    const Plant plant = makePlant(Family::Continuous, 3);
    std::vector<SuspectedStep> truth;
    for (const TrueStep& t : plant.steps) {
        SuspectedStep s;
        s.tag = TagId(t.tag + 1);
        s.time = t.time;
        s.between = {t.time, t.time};
        s.size = t.size;
        s.error = 0.01;
        s.returns = t.returns;
        truth.push_back(s);
    }
    const StepScore all = scoreOf(plant, truth), none = scoreOf(plant, {});
    const int steps = static_cast<int>(plant.steps.size());
    EXPECT_EQ(all.strong.right + all.middle.right + all.weak.right, steps);
    EXPECT_EQ(all.sized.right, steps);
    EXPECT_EQ(all.inRange.right, steps);
    EXPECT_EQ(all.wrong, 0);
    EXPECT_EQ(none.strong.right + none.middle.right + none.weak.right, 0);
    EXPECT_EQ(none.strong.of + none.middle.of + none.weak.of, steps);
    truth[0].tag = TagId(truth[0].tag.number % 3 + 2);
    EXPECT_EQ(scoreOf(plant, truth).wrong, 1);
}

}  // namespace
}  // namespace jacinth::zoo
