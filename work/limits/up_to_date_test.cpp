// Excursions and limits that know what they were made from: they say when it changed, and are made again in
// one step.
#include "work/limits/up_to_date.h"

#include <gtest/gtest.h>

#include "store/history.h"
#include "work/mend/mending.h"
#include "work/runs/runs_fixture.h"

namespace jacinth {
namespace {

class UpToDate : public RunsTest {
  protected:
    void screenNow() {
        track = find();
        golden(track, 6);
        auto set = makeLimits(*study, "L", track, {"temp"}, byPhases());
        keepLimits(*study, *set);
        keepExcursions(*study, track, {}, screenTrack(*study, track, "L", {}));
    }
    FixId shift(int run, double by) {
        Fix fix;
        fix.tag = study->catalog().tagAt("Kiln 1/Temp")->id;
        const Span span = study->tracks().spans(track)[static_cast<std::size_t>(run)];
        fix.body = ShiftFix{by};
        fix.from = span.start, fix.to = span.end;
        fix.why = "test";
        return *enterFix(*study, fix);
    }
    std::string old() { return excursionsOutOfDate(*study, track); }
    std::size_t excursions() { return excursionsOfRuns(*study, track).size(); }
    TrackId track;
};

TEST_F(UpToDate, AFixInARunMakesItsExcursionsOldAndTheyAreMadeAgain) {
    screenNow();
    EXPECT_EQ(old(), "");
    ASSERT_EQ(excursions(), 1u);  // the hot run
    const FixId fix = shift(7, -15);
    EXPECT_NE(old().find("screened before the fix of"), std::string::npos) << old();
    EXPECT_NE(old().find("on Kiln 1/Temp"), std::string::npos) << old();
    EXPECT_TRUE(limitsOutOfDate(*study, track).empty()) << "the hot run is not golden";
    const auto made = makeAgain(*study, track);
    ASSERT_TRUE(made);
    EXPECT_TRUE(made->limits.empty());
    EXPECT_EQ(made->before, 1u);
    EXPECT_EQ(made->after, excursions());
    EXPECT_EQ(old(), "");
    ASSERT_TRUE(switchFix(*study, fix, false));
    EXPECT_EQ(old(), "a fix was changed since the runs were screened");
}

TEST_F(UpToDate, LimitsFromAMendedGoldenRunComeInANewVersionAndAllIsOneStep) {
    screenNow();
    shift(0, 4);
    ASSERT_EQ(limitsOutOfDate(*study, track).size(), 1u);
    EXPECT_EQ(limitsOutOfDate(*study, track)[0].first, "L");
    const auto made = makeAgain(*study, track);
    ASSERT_TRUE(made);
    EXPECT_EQ(made->limits, std::vector<std::string>{"L 2"});
    EXPECT_EQ(made->after, excursions());
    EXPECT_TRUE(limitsOutOfDate(*study, track).empty());
    EXPECT_EQ(old(), "");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().limitSets().size(), 1u);
    EXPECT_NE(old(), "");
    EXPECT_EQ(excursions(), 1u);
}

TEST_F(UpToDate, StoppedItChangesNothing) {
    screenNow();
    shift(0, 4);
    int calls = 0;
    const auto made = makeAgain(*study, track, Which::Mended, Progress([&](double) { return ++calls < 3; }));
    ASSERT_FALSE(made);
    EXPECT_TRUE(made.error().isCancelled());
    EXPECT_EQ(study->judgement().limitSets().size(), 1u);
    EXPECT_EQ(excursions(), 1u);
}

TEST_F(UpToDate, NewLimitsAndMovedRunsAreNamedAsWell) {
    screenNow();
    auto set = makeLimits(*study, "L", track, {"temp"}, byPhases());
    keepLimits(*study, *set);
    EXPECT_NE(old().find("screened before the limits L 2 of"), std::string::npos) << old();
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(old(), "");
    Span run = study->tracks().spans(track)[2];
    run.end += kMinute;
    study->tracks().updateSpan(run);
    EXPECT_EQ(old(), "the runs were changed since they were screened");
}

TEST_F(UpToDate, WithoutLimitsOrScreeningThereIsNothingToSay) {
    track = find();
    EXPECT_EQ(old(), "");
    EXPECT_FALSE(makeAgain(*study, track));
    EXPECT_FALSE(makeAgain(*study, TrackId()));
}

}  // namespace
}  // namespace jacinth
