// Golden limits over runs: lined up, versions, screening, and what follows from them.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/derived/derived_expressions.h"
#include "work/derived/derived_refresh.h"
#include "work/limits/compare_limits.h"
#include "work/limits/excursion_tables.h"
#include "work/limits/limit_lines.h"
#include "work/limits/screening.h"
#include "work/report/report.h"
#include "work/runs/edit_runs.h"
#include "work/runs/run_figures.h"
#include "work/runs/runs_fixture.h"
#include "work/settings/facts.h"

namespace jacinth {
namespace {

using LimitsOfRuns = RunsTest;

TEST_F(LimitsOfRuns, LineUpByPhasesNeedsPhases) {
    const auto track = find({"@step is not \"Idle\""}, false);
    golden(track, 6);
    EXPECT_EQ(proposedLimits(*study, track).lineUp, LineUp::Start);
    const auto limits = makeLimits(*study, "L", track, {"temp"}, byPhases());
    ASSERT_FALSE(limits);
    EXPECT_NE(limits.error().message.find("no phases"), std::string::npos);
    LimitSpec indicator = byPhases();
    indicator.lineUp = LineUp::Indicator;
    indicator.indicator = "nothing";
    EXPECT_FALSE(makeLimits(*study, "L", track, {"temp"}, indicator));
    LimitSpec even = byPhases();
    even.lineUp = LineUp::Start;
    even.smooth = 4;
    EXPECT_FALSE(makeLimits(*study, "L", track, {"temp"}, even));
}

TEST_F(LimitsOfRuns, PhasesLineUpRunsOfUnlikePace) {
    const auto track = find();
    golden(track, 6);
    LimitSpec byStart = byPhases();
    byStart.lineUp = LineUp::Start;
    const auto width = [](const GoldenLimits& g) {
        double widest = 0;
        for (const LimitSlice& s : g.slices)
            if (std::isfinite(s.low)) widest = std::max(widest, s.high - s.low);
        return widest;
    };
    const auto loose = makeLimits(*study, "L", track, {"temp"}, byStart);
    const auto tight = makeLimits(*study, "L", track, {"temp"}, byPhases());
    ASSERT_TRUE(loose && tight);
    EXPECT_GT(width(loose->byRole.at("temp")), 30);
    EXPECT_LT(width(tight->byRole.at("temp")), 8);  // samples on the whole minute, stretched
    ASSERT_EQ(tight->byRole.at("temp").phases.size(), 3u);
    EXPECT_EQ(tight->byRole.at("temp").phases[0].length, (60 + 12) * kMinute + 30 * kSecond);
    keepLimits(*study, *tight);
    const auto screened = screenTrack(*study, track, "L", {10 * kMinute, kMinute});
    for (const ScreenedRun& s : screened)
        EXPECT_EQ(!s.excursions.empty(), factNumber(s.run.facts, "number") == 8) << s.run.id;
}

TEST_F(LimitsOfRuns, ANewVersionReplacesTheOldUnlessItIsValidFromADate) {
    const auto track = find();
    golden(track, 6);
    const auto runs = study->tracks().spans(track);
    keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    LimitSet second = *makeLimits(*study, "L", track, {"temp"}, byPhases());
    second.validFrom = runs[4].start;
    keepLimits(*study, second);
    {
        const LimitChoice choice(*study, track, "L");
        ASSERT_EQ(choice.sets().size(), 2u);
        EXPECT_EQ(choice.of(runs[3]), 0);
        EXPECT_EQ(choice.of(runs[4]), 1);
    }
    keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    const LimitChoice choice(*study, track, "L");
    EXPECT_EQ(choice.of(runs[3]), 2);  // for all time: newer than the first
    EXPECT_EQ(choice.of(runs[5]), 1);  // the one valid from a date stays nearer
    EXPECT_EQ(study->judgement().limitSetNamed("L")->version, 3);
    EXPECT_EQ(study->judgement().limitSetNamed("L", 1)->version, 1);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().limitSetNamed("L")->version, 2);
}

TEST_F(LimitsOfRuns, LimitsOfAProductComeFromAndJudgeItsOwnRuns) {
    const auto track = find();
    golden(track, 6);
    const auto runs = study->tracks().spans(track);
    study->change("facts", "", {}, [&] {
        for (std::size_t i = 0; i < runs.size(); ++i) {
            Span s = runs[i];
            s.facts["product"] = std::string(i % 2 ? "Pale" : "Amber");
            study->tracks().updateSpan(s);
        }
    });
    const auto pale =
        makeLimits(*study, "pale", track, {"temp"}, byPhases(), Which::Mended, "product is \"Pale\"");
    ASSERT_TRUE(pale) << pale.error().message;
    EXPECT_EQ(pale->goldenRuns.size(), 3u);
    keepLimits(*study, *makeLimits(*study, "all", track, {"temp"}, byPhases()));
    keepLimits(*study, *pale);
    const LimitChoice choice(*study, track);
    EXPECT_EQ(choice.sets()[static_cast<std::size_t>(choice.of(runs[1]))].name, "pale");
    EXPECT_EQ(choice.sets()[static_cast<std::size_t>(choice.of(runs[2]))].name, "all");
    EXPECT_FALSE(makeLimits(*study, "x", track, {"temp"}, byPhases(), Which::Mended, "product is \"Wheat\""));
    EXPECT_FALSE(makeLimits(*study, "x", track, {"temp"}, byPhases(), Which::Mended, "prodct is \"Pale\""));
}

TEST_F(LimitsOfRuns, WhatWasDismissedStaysDismissedWhenScreenedAgain) {
    const auto track = find();
    golden(track, 6);
    keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    const ScreenSpec spec{10 * kMinute, kMinute};
    keepExcursions(*study, track, spec, screenTrack(*study, track, "L", spec));
    auto found = excursionsOf(*study);
    ASSERT_FALSE(found.empty());
    EXPECT_EQ(found[0].limits, "L 1");
    EXPECT_GE(found[0].peakTime, found[0].span.start);
    EXPECT_LE(found[0].peakTime, found[0].span.end);
    dismissExcursion(*study, found[0], "probe swapped");
    keepExcursions(*study, track, spec, screenTrack(*study, track, "L", spec));
    EXPECT_EQ(excursionsOf(*study)[0].dismissed, "probe swapped");
    dismissExcursion(*study, excursionsOf(*study)[0], "");
    EXPECT_EQ(excursionsOf(*study)[0].dismissed, "");
    EXPECT_EQ(study->history().undoName(), "take back excursion of Kiln 1/Temp");
}

TEST_F(LimitsOfRuns, TheReportDrawsTheCorridorOfEverySetHoweverItIsLinedUp) {
    const auto track = find();
    golden(track, 6);
    const ScreenSpec spec{10 * kMinute, kMinute};
    std::size_t sets = 0;
    for (const LineUp lineUp : {LineUp::Phases, LineUp::Start, LineUp::End}) {
        LimitSpec limits = byPhases();
        limits.lineUp = lineUp;
        const std::string name = std::string("by ") + lineUpName(lineUp);
        keepLimits(*study, *makeLimits(*study, name, track, {"temp"}, limits));
        keepExcursions(*study, track, spec, screenTrack(*study, track, name, spec));
        const std::string html = *reportHtml(*study);
        const std::size_t title = html.find("Golden limits " + name);
        ASSERT_NE(title, std::string::npos);
        const std::string points = "<polygon points='";
        const std::size_t corridor = html.find(points, title);
        ASSERT_NE(corridor, std::string::npos) << name;
        const std::size_t end = html.find('\'', corridor + points.size());
        // Upper and lower line over the whole run: a pair of numbers a slice and more.
        EXPECT_GT(end - corridor, 400u) << name;
        EXPECT_EQ(html.find("nan", corridor), std::string::npos) << name;
        ++sets;
    }
    EXPECT_EQ(study->judgement().limitSets().size(), sets);
}

TEST_F(LimitsOfRuns, TwoTracksOfRunsKeepTheirExcursionsApart) {
    const auto first = find();
    RunSearch search{"@step is \"Hold\""};
    const auto second = keepRuns(*study, "Holds", search, *findRuns(*study, search));
    const ScreenSpec spec{10 * kMinute, kMinute};
    for (const auto track : {first, second}) {
        golden(track, 6);
        LimitSpec limits;
        limits.every = 5 * kMinute;
        keepLimits(*study, *makeLimits(*study, "L" + std::to_string(track.number), track, {"temp"}, limits));
        keepExcursions(*study, track, spec, screenTrack(*study, track, "", spec));
    }
    const auto ofFirst = excursionsOfRuns(*study, first), ofSecond = excursionsOfRuns(*study, second);
    ASSERT_FALSE(ofFirst.empty());
    ASSERT_FALSE(ofSecond.empty());
    EXPECT_EQ(excursionsOf(*study).size(), ofFirst.size() + ofSecond.size());
    dismissExcursion(*study, ofFirst[0], "known");
    keepExcursions(*study, second, spec, screenTrack(*study, second, "", spec));
    EXPECT_EQ(excursionsOfRuns(*study, first).size(), ofFirst.size());
    EXPECT_EQ(excursionsOfRuns(*study, first)[0].dismissed, "known");
}

TEST_F(LimitsOfRuns, TooFewGoldenRunsAreSaid) {
    const auto track = find();
    golden(track, 2);
    const auto few = makeLimits(*study, "few", track, {"temp"}, byPhases());
    ASSERT_FALSE(few);
    EXPECT_NE(few.error().message.find("no slice has 3 golden runs"), std::string::npos)
        << few.error().message;
    LimitSpec tiny = byPhases();
    tiny.every = kNanosecond;
    EXPECT_NE(makeLimits(*study, "tiny", track, {"temp"}, tiny).error().message.find("take longer slices"),
              std::string::npos);
}

TEST_F(LimitsOfRuns, LimitsAreRenamedAndRemoved) {
    const auto track = find();
    golden(track, 5);
    for (int i = 0; i < 2; ++i) keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    ASSERT_TRUE(removeLimits(*study, "L", 1));
    ASSERT_EQ(study->judgement().limitSets().size(), 1u);
    ASSERT_TRUE(renameLimits(*study, "L", "M"));
    EXPECT_FALSE(study->judgement().limitSetNamed("L"));
    EXPECT_FALSE(removeLimits(*study, "L"));
    ASSERT_TRUE(removeLimits(*study, "M"));
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(study->judgement().limitSetNamed("M"));
}

TEST_F(LimitsOfRuns, LimitsAreLinesOverTimeForTheLanguage) {
    const auto track = find();
    golden(track, 6);
    keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    const auto runs = study->tracks().spans(track);
    const LimitLines lines = limitLines(*study, "L", "temp", AssetId(1), runs[7].range(), Which::Mended);
    const Instant hold = runs[7].start + 95 * kMinute + 60 * kMinute;
    EXPECT_NEAR(signalAt(lines.low, hold), 80.1, 0.5);
    EXPECT_LT(signalAt(lines.high, hold), 82);
    const auto outside = runsWhere(*study, track, "share(outside(\"L\", @temp)) > 0.3");
    ASSERT_TRUE(outside) << outside.error().message;
    EXPECT_EQ(*outside, std::vector{runs[7].id});
}

TEST_F(LimitsOfRuns, ExcursionsAreCountedByPhaseAndFact) {
    const auto track = find();
    golden(track, 6);
    study->change("facts", "", {}, [&] {
        for (Span s : study->tracks().spans(track)) {
            s.facts["shift"] = std::string(factNumber(s.facts, "number") > 4 ? "late" : "early");
            study->tracks().updateSpan(s);
        }
    });
    keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    const ScreenSpec spec{10 * kMinute, kMinute};
    keepExcursions(*study, track, spec, screenTrack(*study, track, "L", spec));
    const auto runs = study->tracks().spans(track);
    const auto found = excursionsOf(*study);
    ASSERT_FALSE(found.empty());
    double hours = 0;
    for (const KeptExcursion& e : found) hours += toHours(e.span.end - e.span.start);
    const auto byPhase = countExcursions(*study, runs, found, CountBy::Phase);
    ASSERT_FALSE(byPhase.empty());
    EXPECT_EQ(byPhase[0].name, "Hold");
    double shared = 0;
    for (const ExcursionCount& c : byPhase) shared += c.hours;
    EXPECT_NEAR(shared, hours, 1e-9);
    const auto byShift = countExcursions(*study, runs, found, CountBy::RunFact, "shift");
    ASSERT_EQ(byShift.size(), 2u);
    EXPECT_EQ(byShift[0].name, "late");
    EXPECT_EQ(byShift[0].runs, 1u);
    EXPECT_EQ(byShift[0].allRuns, 4u);
    EXPECT_EQ(byShift[1].count, 0u);
    EXPECT_TRUE(changeFacts(*study, {runs[0].asset}, {*factChange(*study, "line", "East")}));
    const auto byLine = countExcursions(*study, runs, found, CountBy::AssetGroup, "line");
    ASSERT_EQ(byLine.size(), 1u);
    EXPECT_EQ(byLine[0].name, "East");
    EXPECT_EQ(byLine[0].count, found.size());
    EXPECT_EQ(byLine[0].allRuns, runs.size());
    const auto weeks = countExcursions(*study, runs, found, CountBy::Week);
    double inWeeks = 0;
    std::size_t all = 0;
    for (const ExcursionCount& c : weeks) inWeeks += c.hours, all += c.allRuns;
    EXPECT_NEAR(inWeeks, hours, 1e-9);
    EXPECT_EQ(all, runs.size());
    EXPECT_EQ(countableFacts(runs), (std::vector<std::string>{"shift"}));
    EXPECT_TRUE(countExcursions(*study, {}, found, CountBy::Week).empty());
}

TEST_F(LimitsOfRuns, TwoMethodsAreHeldAgainstEachOther) {
    const auto track = find();
    golden(track, 6);
    LimitSpec narrow = byPhases(), wide = byPhases();
    narrow.k = 0.5;
    wide.method = LimitMethod::Tolerance;
    const auto a = makeLimits(*study, "narrow", track, {"temp"}, narrow);
    const auto b = makeLimits(*study, "wide", track, {"temp"}, wide);
    ASSERT_TRUE(a && b);
    const auto made = compareLimits(*study, *a, *b, "temp", {10 * kMinute, kMinute});
    ASSERT_TRUE(made);
    EXPECT_EQ(made->runs, 8u);
    EXPECT_EQ(made->both, std::vector{study->tracks().spans(track)[7].id});
    EXPECT_TRUE(made->onlyB.empty());
    EXPECT_FALSE(made->onlyA.empty());
    EXPECT_LT(made->widthA, made->widthB);
    EXPECT_GT(made->hoursA, made->hoursB);
    EXPECT_FALSE(compareLimits(*study, *a, *b, "step", {}));
    EXPECT_FALSE(compareLimits(*study, *a, *b, "temp", {}, Which::Mended, [](double) { return false; }));
}

TEST_F(LimitsOfRuns, LinedUpByATagThatRises) {
    const auto track = find();
    golden(track, 6);
    LimitSpec spec = byPhases();
    spec.lineUp = LineUp::Indicator;
    spec.indicator = "temp";
    spec.every = indicatorStep(10);
    const auto set = makeLimits(*study, "L", track, {"temp"}, spec);
    ASSERT_TRUE(set) << set.error().message;
    const GoldenLimits& g = set->byRole.at("temp");
    EXPECT_EQ(g.slices.front().offset, Place(indicatorStep(20)));
    for (const LimitSlice& s : g.slices)  // the tag against itself: at the place of 50 °C it reads 50 °C
        EXPECT_NEAR(s.centre, indicatorUnits(s.offset.time_since_epoch()), 1e-6);
}

TEST_F(LimitsOfRuns, LimitsAsTagsFollowTheNewestVersion) {
    const auto track = find();
    golden(track, 5);
    const auto keep = [&](double k) {
        LimitSpec spec = byPhases();
        spec.method = LimitMethod::MeanSd;
        spec.k = k;
        const auto set = makeLimits(*study, "Normal", track, {"temp"}, spec, Which::Mended);
        ASSERT_TRUE(set) << set.error().message;
        keepLimits(*study, *set);
    };
    keep(3);
    EXPECT_FALSE(keepLimitTags(*study, "Normal", "step"));
    EXPECT_FALSE(keepLimitTags(*study, "Nromal", "temp"));
    const auto ids = keepLimitTags(*study, "Normal", "temp");
    ASSERT_TRUE(ids) << ids.error().message;
    ASSERT_EQ(ids->size(), 2u);
    ASSERT_TRUE(refreshDerived(*study));
    const auto width = [&] {
        const Instant t = starts[1] + 100 * kMinute;
        return study->valueAt(*study->catalog().tagAt("Kiln 1/Temp high"), t, Which::Mended) -
               study->valueAt(*study->catalog().tagAt("Kiln 1/Temp low"), t, Which::Mended);
    };
    const double before = width();
    EXPECT_GT(before, 0);
    keep(6);
    const auto again = refreshDerived(*study);
    ASSERT_TRUE(again);
    EXPECT_EQ(again->made.size(), 2u);
    EXPECT_NEAR(width(), 2 * before, 1e-6);
    // And when another run is golden.
    golden(track, 6);
    keep(6);
    EXPECT_EQ(refreshDerived(*study)->made.size(), 2u);
}

}  // namespace
}  // namespace jacinth
