// Runs with phases, their figures, and which golden limits judge them.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "work/compare_limits.h"
#include "work/derived_expressions.h"
#include "work/derived_refresh.h"
#include "work/edit_runs.h"
#include "work/excursion_tables.h"
#include "work/limit_lines.h"
#include "work/report.h"
#include "work/run_figures.h"
#include "work/screening.h"
#include "work/study_fixture.h"

namespace jacinth {
namespace {

/// One kiln, eight runs: Heat of 60 + 5·run min, Hold of 120 min, Cool of 60 min, an hour idle between. The
/// temperature rises from 20 to 80 in Heat, stays, falls in Cool; run 7 is 15 too hot in Hold.
class RunsTest : public NewStudy {
  protected:
    void fill() override {
        const auto asset = study->catalog().addAsset("Kiln 1");
        const auto temp = study->catalog().addTag(asset, "Temp", "°C", TagKind::Continuous);
        const auto step = study->catalog().addTag(asset, "Step", "", TagKind::State);
        for (const char* name : {"Idle", "Heat", "Hold", "Cool"}) study->catalog().addState(step, name);
        Series temps, steps;
        int minute = 0;
        const auto phase = [&](int state, int minutes, double from, double to) {
            steps.push(minute * kMinute, state);
            for (int m = 0; m < minutes; ++m, ++minute)
                temps.push(minute * kMinute, from + (to - from) * m / minutes);
        };
        for (int run = 0; run < 8; ++run) {
            const double wobble = 0.1 * (run % 3);
            phase(0, 60, 20, 20);
            starts.push_back(minute * kMinute);
            phase(1, 60 + 5 * run, 20, 80 + wobble);
            const double hot = run == 7 ? 15 : 0;
            phase(2, 120, 80 + wobble + hot, 80 + wobble + hot);
            phase(3, 60, 80 + wobble, 20);
        }
        phase(0, 60, 20, 20);
        study->samples().write(temp, temps);
        study->samples().write(step, steps);
        study->catalog().setSpacing(temp, kMinute);
    }
    std::int64_t find(RunSearch search = {"@step is not \"Idle\""}, bool phases = true) {
        if (phases && search.phases.empty()) search.phases = phasesSuggestedBy(*study, search.where);
        auto found = findRuns(*study, search);
        EXPECT_TRUE(found) << found.error().message;
        return keepRuns(*study, "Runs", search, *found);
    }
    void golden(std::int64_t track, std::size_t n) {
        std::vector<std::int64_t> ids;
        for (const Span& s : study->spans(track))
            if (ids.size() < n) ids.push_back(s.id);
        study->change("golden", "", {}, [&] { study->setGoldenRuns(track, ids, "first ones"); });
    }
    LimitSpec byPhases() const {
        LimitSpec spec;
        spec.every = 5 * kMinute;
        spec.lineUp = LineUp::Phases;
        return spec;
    }
    std::vector<Instant> starts;
};

TEST_F(RunsTest, PhasesComeFromTheStateTheConditionNames) {
    EXPECT_EQ(phasesSuggestedBy(*study, "@step is not \"Idle\""), "@step");
    EXPECT_EQ(phasesSuggestedBy(*study, "@temp > 30"), "");
    const auto track = find();
    const auto phases = phasesOf(*study, track);
    const auto runs = study->spans(track);
    ASSERT_EQ(runs.size(), 8u);
    const auto& third = phases.at(runs[2].id);
    ASSERT_EQ(third.size(), 3u);
    EXPECT_EQ(third[0].name, "Heat");
    EXPECT_EQ(third[0].range.length(), 70 * kMinute);
    EXPECT_EQ(third[2].range.to, runs[2].end);
    EXPECT_FALSE(runs[2].facts.contains("phases missing"));
    ASSERT_TRUE(study->undo());
    EXPECT_TRUE(phasesOf(*study, track).empty());
}

TEST_F(RunsTest, PhasesFromConditionsAndMissingOnesAreSaid) {
    RunSearch search{"@step is not \"Idle\""};
    search.phases = "Warm: @temp <= 60; Hot: @temp between 60 and 90 ; Too hot: @temp > 90";
    const auto track = find(search);
    const auto runs = study->spans(track);
    const auto phases = phasesOf(*study, track);
    EXPECT_EQ(phases.at(runs[0].id).size(), 3u);  // Warm, Hot, Warm
    EXPECT_EQ(factText(runs[0].facts, "phases repeated"), "Warm");
    EXPECT_FALSE(runs[0].facts.contains("phases missing"));  // `Too hot` is in one run only: no slot
    bool tooHot = false;
    for (const RunPhase& p : phases.at(runs[7].id)) tooHot = tooHot || p.name == "Too hot";
    EXPECT_TRUE(tooHot);
    search.phases = "Warm: @temp <= 60; @temp > 60";
    EXPECT_NE(findRuns(*study, search).error().message.find("has no name"), std::string::npos);
    search.phases = "@temp";
    EXPECT_NE(findRuns(*study, search).error().message.find("this is a number"), std::string::npos);
    search.phases = "Warm: @temp";
    EXPECT_FALSE(findRuns(*study, search));
}

TEST_F(RunsTest, EdgesAreTrimmedAndListsBecomeRuns) {
    RunSearch search{"@step is not \"Idle\""};
    search.trimStart = 10 * kMinute;
    search.trimEnd = 5 * kMinute;
    const auto trimmed = findRuns(*study, search);
    ASSERT_TRUE(trimmed);
    EXPECT_EQ(trimmed->runs[0].start, starts[0] + 10 * kMinute);
    EXPECT_EQ(trimmed->runs[0].end, starts[0] + 235 * kMinute);
    study->change("list", "", {}, [&] {
        const auto list = study->putTrack("Orders", track_kind::kBatches);
        study->addSpan(list, {0, 1, 0, kHour, 2 * kHour, {{"order", std::string("A7")}}});
        study->addSpan(list, {0, 1, 0, 2 * kHour, 4 * kHour, {{"order", std::string("A8")}}});
    });
    RunSearch listed;
    listed.list = "Orders";
    const auto found = findRuns(*study, listed);
    ASSERT_TRUE(found) << found.error().message;
    ASSERT_EQ(found->runs.size(), 2u);  // though one ends where the other begins
    EXPECT_EQ(factText(found->runs[1].facts, "order"), "A8");
    EXPECT_EQ(factNumber(found->runs[1].facts, "number"), 2);
    listed.list = "Ordres";
    EXPECT_FALSE(findRuns(*study, listed));
}

TEST_F(RunsTest, SearchAndColumnsStayWithTheTrack) {
    RunSearch search{"@step is not \"Idle\"", kHour};
    search.join = kMinute;
    find(search);
    const Track track = *study->trackNamed("Runs");
    EXPECT_EQ(searchOf(track).least, kHour);
    EXPECT_EQ(searchOf(track).join, kMinute);
    EXPECT_EQ(searchOf(track).phases, "@step");
    EXPECT_EQ(columnsOf(*study, track), (std::vector<RunColumn>{{"", "duration"}}));
    keepColumns(*study, track.id, {{"hot", "max(@temp)"}});
    find(search);  // finding again keeps the columns
    EXPECT_EQ(columnsOf(*study, *study->trackNamed("Runs")), (std::vector<RunColumn>{{"hot", "max(@temp)"}}));
}

TEST_F(RunsTest, FiguresOfRuns) {
    const auto track = find();
    const auto table =
        runFigures(*study, study->spans(track),
                   {{"", "duration"}, {"hottest", "max(@temp)"}, {"", "max(@temp) > 90"}, {"", "@nothing"}});
    ASSERT_TRUE(table);
    ASSERT_EQ(table->rows.size(), 8u);
    EXPECT_DOUBLE_EQ(std::get<double>(table->rows[1].cells[0]), 245 * 60);
    EXPECT_DOUBLE_EQ(std::get<double>(table->rows[0].cells[1]), 80);
    EXPECT_NEAR(std::get<double>(table->rows[7].cells[1]), 95.1, 1e-9);
    EXPECT_EQ(std::get<Truth>(table->rows[7].cells[2]), Truth::True);
    EXPECT_EQ(table->columns[1].unit, "°C");
    EXPECT_TRUE(table->columns[3].error);
    EXPECT_EQ(cellText(table->rows[1].cells[0], table->columns[0].type), "4 h 05 min");
    EXPECT_EQ(cellText(table->rows[1].cells[3], ValueType::Number), "");
    const std::string csv = runTableCsv(*study, *table);
    EXPECT_NE(csv.find("asset,run,start,end,duration [s],hottest [°C]"), std::string::npos) << csv;
    EXPECT_NE(csv.find("Kiln 1,2,1970-01-01T06:00:00Z,1970-01-01T10:05:00Z,14700,80.1"), std::string::npos)
        << csv;
    EXPECT_FALSE(runFigures(*study, study->spans(track), {}, Which::Mended, [](double) { return false; }));
}

TEST_F(RunsTest, PhasesLineUpRunsOfUnlikePace) {
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

TEST_F(RunsTest, LineUpByPhasesNeedsPhases) {
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

TEST_F(RunsTest, ANewVersionReplacesTheOldUnlessItIsValidFromADate) {
    const auto track = find();
    golden(track, 6);
    const auto runs = study->spans(track);
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
    EXPECT_EQ(study->limitSetNamed("L")->version, 3);
    EXPECT_EQ(study->limitSetNamed("L", 1)->version, 1);
    ASSERT_TRUE(study->undo());
    EXPECT_EQ(study->limitSetNamed("L")->version, 2);
}

TEST_F(RunsTest, LimitsOfAProductComeFromAndJudgeItsOwnRuns) {
    const auto track = find();
    golden(track, 6);
    const auto runs = study->spans(track);
    study->change("facts", "", {}, [&] {
        for (std::size_t i = 0; i < runs.size(); ++i) {
            Span s = runs[i];
            s.facts["product"] = std::string(i % 2 ? "Pale" : "Amber");
            study->updateSpan(s);
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

TEST_F(RunsTest, WhatWasDismissedStaysDismissedWhenScreenedAgain) {
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
    EXPECT_EQ(study->undoName(), "take back excursion of Kiln 1/Temp");
}

TEST_F(RunsTest, TheReportDrawsTheCorridorOfEverySetHoweverItIsLinedUp) {
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
    EXPECT_EQ(study->limitSets().size(), sets);
}

TEST_F(RunsTest, TwoTracksOfRunsKeepTheirExcursionsApart) {
    const auto first = find();
    RunSearch search{"@step is \"Hold\""};
    const auto second = keepRuns(*study, "Holds", search, *findRuns(*study, search));
    const ScreenSpec spec{10 * kMinute, kMinute};
    for (const auto track : {first, second}) {
        golden(track, 6);
        LimitSpec limits;
        limits.every = 5 * kMinute;
        keepLimits(*study, *makeLimits(*study, "L" + std::to_string(track), track, {"temp"}, limits));
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

TEST_F(RunsTest, RunsFoundAgainKeepMarksAndFactsAndOthersStay) {
    const auto track = find();
    golden(track, 3);
    std::vector<Span> runs = study->spans(track);
    study->change("fact", "", {}, [&] {
        Span s = runs[2];
        s.facts["product"] = std::string("Pale");
        study->updateSpan(s);
    });
    // A little later at the start: the same runs.
    RunSearch search{"@step is not \"Idle\""};
    search.trimStart = 5 * kMinute;
    find(search);
    const auto again = study->spans(track);
    ASSERT_EQ(again.size(), runs.size());
    EXPECT_EQ(again[2].id, runs[2].id);
    EXPECT_EQ(again[2].start, runs[2].start + 5 * kMinute);
    EXPECT_EQ(factText(again[2].facts, "product"), "Pale");
    EXPECT_EQ(study->goldenRuns(track).size(), 3u);
    // Left out by hand: stays left out, and what was found of it goes.
    ASSERT_TRUE(leaveOutRuns(*study, {again[2].id}, "trial"));
    find(search);
    EXPECT_EQ(study->spans(track).size(), runs.size() - 1);
    EXPECT_EQ(study->goldenRuns(track).size(), 2u);
    // Only some assets, or some time, are searched: the others stay as they are.
    search.within = TimeRange{0, runs[1].start};
    find(search);
    EXPECT_EQ(study->spans(track).size(), runs.size() - 1);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(RunsTest, SeveralAreGoldenNoLongerOrAlone) {
    const auto track = find();
    const auto runs = study->spans(track);
    ASSERT_TRUE(markGolden(*study, track, {runs[0].id, runs[1].id}, Golden::Also, "quiet"));
    ASSERT_TRUE(markGolden(*study, track, {runs[1].id, runs[2].id}, Golden::Also, "by eye"));
    const auto reasons = goldenReasons(*study, track);
    ASSERT_EQ(reasons.size(), 3u);
    EXPECT_EQ(reasons.at(runs[1].id), "quiet");  // golden already: keeps its reason
    EXPECT_EQ(reasons.at(runs[2].id), "by eye");
    ASSERT_TRUE(markGolden(*study, track, {runs[0].id, runs[5].id}, Golden::NoLonger, ""));
    EXPECT_EQ(goldenReasons(*study, track).size(), 2u);
    EXPECT_EQ(study->undoName(), "2 runs not golden");
    ASSERT_TRUE(markGolden(*study, track, {runs[4].id}, Golden::Only, ""));
    EXPECT_EQ(study->goldenRuns(track), std::vector<std::int64_t>{runs[4].id});
    EXPECT_EQ(study->goldenWhy(track, runs[4].id), "chosen by hand");
    ASSERT_TRUE(study->undo());
    EXPECT_EQ(study->goldenRuns(track).size(), 2u);
    EXPECT_FALSE(markGolden(*study, track, {}, Golden::Only, ""));
    EXPECT_FALSE(markGolden(*study, track, {4711}, Golden::Also, ""));
    EXPECT_EQ(study->goldenRuns(track).size(), 2u);
}

TEST_F(RunsTest, AWindowInTimeTouchesNoRunThatStartsOutside) {
    const auto track = find();
    const auto runs = study->spans(track);
    ASSERT_GT(runs.size(), 4u);
    // A condition that finds shorter runs: those of the window change, the others stay, numbers too.
    RunSearch search{"@step is \"Hold\""};
    search.within = TimeRange{runs[1].start, runs[2].start + 1};
    find(search);
    const auto after = study->spans(track);
    std::map<std::int64_t, Span> byId;
    for (const Span& s : after) byId[s.id] = s;
    std::size_t same = 0;
    for (const Span& s : runs) {
        const bool inside = s.start >= search.within->from && s.start < search.within->to;
        if (inside) continue;
        ASSERT_TRUE(byId.contains(s.id));
        EXPECT_EQ(byId[s.id].start, s.start);
        EXPECT_EQ(byId[s.id].end, s.end);
        EXPECT_EQ(factNumber(byId[s.id].facts, "number"), factNumber(s.facts, "number"));
        ++same;
    }
    EXPECT_LT(same, runs.size());
    for (const Span& s : after)
        if (std::none_of(runs.begin(), runs.end(), [&](const Span& r) { return r.id == s.id; })) {
            EXPECT_GE(s.start, search.within->from);
            EXPECT_LT(s.start, search.within->to);
        }
}

TEST_F(RunsTest, TooFewGoldenRunsAreSaid) {
    const auto track = find();
    golden(track, 2);
    const auto few = makeLimits(*study, "few", track, {"temp"}, byPhases());
    ASSERT_FALSE(few);
    EXPECT_NE(few.error().message.find("no slice has 3 golden runs"), std::string::npos)
        << few.error().message;
    LimitSpec tiny = byPhases();
    tiny.every = 1;
    EXPECT_NE(makeLimits(*study, "tiny", track, {"temp"}, tiny).error().message.find("take longer slices"),
              std::string::npos);
}

TEST_F(RunsTest, LimitsAreRenamedAndRemoved) {
    const auto track = find();
    golden(track, 5);
    for (int i = 0; i < 2; ++i) keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    ASSERT_TRUE(removeLimits(*study, "L", 1));
    ASSERT_EQ(study->limitSets().size(), 1u);
    ASSERT_TRUE(renameLimits(*study, "L", "M"));
    EXPECT_FALSE(study->limitSetNamed("L"));
    EXPECT_FALSE(removeLimits(*study, "L"));
    ASSERT_TRUE(removeLimits(*study, "M"));
    ASSERT_TRUE(study->undo());
    EXPECT_TRUE(study->limitSetNamed("M"));
}

TEST_F(RunsTest, LimitsAreLinesOverTimeForTheLanguage) {
    const auto track = find();
    golden(track, 6);
    keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    const auto runs = study->spans(track);
    const LimitLines lines = limitLines(*study, "L", "temp", 1, runs[7].range(), Which::Mended);
    const Instant hold = runs[7].start + 95 * kMinute + 60 * kMinute;
    EXPECT_NEAR(signalAt(lines.low, hold), 80.1, 0.5);
    EXPECT_LT(signalAt(lines.high, hold), 82);
    const auto outside = runsWhere(*study, track, "share(outside(\"L\", @temp)) > 0.3");
    ASSERT_TRUE(outside) << outside.error().message;
    EXPECT_EQ(*outside, (std::vector<std::int64_t>{runs[7].id}));
}

TEST_F(RunsTest, ASplitRunKeepsItsGoldenMarkAndPhasesFollow) {
    const auto track = find();
    golden(track, 3);
    const Span second = study->spans(track)[1];
    EXPECT_FALSE(splitRun(*study, second.id, second.start, ""));
    EXPECT_FALSE(splitRun(*study, 4711, second.start, ""));
    ASSERT_TRUE(splitRun(*study, second.id, second.start + 100 * kMinute, "two loads"));
    const auto runs = study->spans(track);
    ASSERT_EQ(runs.size(), 9u);
    EXPECT_EQ(runs[1].id, second.id);
    EXPECT_EQ(runs[1].end, runs[2].start);
    for (std::size_t i = 0; i < runs.size(); ++i)
        EXPECT_EQ(factNumber(runs[i].facts, "number"), static_cast<double>(i + 1));
    const auto phases = phasesOf(*study, track);
    EXPECT_EQ(phases.at(runs[1].id).size(), 2u);  // Heat and the beginning of Hold
    EXPECT_EQ(phases.at(runs[2].id).front().name, "Hold");
    EXPECT_EQ(study->goldenRuns(track).size(), 3u);
    EXPECT_EQ(study->ledger().back().why, "two loads");
    ASSERT_TRUE(mergeRuns(*study, {runs[1].id, runs[2].id}, "one load after all"));
    EXPECT_EQ(study->spans(track).size(), 8u);
    EXPECT_EQ(study->spans(track)[1].end, second.end);
    ASSERT_TRUE(study->undo());
    ASSERT_TRUE(study->undo());
    EXPECT_EQ(phasesOf(*study, track).at(second.id).size(), 3u);
}

TEST_F(RunsTest, EdgesDoNotReachIntoANeighbourAndMergingNeedsNeighbours) {
    const auto track = find();
    const auto runs = study->spans(track);
    EXPECT_FALSE(moveRunEdges(*study, runs[1].id, {runs[0].end - kMinute, runs[1].end}, ""));
    EXPECT_FALSE(moveRunEdges(*study, runs[1].id, {runs[1].end, runs[1].start}, ""));
    ASSERT_TRUE(moveRunEdges(*study, runs[1].id, {runs[1].start + kHour, runs[1].end}, "late start"));
    EXPECT_EQ(phasesOf(*study, track).at(runs[1].id).front().range.from, runs[1].start + kHour);
    EXPECT_NE(mergeRuns(*study, {runs[2].id, runs[4].id}, "").error().message.find("run 4"),
              std::string::npos);
    EXPECT_FALSE(mergeRuns(*study, {runs[2].id}, ""));
    golden(track, 4);
    ASSERT_TRUE(leaveOutRuns(*study, {runs[0].id, runs[5].id}, "trial"));
    EXPECT_EQ(study->spans(track).size(), 6u);
    EXPECT_EQ(study->goldenRuns(track).size(), 3u);
}

TEST_F(RunsTest, ExcursionsAreCountedByPhaseAndFact) {
    const auto track = find();
    golden(track, 6);
    study->change("facts", "", {}, [&] {
        for (Span s : study->spans(track)) {
            s.facts["shift"] = std::string(factNumber(s.facts, "number") > 4 ? "late" : "early");
            study->updateSpan(s);
        }
    });
    keepLimits(*study, *makeLimits(*study, "L", track, {"temp"}, byPhases()));
    const ScreenSpec spec{10 * kMinute, kMinute};
    keepExcursions(*study, track, spec, screenTrack(*study, track, "L", spec));
    const auto runs = study->spans(track);
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
    const auto weeks = countExcursions(*study, runs, found, CountBy::Week);
    double inWeeks = 0;
    std::size_t all = 0;
    for (const ExcursionCount& c : weeks) inWeeks += c.hours, all += c.allRuns;
    EXPECT_NEAR(inWeeks, hours, 1e-9);
    EXPECT_EQ(all, runs.size());
    EXPECT_EQ(countableFacts(runs), (std::vector<std::string>{"shift"}));
    EXPECT_TRUE(countExcursions(*study, {}, found, CountBy::Week).empty());
}

TEST_F(RunsTest, TwoMethodsAreHeldAgainstEachOther) {
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
    EXPECT_EQ(made->both, (std::vector<std::int64_t>{study->spans(track)[7].id}));
    EXPECT_TRUE(made->onlyB.empty());
    EXPECT_FALSE(made->onlyA.empty());
    EXPECT_LT(made->widthA, made->widthB);
    EXPECT_GT(made->hoursA, made->hoursB);
    EXPECT_FALSE(compareLimits(*study, *a, *b, "step", {}));
    EXPECT_FALSE(compareLimits(*study, *a, *b, "temp", {}, Which::Mended, [](double) { return false; }));
}

TEST_F(RunsTest, LinedUpByATagThatRises) {
    const auto track = find();
    golden(track, 6);
    LimitSpec spec = byPhases();
    spec.lineUp = LineUp::Indicator;
    spec.indicator = "temp";
    spec.every = static_cast<Place>(10 * kIndicatorUnit);
    const auto set = makeLimits(*study, "L", track, {"temp"}, spec);
    ASSERT_TRUE(set) << set.error().message;
    const GoldenLimits& g = set->byRole.at("temp");
    EXPECT_EQ(g.slices.front().offset, static_cast<Place>(20 * kIndicatorUnit));
    for (const LimitSlice& s : g.slices)  // the tag against itself: at the place of 50 °C it reads 50 °C
        EXPECT_NEAR(s.centre, static_cast<double>(s.offset) / kIndicatorUnit, 1e-6);
}

TEST_F(RunsTest, LimitsAsTagsFollowTheNewestVersion) {
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
