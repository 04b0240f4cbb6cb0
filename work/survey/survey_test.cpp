// What Survey shows of four kilns over twenty days, against figures worked out by hand.
#include <gtest/gtest.h>

#include "core/stats/stats.h"
#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/survey/cycles.h"
#include "work/survey/fleet.h"
#include "work/survey/tag_by_state.h"
#include "work/survey/tag_peaks.h"

namespace jacinth {
namespace {

constexpr int kSurveyed = 20;

/// Kilns 1 to 4 with `Flow`, a value an hour: 100 less 2 a day since the last stop, and as much higher as
/// the kiln's number; the third 30 higher. `Step` is Run for 18 hours of each day from midnight, then Idle.
/// Stops of an hour before days 5, 10 and 15.
class SurveyOfKilns : public NewStudy {
  protected:
    void fill() override {
        for (int k = 1; k <= 4; ++k) {
            const auto asset = study->catalog().addAsset("Kiln " + std::to_string(k));
            const auto flow = study->catalog().addTag(asset, "Flow", "m³/h", TagKind::Continuous);
            const auto step = study->catalog().addTag(asset, "Step", "", TagKind::State);
            for (const char* name : {"Run", "Idle"}) study->catalog().addState(step, name);
            Series flows, steps;
            for (int h = 0; h < kSurveyed * 24; ++h)
                flows.push(at(h * kHour), valueAt(h) + (k == 1 ? 0 : k == 3 ? 30 : k));
            for (int d = 0; d < kSurveyed; ++d) {
                steps.push(at(d * kDay), 0);
                steps.push(at(d * kDay + 18 * kHour), 1);
            }
            study->samples().write(flow, flows);
            study->samples().write(step, steps);
            study->catalog().setSpacing(flow, kHour);
            if (k == 1) addStops(asset);
        }
    }
    static double valueAt(int hour) { return 100 - 2.0 * (hour % (5 * 24)) / 24; }
    void addStops(AssetId asset) {
        const TrackId stops = study->tracks().put("Stops", track_kind::kStops);
        for (const int day : {5, 10, 15}) {
            Span s{{}, asset, {}, at(day * kDay - kHour), at(day * kDay), {}};
            s.facts["text"] = std::string(day == 10 ? "Bed cleaned" : "Filter changed");
            study->tracks().addSpan(stops, s);
        }
    }
    Tag tag(const std::string& of) { return *study->catalog().tagAt(of); }
    CycleSpec cycles() {
        CycleSpec spec;
        spec.asset = tag("Kiln 1/Flow").asset;
        spec.tag = tag("Kiln 1/Flow").id;
        spec.every = {Period::Unit::Length, kDay};
        return spec;
    }
};

TEST_F(SurveyOfKilns, CyclesShareTheLossOfTwoADay) {
    const auto picture = cyclesOf(*study, cycles());
    ASSERT_TRUE(picture) << picture.error().message;
    ASSERT_EQ(picture->cycles.size(), 4u);
    EXPECT_TRUE(picture->cycles.front().open);
    EXPECT_FALSE(picture->cycles[1].open);
    EXPECT_TRUE(picture->cycles.back().open);
    EXPECT_EQ(picture->cycles[1].range, between(5 * kDay, 10 * kDay - kHour));
    ASSERT_TRUE(picture->slopes);
    EXPECT_NEAR(picture->slopes->slope, -2, 1e-9);
    // The first figure of a cycle: the mean of 24 hourly values from 100 down, at the mean of their times.
    EXPECT_NEAR(picture->cycles[1].days.y[0], 100 - 2 * 11.5 / 24, 1e-9);
    EXPECT_NEAR(picture->cycles[1].days.x[0], 11.5 / 24, 1e-9);
    EXPECT_EQ(picture->cycles[1].at[0], at(5 * kDay + 11 * kHour + 30 * kMinute));
    EXPECT_EQ(picture->unit, "m³/h");
}

TEST_F(SurveyOfKilns, CyclesArePartedByTheStopsThatSayTheWords) {
    CycleSpec spec = cycles();
    spec.words = "bed CLEANED";
    const auto picture = cyclesOf(*study, spec);
    ASSERT_TRUE(picture);
    ASSERT_EQ(picture->parting.size(), 1u);
    EXPECT_EQ(picture->cycles.size(), 2u);
    spec.words = "painted";
    EXPECT_EQ(cyclesOf(*study, spec).error().message, "Kiln 1 has no stops that say “painted”");
    spec.words.clear();
    spec.kind = track_kind::kFailures;
    EXPECT_EQ(cyclesOf(*study, spec).error().message, "Kiln 1 has no failures");
}

TEST_F(SurveyOfKilns, CyclesOnlyCountWhileTheConditionIsTrue) {
    CycleSpec spec = cycles();
    spec.only = "@step is \"Run\"";
    const auto picture = cyclesOf(*study, spec);
    ASSERT_TRUE(picture) << picture.error().message;
    // Hours 0 to 17 of each day.
    EXPECT_NEAR(picture->cycles[1].days.y[0], 100 - 2 * 8.5 / 24, 1e-9);
    spec.only = "@step is \"Rnu\"";
    EXPECT_EQ(cyclesOf(*study, spec).error().message, "`@step is \"Rnu\"` is never true on Kiln 1");
    spec.only = "@flow + 1";
    EXPECT_FALSE(cyclesOf(*study, spec));
}

TEST_F(SurveyOfKilns, CyclesNeedATagWithNumbersAndAStep) {
    CycleSpec spec = cycles();
    spec.tag = tag("Kiln 1/Step").id;
    EXPECT_EQ(cyclesOf(*study, spec).error().message, "choose a tag with numbers");
    spec = cycles();
    spec.every.length = {};
    EXPECT_FALSE(cyclesOf(*study, spec));
    spec = cycles();
    spec.tag = TagId(999);
    EXPECT_FALSE(cyclesOf(*study, spec));
}

TEST_F(SurveyOfKilns, TheKilnUnlikeTheOthersIsAtTheTop) {
    FleetSpec spec;
    spec.role = tag("Kiln 1/Flow").role;
    spec.range = between(0, kSurveyed * kDay);
    spec.cells = kSurveyed;
    spec.profile = ProfileBy::Day;
    const auto fleet = fleetOf(*study, spec);
    ASSERT_TRUE(fleet) << fleet.error().message;
    ASSERT_EQ(fleet->rows.size(), 4u);
    const FleetRow& odd = fleet->rows.front();
    EXPECT_EQ(odd.tag, tag("Kiln 3/Flow").id);
    // The others are at 0, 2 and 4 above: their median is 2, their median absolute deviation 2.
    EXPECT_NEAR(odd.odd.score, (30 - 2) / (1.4826 * 2), 1e-9);
    EXPECT_GT(odd.odd.score, fleet->rows[1].odd.score);
    EXPECT_EQ(odd.samples, kSurveyed * 24);
    EXPECT_EQ(odd.quantilesOf, kSurveyed * 24);
    EXPECT_DOUBLE_EQ(odd.greatest, 130);
    EXPECT_NEAR(odd.least, 130 - 2.0 * 119 / 24, 1e-12);
    ASSERT_EQ(odd.cells.size(), static_cast<std::size_t>(kSurveyed));
    EXPECT_EQ(odd.profile.size(), 48u);  // half hours
    EXPECT_TRUE(std::isnan(odd.profile[1]));
    // Every day at midnight: 0 to 4 days since the stop, four times.
    EXPECT_NEAR(odd.profile[0], 130 - 2 * 2, 1e-9);
    EXPECT_EQ(fleet->edges.front(), at(0));
    EXPECT_EQ(fleet->edges.size(), static_cast<std::size_t>(kSurveyed) + 1);
}

TEST_F(SurveyOfKilns, AFleetWithoutRunsIsByDayAndOneOfAnUnknownRoleIsRefused) {
    FleetSpec spec;
    spec.role = tag("Kiln 1/Flow").role;
    spec.range = between(0, kSurveyed * kDay);
    spec.cells = 4;
    const auto fleet = fleetOf(*study, spec);
    ASSERT_TRUE(fleet);
    EXPECT_EQ(fleet->spec.profile, ProfileBy::Day);
    spec.role = "steam";
    EXPECT_EQ(fleetOf(*study, spec).error().message, "no asset has a number tag in the role `steam`");
    spec.role = "Flow";
    EXPECT_EQ(fleetOf(*study, spec).error().message,
              "no asset has a number tag in the role `Flow`; nearest is `flow`");
    spec.role = tag("Kiln 1/Step").role;
    EXPECT_FALSE(fleetOf(*study, spec));
}

TEST_F(SurveyOfKilns, AFleetHasItsSpreadAndCountsItsGroups) {
    FleetSpec spec;
    spec.role = tag("Kiln 1/Flow").role;
    spec.range = between(0, kSurveyed * kDay);
    spec.cells = 4;
    spec.profile = ProfileBy::Time;
    const FleetPicture all = *fleetOf(*study, spec);
    ASSERT_GE(all.rows.size(), 2u);
    ASSERT_EQ(all.spread.size(), all.hours.size());
    for (std::size_t i = 0; i < all.spread.size(); ++i) {
        std::vector<double> there;
        for (const FleetRow& r : all.rows) there.push_back(r.profile[i]);
        EXPECT_DOUBLE_EQ(all.spread[i][0], quantile(there, 0.05));
        EXPECT_DOUBLE_EQ(all.spread[i][3], quantile(there, 0.95));
    }
    study->catalog().setAssetFacts(all.rows.front().asset, {{"line", std::string("A")}});
    const AssetGroups groups(*study, "line");
    const double between = (all.rows[0].odd.score + all.rows[1].odd.score) / 2;
    const auto counts = oddByGroup(all, groups, between);
    EXPECT_EQ(counts[0], std::pair(all.rows[0].odd.score > between ? 1 : 0, 1));
    EXPECT_EQ(counts[1].second, static_cast<int>(all.rows.size()) - 1);
    spec.assets = {all.rows.back().asset};
    const FleetPicture one = *fleetOf(*study, spec);
    ASSERT_EQ(one.rows.size(), 1u);
    EXPECT_EQ(one.rows[0].asset, all.rows.back().asset);
    spec.assets = {AssetId(999)};
    EXPECT_EQ(fleetOf(*study, spec).error().message,
              "no asset of this group has a number tag in the role `flow`");
}

TEST_F(SurveyOfKilns, AFleetStopsWhenAskedTo) {
    FleetSpec spec;
    spec.role = tag("Kiln 1/Flow").role;
    spec.range = between(0, kSurveyed * kDay);
    const auto stopped = fleetOf(*study, spec, Progress([](double) { return false; }));
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, ErrorKind::Cancelled);
}

TEST_F(SurveyOfKilns, ValuesAreSplitByTheState) {
    const auto split =
        tagByState(*study, tag("Kiln 1/Flow"), tag("Kiln 1/Step"), between(0, kDay), Which::Mended);
    ASSERT_TRUE(split);
    ASSERT_EQ(split->size(), 2u);
    EXPECT_EQ((*split)[0].sorted.size(), 18u);
    EXPECT_EQ((*split)[1].sorted.size(), 6u);
    EXPECT_EQ((*split)[0].time, 18 * kHour);
    EXPECT_EQ((*split)[1].time, 6 * kHour);
    EXPECT_NEAR((*split)[0].sorted.front(), valueAt(17), 1e-12);
    EXPECT_NEAR((*split)[0].sorted.back(), 100, 1e-12);
}

TEST_F(SurveyOfKilns, WhenAStateHadTheseValues) {
    // Above 99.5 only within the first six hours after a stop.
    const auto when = whenTagInCluster(*study, tag("Kiln 1/Flow"), tag("Kiln 1/Step"),
                                       between(0, kSurveyed * kDay), Which::Mended, 0, 99.4, 200);
    ASSERT_TRUE(when);
    ASSERT_EQ(when->size(), 4u);
    EXPECT_EQ((*when)[1].from, at(5 * kDay));
    EXPECT_EQ((*when)[1].to, at(5 * kDay + 8 * kHour));
    const auto never = whenTagInCluster(*study, tag("Kiln 1/Flow"), tag("Kiln 1/Step"),
                                        between(0, kSurveyed * kDay), Which::Mended, 1, 99.4, 200);
    ASSERT_TRUE(never);
    EXPECT_TRUE(never->empty());
}

TEST_F(SurveyOfKilns, PeaksAreKeptAndReplacedAndNarrowOnesProposed) {
    const Tag flow = tag("Kiln 1/Flow");
    const auto peak = [](int hour, Duration width) {
        Peak p;
        p.time = at(hour * kHour);
        p.height = 120;
        p.prominence = 20;
        p.left = p.time - width / 2;
        p.right = p.time + width / 2;
        return p;
    };
    const TrackId track = keepPeaks(*study, "Peaks of flow", flow,
                                    {peak(10, kMinute), peak(40, 5 * kHour), peak(70, kMinute)}, kHour);
    auto spans = study->tracks().spans(track);
    ASSERT_EQ(spans.size(), 3u);
    EXPECT_EQ(std::get<std::string>(spans[0].facts.at("shape")), "narrow");
    EXPECT_EQ(std::get<std::string>(spans[1].facts.at("shape")), "broad");
    EXPECT_EQ(spans[1].end - spans[1].start, 5 * kHour);
    EXPECT_EQ(keepPeaks(*study, "Peaks of flow", flow, {peak(11, kMinute)}, kHour), track);
    EXPECT_EQ(study->tracks().spans(track).size(), 1u);
    EXPECT_EQ(proposeHiding(*study, flow, {peak(10, kMinute), peak(40, 5 * kHour)}, kHour), 1u);
    EXPECT_EQ(proposeHiding(*study, tag("Kiln 2/Flow"), {peak(10, kMinute)}, kHour), 1u);
    const auto spikes = study->tracks().named(kSpikesToMend);
    ASSERT_TRUE(spikes);
    EXPECT_EQ(study->tracks().spans(spikes->id).size(), 2u);  // those of the first tag stay
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->tracks().spans(spikes->id).size(), 1u);
    ASSERT_TRUE(study->history().undo());
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->tracks().spans(track).size(), 3u);
}

TEST_F(SurveyOfKilns, KeptStretchesStandOnATrackOfTheirKind) {
    const Tag flow = tag("Kiln 1/Flow");
    const auto track =
        keepStretches(*study, "High", flow, {between(0, kHour)}, {{"state", std::string("Run")}});
    ASSERT_TRUE(track);
    ASSERT_EQ(keptTracks(*study, flow.asset).size(), 1u);
    EXPECT_TRUE(keptTracks(*study, tag("Kiln 2/Flow").asset).empty());
    EXPECT_FALSE(keepStretches(*study, "Stops", flow, {between(0, kHour)}, {}));  // holds stops
    EXPECT_EQ(study->tracks().spansOf(track_kind::kStops).size(), 3u);
    EXPECT_FALSE(removeKept(*study, study->tracks().named("Stops")->id));
    ASSERT_TRUE(removeKept(*study, *track));
    EXPECT_TRUE(keptTracks(*study, flow.asset).empty());
    EXPECT_FALSE(removeKept(*study, *track));  // not there any more
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(keptTracks(*study, flow.asset).size(), 1u);
}

}  // namespace
}  // namespace jacinth
