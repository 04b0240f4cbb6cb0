// Excursions and limits that know what they were made from: they say when it changed, and are made again in
// one step.
#include "work/limits/up_to_date.h"

#include <gtest/gtest.h>

#include "store/history.h"
#include "store/imports.h"
#include "store/sample_store.h"
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

TEST_F(UpToDate, SamplesThatCameOrWentInTheirRunsMakeThemOld) {
    screenNow();
    const auto limits = [&] {
        const auto all = limitsOutOfDate(*study, track);
        return all.empty() ? std::string() : all[0].second;
    };
    const std::vector<Span> runs = study->tracks().spans(track);
    const Tag temp = *study->catalog().tagAt("Kiln 1/Temp");
    const auto put = [&](TimeRange range, double value) {
        WriteBatch batch(*study);
        ImportRecord record;
        record.file = "more.csv", record.kind = "wide";
        record.id = study->imports().begin(record);
        Series s;
        s.push(range.from + range.length() / 2 + kMillisecond, value);
        PreparedWrite write = study->samples().prepare(temp.id, s);
        SampleStore::code(write);
        EXPECT_TRUE(study->samples().apply(write));
        study->imports().keepPart(record.id, write);
        batch.commit();
        return record.id;
    };
    put({study->record().to + kDay, study->record().to + 2 * kDay}, 5);
    EXPECT_EQ(old() + limits(), "") << "a later day makes nothing old";
    const ImportId golden = put(runs[1].range(), 90);
    EXPECT_EQ(limits(),
              "samples in their golden runs were imported, replaced or removed since they were made");
    EXPECT_EQ(old(), "samples in the runs were imported, replaced or removed since they were screened");
    ASSERT_TRUE(makeAgain(*study, track));
    EXPECT_EQ(old() + limits(), "");
    ASSERT_TRUE(study->imports().remove(golden, ""));
    EXPECT_NE(limits(), "") << "what was removed is missed as well";
    EXPECT_NE(old(), "");
}

TEST_F(UpToDate, HowTagsAreReadIsPartOfIt) {
    screenNow();
    const auto limits = [&] {
        const auto all = limitsOutOfDate(*study, track);
        return all.empty() ? std::string() : all[0].second;
    };
    Tag temp = *study->catalog().tagAt("Kiln 1/Temp");
    temp.longestGap = 7 * kMinute;
    study->change("gap", "", {}, [&] { study->catalog().updateTag(temp); });
    EXPECT_NE(limits().find("how their tags are read was changed"), std::string::npos) << limits();
    EXPECT_NE(old(), "");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(old() + limits(), "");
    study->setSetting(kSoundDataOnly, "yes");
    EXPECT_NE(limits().find("sound data"), std::string::npos) << limits();
    EXPECT_NE(old(), "");
    study->setSetting(kSoundDataOnly, "no");
    EXPECT_EQ(old() + limits(), "");
}

TEST_F(UpToDate, AClockThatMovesSamplesIntoARunIsSeen) {
    screenNow();
    const std::vector<Span> runs = study->tracks().spans(track);
    Fix clock;
    clock.tag = study->catalog().tagAt("Kiln 1/Temp")->id;
    // Logged between two runs, and moved into the second.
    clock.from = runs[1].end + kSecond, clock.to = runs[2].start - kSecond;
    clock.body = ClockFix{runs[2].start - runs[1].end};
    clock.why = "test";
    ASSERT_TRUE(enterFix(*study, clock));
    EXPECT_NE(old(), "");
    EXPECT_FALSE(limitsOutOfDate(*study, track).empty());
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
