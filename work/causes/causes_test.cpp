// Recorded events as causes, and what is done about a cause, in a small study.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/causes/act_on_cause.h"
#include "work/causes/recorded_events.h"
#include "work/limits/up_to_date.h"

namespace jacinth {
namespace {

class SmallCauses : public NewStudy {
  protected:
    void fill() override {
        one = study->catalog().addAsset("Kiln 1");
        two = study->catalog().addAsset("Kiln 2");
        rh = study->catalog().addTag(one, "RH", "%", TagKind::Continuous);
        add("Failures", track_kind::kFailures, one, 100 * kHour, 100 * kHour, {{"kind", "fan bearing"}});
        add("Stops", track_kind::kStops, one, 100 * kHour, 106 * kHour, {{"reason", "bearing failed"}});
        add("Source alarms", track_kind::kAlarms, one, 99 * kHour, 100 * kHour, {{"text", "bearing hot"}});
        add("Source alarms", track_kind::kAlarms, two, 99 * kHour, 100 * kHour, {{"text", "flame"}});
        add("Source alarms", track_kind::kAlarms, one, 200 * kHour, 200 * kHour + kMinute,
            {{"text", "flame"}});
        add("Shift log", track_kind::kLog, one, 50 * kHour, 50 * kHour, {{"text", "all well"}});
    }
    void add(const char* name, const char* kind, AssetId asset, Duration from, Duration to,
             const Facts& facts) {
        study->tracks().addSpan(study->tracks().put(name, kind), {{}, asset, {}, at(from), at(to), facts});
    }
    KeptExcursion excursion(Duration from, Duration to) {
        const TrackId track = study->tracks().put("Excursions", track_kind::kExcursions);
        Span span{{}, one, rh, at(from), at(to), {{"role", "rh"}, {"side", "high"}, {"run", 7.0}}};
        span.id = study->tracks().addSpan(track, span);
        return excursionsOf(*study).back();
    }
    AssetId one, two;
    TagId rh;
};

TEST_F(SmallCauses, WhatTouchesOnOneAssetIsOneEventAndSaysTheWorstFirst) {
    const std::vector<Cause> events = eventCauses(*study);
    ASSERT_EQ(events.size(), 3u) << "the shift log does not count as evidence, and Kiln 2 has its own";
    EXPECT_EQ(events[0].why, "Failures: fan bearing; Stops: bearing failed; Source alarms: bearing hot");
    EXPECT_EQ(events[0].range, between(99 * kHour, 106 * kHour));
    EXPECT_EQ(events[0].windows, (std::vector<TimeRange>{between(76 * kHour, 108 * kHour)}))
        << "a day before";
    EXPECT_EQ(events[1].windows[0].from, at(200 * kHour - 30 * kMinute));
    EXPECT_EQ(events[2].asset, two);
    EXPECT_EQ(causeTitle(*study, events[0]), "Kiln 1: Failures: fan bearing");
}

TEST_F(SmallCauses, ALongEventDisturbsThePhasesItFallsIn) {
    const std::vector<Cause> events = eventCauses(*study);
    const auto piece = [](Duration from, Duration to) {
        return RunScale::Piece{between(from, to), Place(from), Place(to)};
    };
    const RunScale run({piece(90 * kHour, 104 * kHour), piece(104 * kHour, 112 * kHour)});
    EXPECT_EQ(windowsIn(events[0], run), (std::vector<TimeRange>{between(76 * kHour, 112 * kHour)}));
    const RunScale later({piece(190 * kHour, 201 * kHour), piece(201 * kHour, 210 * kHour)});
    EXPECT_EQ(windowsIn(events[1], later), events[1].windows) << "a minute does not stretch a phase";
}

Cause stepOf(TagId tag, AssetId asset, TimeRange range, double size) {
    Cause out;
    out.id = 1;
    out.asset = asset;
    out.tags = {tag};
    out.range = range;
    out.effects = {{tag, range, {{}, {size}}}};
    return out;
}

TEST_F(SmallCauses, AStepIsAShiftAgainstItUntilItReturns) {
    const TimeRange range = between(10 * kHour, 20 * kHour);
    const auto fixes = fixesOf(*study, stepOf(rh, one, range, 4.5), "knocked");
    ASSERT_EQ(fixes.size(), 1u);
    EXPECT_DOUBLE_EQ(std::get<ShiftFix>(fixes[0].body).by, -4.5);
    EXPECT_EQ(fixes[0].from, range.from);
    EXPECT_EQ(fixes[0].to, range.to - kNanosecond) << "both ends of a fix are in it";
    Cause shaped = stepOf(rh, one, range, 4.5);
    shaped.effects[0].shape.values = {1, 2};
    EXPECT_TRUE(fixesOf(*study, shaped, "").empty())
        << "what depends on the place in the run cannot be taken out by a shift";
    Cause process = stepOf(rh, one, range, 4.5);
    process.kind = CauseKind::Process;
    EXPECT_TRUE(fixesOf(*study, process, "").empty());
}

TEST_F(SmallCauses, ExcursionsAreSetApartWithAReasonAsOneStep) {
    study->change("excursions", "", {},
                  [&] { excursion(11 * kHour, 12 * kHour), excursion(13 * kHour, 14 * kHour); });
    FoundCauses found;
    found.causes = {stepOf(rh, one, between(10 * kHour, 20 * kHour), 4.5)};
    for (const Duration from : {11 * kHour, 13 * kHour}) {
        Excursion e;
        e.start = at(from), e.end = at(from + kHour);
        found.excursions.push_back({SpanId(7), "rh", rh, e, 1, 1.0});
    }
    found.excursions[1].cause = 0;
    EXPECT_FALSE(setApart(*study, found, found.causes[0], "  "));
    const auto before = excursionsOf(*study);
    const auto apart = setApart(*study, found, found.causes[0], "known");
    ASSERT_TRUE(apart);
    EXPECT_EQ(*apart, 1u);
    EXPECT_EQ(excursionsOf(*study)[0].dismissed, "known");
    EXPECT_EQ(excursionsOf(*study)[1].dismissed, "") << "of another cause";
    EXPECT_FALSE(setApart(*study, found, found.causes[0], "again")) << "none is left";
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(excursionsOf(*study)[0].dismissed, "");
    EXPECT_EQ(whatCleared(*study, before, {before[0]}), "1 excursion of RH on Kiln 1 gone");
    EXPECT_EQ(whatCleared(*study, {}, before), "2 excursions of RH on Kiln 1 new");
    EXPECT_EQ(whatCleared(*study, before, before), "the same excursions as before");
}

TEST_F(SmallCauses, WithoutLimitsNoneCanBeMadeLikeThem) {
    const auto set = limitsFromCauseOn(*study, {}, stepOf(rh, one, between(0, kDay), 1), TrackId(1), "");
    ASSERT_FALSE(set);
    EXPECT_NE(set.error().message.find("no limits"), std::string::npos);
}

}  // namespace
}  // namespace jacinth
