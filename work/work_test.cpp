#include <gtest/gtest.h>

#include <map>

#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/limits/screening.h"
#include "work/prove/proving.h"
#include "work/runs/find_runs.h"

namespace jacinth {
namespace {

/// Two kilns with six short runs each; the last run of Kiln 2 is too hot in its middle.
class WorkTest : public NewStudy {
  protected:
    void fill() override {
        for (int k = 1; k <= 2; ++k) {
            const auto asset = study->catalog().addAsset("Kiln " + std::to_string(k));
            const auto temp = study->catalog().addTag(asset, "Temp", "°C", TagKind::Continuous);
            const auto step = study->catalog().addTag(asset, "Step", "", TagKind::State);
            study->catalog().addState(step, "Idle");
            study->catalog().addState(step, "Dry");
            Series temps, steps;
            for (int m = 0; m < 6 * 600; ++m) {
                const int into = m % 600, run = m / 600;
                const bool dry = into >= 100 && into < 500;
                double v = dry ? 50 + into * 0.05 + run * 0.1 : 20;
                if (k == 2 && run == 5 && into >= 250 && into < 350) v += 10;
                temps.push(at(m * kMinute), v);
                if (into == 0 || into == 100 || into == 500) steps.push(at(m * kMinute), dry ? 1 : 0);
            }
            study->samples().write(temp, temps);
            study->samples().write(step, steps);
            study->catalog().setSpacing(temp, kMinute);
        }
    }
    TrackId runs() {
        return keepRuns(*study, "Runs", {"@step is \"Dry\""}, *findRuns(*study, {"@step is \"Dry\""}));
    }
};

TEST_F(WorkTest, RunsAreFoundExactlyAndKeepTheirIds) {
    const auto track = runs();
    const auto first = study->tracks().spans(track);
    ASSERT_EQ(first.size(), 12u);
    EXPECT_EQ(first[0].start, at(100 * kMinute));
    EXPECT_EQ(first[0].end, at(500 * kMinute));
    EXPECT_EQ(factNumber(first[10].facts, "number"), 6);
    runs();
    const auto again = study->tracks().spans(track);
    for (std::size_t i = 0; i < first.size(); ++i) EXPECT_EQ(first[i].id, again[i].id);
    EXPECT_EQ(findRuns(*study, {"@step is \"Dry\"", 401 * kMinute})->runs.size(), 0u);
    EXPECT_EQ(findRuns(*study, {"@step is \"Dry\"", {}, kWithoutEnd, 200 * kMinute})->runs.size(), 2u);
    EXPECT_EQ(findRuns(*study, {"@step is \"Dry\"", {}, kWithoutEnd, {}, "Kiln 2"})->runs.size(), 6u);
    EXPECT_FALSE(findRuns(*study, {"@temp + 1"}));
    EXPECT_FALSE(findRuns(*study, {"@nothing > 1"}));
}

TEST_F(WorkTest, GoldenRunsByExpression) {
    const auto track = runs();
    const auto hot = runsWhere(*study, track, "max(@temp) > 76");
    ASSERT_TRUE(hot) << hot.error().message;
    ASSERT_EQ(hot->size(), 1u);
    EXPECT_EQ(study->tracks().span(hot->front())->start, at(5 * 600 * kMinute + 100 * kMinute));
    EXPECT_EQ(runsWhere(*study, track, "duration = 400m and number < 3")->size(), 4u);
    EXPECT_FALSE(runsWhere(*study, track, "@temp > 1"));
}

TEST_F(WorkTest, TheHotRunIsFoundAndGoldenOnesAreJudgedWithoutThemselves) {
    const auto track = runs();
    std::vector<SpanId> golden;
    for (const Span& s : study->tracks().spans(track))
        if (s.asset == AssetId(1)) golden.push_back(s.id);
    EXPECT_FALSE(makeLimits(*study, "dry", track, {"temp"}, {}));
    study->change("golden", "good", {}, [&] { study->judgement().setGoldenRuns(track, golden, "quiet"); });
    EXPECT_FALSE(makeLimits(*study, "dry", track, {"tmep"}, {}));
    const auto set = makeLimits(*study, "dry", track, {"temp"}, {10 * kMinute});
    ASSERT_TRUE(set);
    keepLimits(*study, *set);
    const auto screened = screenTrack(*study, track, "dry", {20 * kMinute, 10 * kMinute});
    keepExcursions(*study, track, {20 * kMinute, 10 * kMinute}, screened);
    const auto found = excursionsOf(*study);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].role, "temp");
    EXPECT_EQ(study->catalog().asset(found[0].span.asset)->name, "Kiln 2");
    EXPECT_NEAR(toHours(found[0].span.end - found[0].span.start), 100 / 60.0, 0.05);
    EXPECT_NEAR(found[0].peak, 10 + 0.25 - 3 * 0.1870828, 0.01);
    EXPECT_EQ(screened.size(), 12u);
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(excursionsOf(*study).empty());
}

TEST_F(WorkTest, EveryRecordedFailureHasAVerdict) {
    AssetId pump;
    study->change("f", "", {}, [&] {
        pump = study->catalog().addAsset("Pump 1");
        study->catalog().addTag(pump, "Flow", "l/s", TagKind::Continuous);
        const auto failures = study->tracks().put("Failures", track_kind::kFailures);
        const auto kiln = study->catalog().assetNamed("Kiln 2")->id;
        for (const auto& [asset, moment] :
             {std::pair{kiln, at(3400 * kMinute)}, std::pair{kiln, at(10 * kMinute)},
              std::pair{pump, at(3400 * kMinute)}, std::pair{AssetId(), at(50 * kMinute)}})
            study->tracks().addSpan(failures, {{}, asset, {}, moment, moment, {}});
        const auto stops = study->tracks().put("Stops", track_kind::kStops);
        study->tracks().addSpan(
            stops,
            {{}, study->catalog().assetNamed("Kiln 1")->id, {}, at(500 * kMinute), at(1000 * kMinute), {}});
        study->tracks().addSpan(
            failures,
            {{}, study->catalog().assetNamed("Kiln 1")->id, {}, at(1000 * kMinute), at(1000 * kMinute), {}});
    });
    const auto p = proveRule(*study, {"@temp > 75", {3 * kHour, 10 * kMinute, {}}});
    ASSERT_TRUE(p) << p.error().message;
    ASSERT_EQ(p->failures.size(), 5u);
    EXPECT_EQ(p->caught + p->missed + p->untestable, 5);
    std::map<std::string, int> reasons;
    for (const FailureVerdict& f : p->failures) {
        EXPECT_EQ(f.testable, f.reason.empty());
        ++reasons[f.reason.substr(0, 7)];
    }
    EXPECT_EQ(reasons["no data"], 1);
    EXPECT_EQ(reasons["masked"], 1);
    EXPECT_EQ(reasons["not cov"], 1);
    EXPECT_EQ(reasons["of no a"], 1);
}

TEST_F(WorkTest, ProveWithStopsAndOutages) {
    study->change("failures", "", {}, [&] {
        const auto f = study->tracks().put("Failures", track_kind::kFailures);
        study->tracks().addSpan(
            f, {{}, AssetId(2), {}, at((5 * 600 + 400) * kMinute), at((5 * 600 + 400) * kMinute), {}});
    });
    ProveRequest request{"@temp > 76", {4 * kHour, 30 * kMinute, {}}};
    const auto proof = proveRule(*study, request);
    ASSERT_TRUE(proof) << proof.error().message;
    EXPECT_EQ(proof->caught, 1);
    EXPECT_EQ(proof->falseAlarms, 0);
    // 60.5 + 0.05·m crosses 76 at 310 min into the last round; the failure is at 400.
    EXPECT_NEAR(toSeconds(proof->failures[0].warning), (400 - 310) * 60, 1);
    request.masks = {"Stosp"};
    EXPECT_FALSE(proveRule(*study, request));
    request.masks = {};
    request.spec.least = 5 * kHour;
    EXPECT_FALSE(proveRule(*study, request));
    EXPECT_NEAR(proof->trueShare, 39.1 / 7200, 0.0001);
}

}  // namespace
}  // namespace jacinth
