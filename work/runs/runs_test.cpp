// Runs with phases, their figures, and which golden limits judge them.
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

namespace jacinth {
namespace {

TEST_F(RunsTest, PhasesComeFromTheStateTheConditionNames) {
    EXPECT_EQ(phasesSuggestedBy(*study, "@step is not \"Idle\""), "@step");
    EXPECT_EQ(phasesSuggestedBy(*study, "@temp > 30"), "");
    const auto track = find();
    const auto phases = phasesOf(*study, track);
    const auto runs = study->tracks().spans(track);
    ASSERT_EQ(runs.size(), 8u);
    const auto& third = phases.at(runs[2].id);
    ASSERT_EQ(third.size(), 3u);
    EXPECT_EQ(third[0].name, "Heat");
    EXPECT_EQ(third[0].range.length(), 70 * kMinute);
    EXPECT_EQ(third[2].range.to, runs[2].end);
    EXPECT_FALSE(runs[2].facts.contains("phases missing"));
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(phasesOf(*study, track).empty());
}

TEST_F(RunsTest, PhasesFromConditionsAndMissingOnesAreSaid) {
    RunSearch search{"@step is not \"Idle\""};
    search.phases = "Warm: @temp <= 60; Hot: @temp between 60 and 90 ; Too hot: @temp > 90";
    const auto track = find(search);
    const auto runs = study->tracks().spans(track);
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
        const auto list = study->tracks().put("Orders", track_kind::kBatches);
        study->tracks().addSpan(
            list, {{}, AssetId(1), {}, at(kHour), at(2 * kHour), {{"order", std::string("A7")}}});
        study->tracks().addSpan(
            list, {{}, AssetId(1), {}, at(2 * kHour), at(4 * kHour), {{"order", std::string("A8")}}});
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
    const Track track = *study->tracks().named("Runs");
    EXPECT_EQ(searchOf(track).least, kHour);
    EXPECT_EQ(searchOf(track).join, kMinute);
    EXPECT_EQ(searchOf(track).phases, "@step");
    EXPECT_EQ(columnsOf(*study, track), (std::vector<RunColumn>{{"", "duration"}}));
    keepColumns(*study, track.id, {{"hot", "max(@temp)"}});
    find(search);  // finding again keeps the columns
    EXPECT_EQ(columnsOf(*study, *study->tracks().named("Runs")),
              (std::vector<RunColumn>{{"hot", "max(@temp)"}}));
}

TEST_F(RunsTest, FiguresOfRuns) {
    const auto track = find();
    const auto table =
        runFigures(*study, study->tracks().spans(track),
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
    EXPECT_FALSE(
        runFigures(*study, study->tracks().spans(track), {}, Which::Mended, [](double) { return false; }));
}

TEST_F(RunsTest, RunsFoundAgainKeepMarksAndFactsAndOthersStay) {
    const auto track = find();
    golden(track, 3);
    std::vector<Span> runs = study->tracks().spans(track);
    study->change("fact", "", {}, [&] {
        Span s = runs[2];
        s.facts["product"] = std::string("Pale");
        study->tracks().updateSpan(s);
    });
    // A little later at the start: the same runs.
    RunSearch search{"@step is not \"Idle\""};
    search.trimStart = 5 * kMinute;
    find(search);
    const auto again = study->tracks().spans(track);
    ASSERT_EQ(again.size(), runs.size());
    EXPECT_EQ(again[2].id, runs[2].id);
    EXPECT_EQ(again[2].start, runs[2].start + 5 * kMinute);
    EXPECT_EQ(factText(again[2].facts, "product"), "Pale");
    EXPECT_EQ(study->judgement().goldenRuns(track).size(), 3u);
    // Left out by hand: stays left out, and what was found of it goes.
    ASSERT_TRUE(leaveOutRuns(*study, {again[2].id}, "trial"));
    find(search);
    EXPECT_EQ(study->tracks().spans(track).size(), runs.size() - 1);
    EXPECT_EQ(study->judgement().goldenRuns(track).size(), 2u);
    // Only some assets, or some time, are searched: the others stay as they are.
    search.within = TimeRange{at(0), runs[1].start};
    find(search);
    EXPECT_EQ(study->tracks().spans(track).size(), runs.size() - 1);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(RunsTest, SeveralAreGoldenNoLongerOrAlone) {
    const auto track = find();
    const auto runs = study->tracks().spans(track);
    ASSERT_TRUE(markGolden(*study, track, {runs[0].id, runs[1].id}, Golden::Also, "quiet"));
    ASSERT_TRUE(markGolden(*study, track, {runs[1].id, runs[2].id}, Golden::Also, "by eye"));
    const auto reasons = goldenReasons(*study, track);
    ASSERT_EQ(reasons.size(), 3u);
    EXPECT_EQ(reasons.at(runs[1].id), "quiet");  // golden already: keeps its reason
    EXPECT_EQ(reasons.at(runs[2].id), "by eye");
    ASSERT_TRUE(markGolden(*study, track, {runs[0].id, runs[5].id}, Golden::NoLonger, ""));
    EXPECT_EQ(goldenReasons(*study, track).size(), 2u);
    EXPECT_EQ(study->history().undoName(), "2 runs not golden");
    ASSERT_TRUE(markGolden(*study, track, {runs[4].id}, Golden::Only, ""));
    EXPECT_EQ(study->judgement().goldenRuns(track), std::vector{runs[4].id});
    EXPECT_EQ(study->judgement().goldenWhy(track, runs[4].id), "chosen by hand");
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().goldenRuns(track).size(), 2u);
    EXPECT_FALSE(markGolden(*study, track, {}, Golden::Only, ""));
    EXPECT_FALSE(markGolden(*study, track, {SpanId(4711)}, Golden::Also, ""));
    EXPECT_EQ(study->judgement().goldenRuns(track).size(), 2u);
}

TEST_F(RunsTest, AWindowInTimeTouchesNoRunThatStartsOutside) {
    const auto track = find();
    const auto runs = study->tracks().spans(track);
    ASSERT_GT(runs.size(), 4u);
    // A condition that finds shorter runs: those of the window change, the others stay, numbers too.
    RunSearch search{"@step is \"Hold\""};
    search.within = TimeRange{runs[1].start, runs[2].start + kNanosecond};
    find(search);
    const auto after = study->tracks().spans(track);
    std::map<SpanId, Span> byId;
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

TEST_F(RunsTest, ASplitRunKeepsItsGoldenMarkAndPhasesFollow) {
    const auto track = find();
    golden(track, 3);
    const Span second = study->tracks().spans(track)[1];
    EXPECT_FALSE(splitRun(*study, second.id, second.start, ""));
    EXPECT_FALSE(splitRun(*study, SpanId(4711), second.start, ""));
    ASSERT_TRUE(splitRun(*study, second.id, second.start + 100 * kMinute, "two loads"));
    const auto runs = study->tracks().spans(track);
    ASSERT_EQ(runs.size(), 9u);
    EXPECT_EQ(runs[1].id, second.id);
    EXPECT_EQ(runs[1].end, runs[2].start);
    for (std::size_t i = 0; i < runs.size(); ++i)
        EXPECT_EQ(factNumber(runs[i].facts, "number"), static_cast<double>(i + 1));
    const auto phases = phasesOf(*study, track);
    EXPECT_EQ(phases.at(runs[1].id).size(), 2u);  // Heat and the beginning of Hold
    EXPECT_EQ(phases.at(runs[2].id).front().name, "Hold");
    EXPECT_EQ(study->judgement().goldenRuns(track).size(), 3u);
    EXPECT_EQ(study->history().ledger().back().why, "two loads");
    ASSERT_TRUE(mergeRuns(*study, {runs[1].id, runs[2].id}, "one load after all"));
    EXPECT_EQ(study->tracks().spans(track).size(), 8u);
    EXPECT_EQ(study->tracks().spans(track)[1].end, second.end);
    ASSERT_TRUE(study->history().undo());
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(phasesOf(*study, track).at(second.id).size(), 3u);
}

TEST_F(RunsTest, EdgesDoNotReachIntoANeighbourAndMergingNeedsNeighbours) {
    const auto track = find();
    const auto runs = study->tracks().spans(track);
    EXPECT_FALSE(moveRunEdges(*study, runs[1].id, {runs[0].end - kMinute, runs[1].end}, ""));
    EXPECT_FALSE(moveRunEdges(*study, runs[1].id, {runs[1].end, runs[1].start}, ""));
    ASSERT_TRUE(moveRunEdges(*study, runs[1].id, {runs[1].start + kHour, runs[1].end}, "late start"));
    EXPECT_EQ(phasesOf(*study, track).at(runs[1].id).front().range.from, runs[1].start + kHour);
    EXPECT_NE(mergeRuns(*study, {runs[2].id, runs[4].id}, "").error().message.find("run 4"),
              std::string::npos);
    EXPECT_FALSE(mergeRuns(*study, {runs[2].id}, ""));
    golden(track, 4);
    ASSERT_TRUE(leaveOutRuns(*study, {runs[0].id, runs[5].id}, "trial"));
    EXPECT_EQ(study->tracks().spans(track).size(), 6u);
    EXPECT_EQ(study->judgement().goldenRuns(track).size(), 3u);
}

}  // namespace
}  // namespace jacinth
