#include "core/prove/search.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/prove/judged_cases.h"
#include "core/time/times_for_tests.h"

namespace jacinth {
namespace {

TEST(Settings, AreFoundAndReplacedOutsideOfQuotes) {
    const std::string text = "mean(@rh over {hours}h) > { limit } and `A/{odd}` > {limit}";
    EXPECT_EQ(settingsIn(text), (std::vector<std::string>{"hours", "limit"}));
    EXPECT_EQ(*withSettings(text, {{"hours", 24}, {"limit", 0.1}}),
              "mean(@rh over 24h) > 0.1 and `A/{odd}` > 0.1");
    EXPECT_EQ(*withSettings("@x > {a}", {{"a", 1e-7}}), "@x > 0.00000010000000000");
    EXPECT_EQ(*withSettings("@x > 3", {}), "@x > 3");
}

TEST(NamedNumbers, AreNamedByTheirUnitsAndPlaces) {
    const NamedNumbers n =
        withNamedNumbers("mean(@x over 6h) > 2.75 and @y < 0.97 * median(@y over 7d) for 20m");
    EXPECT_EQ(n.text,
              "mean(@x over {hours}h) > {limit} and @y < {limit2} * median(@y over {days}d) for {minutes}m");
    EXPECT_EQ(n.settings,
              (Settings{{"hours", 6}, {"limit", 2.75}, {"limit2", 0.97}, {"days", 7}, {"minutes", 20}}));
    EXPECT_EQ(*withSettings(n.text, n.settings),
              "mean(@x over 6h) > 2.75 and @y < 0.97 * median(@y over 7d) for 20m");
}

TEST(NamedNumbers, LeaveNamesTextsAndSettingsAlone) {
    const NamedNumbers n = withNamedNumbers(
        "`Kiln 3/Flow 2` > -4 and @tag_2 is \"Step 9\" and @z > {limit} + 2", {{"limit", 5}});
    EXPECT_EQ(n.text, "`Kiln 3/Flow 2` > -{limit2} and @tag_2 is \"Step 9\" and @z > {limit} + {factor}");
    EXPECT_EQ(n.settings.at("limit"), 5);
    EXPECT_EQ(n.settings.at("limit2"), 4);
    EXPECT_TRUE(withNamedNumbers("@x is \"On\"").settings.empty());
    EXPECT_EQ(withNamedNumbers("@x > {limit").text, "@x > {limit") << "what is wrong stays as it is";
    EXPECT_EQ(withNamedNumbers("@x > 1e-3").text, "@x > {limit}");
    EXPECT_EQ(withNamedNumbers("@x > 1e-3").settings.at("limit"), 0.001);
}

TEST(Settings, BelowZeroTheyStandInBracketsAfterAMinus) {
    EXPECT_EQ(*withSettings("@x > - {a}", {{"a", -2}}), "@x > - (-2)");
    EXPECT_EQ(*withSettings("@x > -{a}", {{"a", 2}}), "@x > -2");
    EXPECT_EQ(*withSettings("@x > {a}", {{"a", -2}}), "@x > -2");
    EXPECT_EQ(withSomeSettings("@x - {a} > {b}", {{"a", -2}}), "@x - (-2) > {b}");
}

TEST(Settings, SomeOfThemBecomeNumbers) {
    EXPECT_EQ(withSomeSettings("mean(@x over {hours}h) > {limit}", {{"hours", 2}, {"other", 1}}),
              "mean(@x over 2h) > {limit}");
    EXPECT_EQ(withSomeSettings("@x is \"{a}\" and @x > {a}", {{"a", 0.5}}), "@x is \"{a}\" and @x > 0.5");
    EXPECT_EQ(withSomeSettings("@x > {a", {{"a", 1}}), "@x > {a");
}

TEST(NamedNumbers, SayWhichAreComparedWith) {
    using Names = std::vector<std::string>;
    EXPECT_EQ(withNamedNumbers("mean(@x over 6h) > 2.75 and @y < 0.97 * median(@y over 7d)").limits,
              (Names{"limit", "limit2"}));
    EXPECT_EQ(withNamedNumbers("@x > {top} and @y < -{low} and @x < {top}").limits, (Names{"top", "low"}));
    EXPECT_EQ(withNamedNumbers("@x > @y + 3 and elapsed(@x > {a}) > 3h").limits, (Names{"a"}));
    EXPECT_EQ(withNamedNumbers("elapsed(missing(@x)) > {hours}h").limits, Names{}) << "a length of time";
    EXPECT_EQ(withNamedNumbers("missing(@x)").limits, Names{});
    EXPECT_EQ(withNamedNumbers("1 < @x and not (-{a} >= @y) or 2 * 3 < @z").limits, (Names{"limit", "a"}))
        << "also on the left, but not what belongs to a product";
    EXPECT_EQ(withNamedNumbers("@x between {low} and {high}").limits, (Names{"low"}));
    EXPECT_EQ(withNamedNumbers("1 < @x").text, "{limit} < @x");
    EXPECT_EQ(withNamedNumbers("max(2, @x) > @y + 1 and clip(@x, 0, 5) > @y").limits, Names{});
}

TEST(Settings, WhatDoesNotFitIsSaid) {
    const auto says = [](const std::string& text, const Settings& s) {
        return withSettings(text, s).error().message;
    };
    EXPECT_NE(says("@x > {a}", {}).find("{a} has no number"), std::string::npos);
    EXPECT_NE(says("@x > {a}", {{"a", 1}, {"b", 2}}).find("no setting {b}; it has {a}"), std::string::npos);
    EXPECT_NE(says("@x > 1", {{"b", 2}}).find("no setting {b}"), std::string::npos);
    EXPECT_NE(says("@x > {a", {{"a", 1}}).find("has no }"), std::string::npos);
    EXPECT_NE(says("@x > {}", {}).find("needs a name"), std::string::npos);
    EXPECT_NE(says("@x > {a}", {{"a", std::nan("")}}).find("needs a number"), std::string::npos);
}

TEST(Search, TheGridTurnsItsLastNameFastest) {
    const auto grid = gridOf({{"a", 0, 1, 2}, {"b", 10, 30, 3}});
    ASSERT_TRUE(grid);
    ASSERT_EQ(grid->size(), 6u);
    EXPECT_EQ((*grid)[1], (Settings{{"a", 0}, {"b", 20}}));
    EXPECT_EQ((*grid)[5], (Settings{{"a", 1}, {"b", 30}}));
    EXPECT_FALSE(gridOf({{"a", 0, 1, 2}, {"a", 0, 1, 2}}));
    EXPECT_FALSE(gridOf({{"a", 1, 1, 2}}));
    EXPECT_FALSE(gridOf({{"a", 0, 1, 1}}));
    EXPECT_FALSE(gridOf({{"a", 0, 1, 1000}, {"b", 0, 1, 1000}}));
    EXPECT_TRUE(gridOf({})->empty());
}

/// Alarms at `level` and above: a bump of two days before each failure, as high as `heights` says, and false
/// bumps between.
struct Bumps {
    std::vector<double> heights;       ///< of failures, by time, on assets in turn
    std::vector<double> falseHeights;  ///< on the same assets, in turn
    int assets = 2;
};

SearchCase caseOf(const Bumps& bumps, const Vary& level) {
    SearchCase out;
    out.vary = {level};
    out.spec = {48 * kHour, 12 * kHour, {}};
    const auto asset = [&](std::size_t i) { return i % static_cast<std::size_t>(bumps.assets); };
    for (int a = 0; a < bumps.assets; ++a) {
        AssetCase c;
        c.asset = AssetId(a + 1);
        c.covered = {between(0, 100 * kDay)};
        c.recordEnd = at(100 * kDay);
        out.assets.push_back(c);
    }
    const auto failureAt = [](std::size_t i) { return at((10 + 10 * static_cast<int>(i)) * kDay); };
    for (std::size_t i = 0; i < bumps.heights.size(); ++i)
        out.assets[asset(i)].failures.push_back(failureAt(i));
    for (int s = 0; s < level.steps; ++s) {
        auto& alarms = out.alarms.emplace_back(out.assets.size());
        for (std::size_t i = 0; i < bumps.heights.size(); ++i)
            if (bumps.heights[i] >= level.at(s))
                alarms[asset(i)].push_back({failureAt(i) - 40 * kHour, failureAt(i) - kHour});
        for (std::size_t i = 0; i < bumps.falseHeights.size(); ++i)
            if (bumps.falseHeights[i] >= level.at(s))
                alarms[asset(i)].push_back({failureAt(i) + 4 * kDay, failureAt(i) + 4 * kDay + kHour});
    }
    return out;
}

TEST(Search, TheBestLiesDeepestAmongTheEquallyGood) {
    // All failures reach 5; false ones reach 3: from 3.5 to 5 all is right.
    const SearchCase of = caseOf({{5, 6, 7, 8}, {3, 3, 2}}, {"level", 0, 10, 21});
    const auto found = search(of);
    ASSERT_TRUE(found);
    // The two false ones of height 3 are 0.304 a month and asset: too many.
    EXPECT_EQ(found->flat.at("level"), (std::pair{3.5, 5.0}));
    const double best = of.vary[0].at(static_cast<int>(found->best));
    EXPECT_TRUE(best == 4.0 || best == 4.5) << best;
    EXPECT_EQ(found->depth, 2);
    EXPECT_EQ(found->tallies[found->best].caught, 4);
    EXPECT_EQ(found->tallies[found->best].falseAlarms, 0);
    EXPECT_EQ(found->tallies[0].falseAlarms, 3);
    EXPECT_FALSE(std::isfinite(found->scores[0])) << "three false alarms are more than allowed";
    // The front: none catches more with as few.
    ASSERT_EQ(found->front.size(), 1u);
    EXPECT_EQ(found->tallies[found->front[0]].caught, 4);
}

TEST(Search, OtherAimsWeighOtherwise) {
    SearchCase of = caseOf({{2, 6, 7, 8}, {5, 5, 5, 5, 5}}, {"level", 0, 10, 21});
    of.aim.kind = AimKind::F;
    EXPECT_EQ(search(of)->tallies[search(of)->best].caught, 3);  // three without a false one
    of.aim.kind = AimKind::Cost;
    of.aim.costs = {100, 1, 0};  // a miss costs more than all the false ones
    EXPECT_EQ(search(of)->tallies[search(of)->best].caught, 4);
    of.aim.costs = {1, 100, 0};
    EXPECT_EQ(search(of)->tallies[search(of)->best].caught, 3);
    EXPECT_EQ(scoreOf({3, 1, 0, 3, 2, 0, 0}, of.aim), -201);
}

TEST(Search, ARuleThatIsAlwaysTrueIsNotAllowed) {
    SearchCase of = caseOf({{5, 5}, {}}, {"level", 0, 1, 2});
    for (auto& alarms : of.alarms[0]) alarms = {between(0, 100 * kDay)};
    const auto found = search(of);
    EXPECT_EQ(found->tallies[0].caught, 2);
    EXPECT_NEAR(found->tallies[0].alarmedShare, 1, 1e-12);
    EXPECT_FALSE(std::isfinite(found->scores[0]));
    EXPECT_EQ(found->best, 1u);
}

TEST(Search, WhatALeftOutFailureTeachesIsNotSeen) {
    // One failure gives hardly any warning: the search on the others sets its level above it.
    const SearchCase of = caseOf({{1, 6, 7, 8}, {4, 4, 4, 4, 4, 4}}, {"level", 0, 10, 21});
    const auto left = leaveOut(of, LeaveOut::Failure);
    ASSERT_TRUE(left);
    EXPECT_EQ(left->of, 4);
    EXPECT_EQ(left->caught, 3);
    ASSERT_EQ(left->rounds.size(), 4u);
    EXPECT_EQ(left->rounds[0].caught, 0);
    const auto assets = leaveOut(of, LeaveOut::Asset);
    EXPECT_EQ(assets->rounds.size(), 2u);
    EXPECT_EQ(assets->of, 4);
    const auto time = leaveOut(of, LeaveOut::Time);
    ASSERT_EQ(time->rounds.size(), 1u);
    EXPECT_EQ(time->of, 2) << "the later two";
    EXPECT_EQ(leaveOut(caseOf({{5}, {}}, {"level", 0, 1, 2}), LeaveOut::Failure)->of, 0);
}

TEST(Search, MovedMomentsStayInTheTimeThatCounts) {
    const std::vector<TimeRange> counting{between(0, 10 * kHour), between(20 * kHour, 30 * kHour)};
    EXPECT_EQ(movedBy(0, instants(5 * kHour, 25 * kHour), counting), instants(5 * kHour, 25 * kHour));
    EXPECT_EQ(movedBy(0.25, instants(5 * kHour, 25 * kHour), counting), instants(0 * kHour, 20 * kHour));
    EXPECT_EQ(movedBy(0.5, instants(5 * kHour, 28 * kHour), counting), instants(8 * kHour, 25 * kHour));
    EXPECT_EQ(movedBy(0, instants(15 * kHour), counting), instants(20 * kHour))
        << "from the next moment inside";
    EXPECT_EQ(movedBy(0.5, instants(5 * kHour), {}), instants(5 * kHour));
}

TEST(Search, ARuleThatKnowsIsNoLuckAndOneThatDoesNotIs) {
    const SearchCase knows = caseOf({{5, 6, 7, 8, 6, 7}, {2, 3, 2, 4}, 3}, {"level", 0, 10, 41});
    const auto found = search(knows);
    const auto tries = shuffled(knows, found->scores[found->best], 200, 1);
    ASSERT_TRUE(tries);
    EXPECT_EQ(verdictOf(*tries), SearchVerdict::Holds) << tries->asGood;
    EXPECT_EQ(shuffled(knows, found->scores[found->best], 200, 1)->asGood, tries->asGood) << "seeded";
    // Alarms at random, and failures at random.
    std::mt19937 random(7);
    int luck = 0;
    constexpr int kTrials = 100;
    for (int trial = 0; trial < kTrials; ++trial) {
        SearchCase blind = caseOf({{}, {}, 4}, {"level", 0, 1, 21});
        for (AssetCase& a : blind.assets) a.failures = {at((5 + random() % 90) * kDay), at(kDay * 97)};
        for (std::size_t a = 0; a < 4; ++a)
            for (int i = 0; i < 30; ++i) {
                const Instant t = at(static_cast<int>(random() % 2400) * kHour);
                const double height = static_cast<double>(random() % 1000) / 1000;
                for (std::size_t s = 0; s < blind.alarms.size(); ++s)
                    if (height >= blind.vary[0].at(static_cast<int>(s)))
                        blind.alarms[s][a].push_back({t, t + 2 * kHour});
            }
        for (auto& setting : blind.alarms)
            for (auto& alarms : setting) alarms = joined(alarms);
        blind.aim.falseAtMost = 3;
        const auto best = search(blind);
        luck += verdictOf(*shuffled(blind, best->scores[best->best], 200, 11)) == SearchVerdict::Luck;
    }
    EXPECT_GE(luck, 95);
}

TEST(Search, FewTriesCannotTellItFromLuck) {
    EXPECT_EQ(verdictOf({200, 0}), SearchVerdict::Holds);
    EXPECT_EQ(verdictOf({200, 2}), SearchVerdict::Luck);
    EXPECT_EQ(verdictOf({99, 0}), SearchVerdict::Holds);
    EXPECT_EQ(verdictOf({98, 0}), SearchVerdict::TooFewTries);
    EXPECT_EQ(verdictOf({20, 5}), SearchVerdict::Luck);
}

TEST(Search, FailuresOfOtherAssetsAreUntestableWithEverySetting) {
    SearchCase of = caseOf({{5, 6}, {}}, {"level", 0, 10, 5});
    of.uncovered = 3;
    const auto found = search(of);
    for (const Tally& t : found->tallies) EXPECT_EQ(t.untestable, 3);
    EXPECT_EQ(found->tallies[0].caught, 2);
}

TEST(Search, WithoutFailuresNothingIsCaughtAndAnythingIsLuck) {
    const SearchCase of = caseOf({{}, {3, 4}}, {"level", 0, 10, 5});
    const auto found = search(of);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->tallies[found->best].caught + found->tallies[found->best].missed, 0);
    EXPECT_EQ(verdictOf(*shuffled(of, found->scores[found->best], 150, 3)), SearchVerdict::Luck);
    for (const LeaveOut by : {LeaveOut::Failure, LeaveOut::Asset, LeaveOut::Time})
        EXPECT_EQ(leaveOut(of, by)->of, 0);
    EXPECT_FALSE(search({}));
}

TEST(Search, IsStoppedInEveryPart) {
    const SearchCase of = caseOf({{5, 6, 7}, {3}}, {"level", 0, 10, 5});
    const auto stop = [] { return Progress([](double) { return false; }); };
    EXPECT_EQ(search(of, stop()).error().kind, ErrorKind::Cancelled);
    EXPECT_EQ(leaveOut(of, LeaveOut::Failure, stop()).error().kind, ErrorKind::Cancelled);
    EXPECT_EQ(shuffled(of, 1, 10, 1, stop()).error().kind, ErrorKind::Cancelled);
}

TEST(Search, AMapHasTheDeepestOfItsPlainAsTheBest) {
    // Two settings; all right where both are from 3 to 7.
    SearchCase of = caseOf({{5, 5}, {}}, {"a", 0, 10, 11});
    of.vary.push_back({"b", 0, 10, 11});
    const auto caught = of.alarms[0], none = of.alarms[10];
    of.alarms.clear();
    for (int a = 0; a <= 10; ++a)
        for (int b = 0; b <= 10; ++b)
            of.alarms.push_back(a >= 3 && a <= 7 && b >= 3 && b <= 7 ? caught : none);
    const auto found = search(of);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->best, 5u * 11 + 5);
    EXPECT_EQ(found->depth, 3);
    EXPECT_EQ(found->flat.at("a"), (std::pair{3.0, 7.0}));
    EXPECT_EQ(found->flat.at("b"), (std::pair{3.0, 7.0}));
}

TEST(Search, TheWorstBesideTheBestIsFound) {
    // A single good cell: on one side the failure is missed, on another a false alarm is added.
    SearchCase of = caseOf({{5}, {1}}, {"a", 0, 2, 3});
    of.vary.push_back({"b", 0, 2, 3});
    of.aim.kind = AimKind::F;
    const auto withFalse = of.alarms[0], good = of.alarms[2];
    auto none = of.alarms[0];
    for (auto& ofAsset : none) ofAsset.clear();
    of.alarms.assign(9, withFalse);
    of.alarms[4] = good;
    of.alarms[5] = none;
    const auto found = search(of);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->best, 4u);
    EXPECT_EQ(found->worstBeside, 5u) << "missing a failure is worse than a false alarm";
    of.alarms[5] = good;
    EXPECT_EQ(search(of)->tallies[search(of)->worstBeside].falseAlarms, 1);
}

class RandomSearch : public ::testing::TestWithParam<unsigned> {};

TEST_P(RandomSearch, CountsWhatAProofOfEachSettingCounts) {
    std::mt19937 random(GetParam());
    const auto hour = [&](int below) {
        return at(static_cast<int>(random() % static_cast<unsigned>(below)) * kHour);
    };
    SearchCase of;
    of.vary = {{"level", 0, 1, 10}};
    of.spec = {48 * kHour, static_cast<int>(random() % 48) * kHour, static_cast<int>(random() % 8) * kHour,
               static_cast<int>(random() % 4) * kHour};
    for (int a = 0; a < 3; ++a) {
        AssetCase c;
        c.asset = AssetId(a + 1);
        c.recordEnd = at(2000 * kHour);
        c.covered = {between(0, 900 * kHour), between(1000 * kHour, 2000 * kHour)};
        for (int i = 0; i < 4; ++i) c.failures.push_back(hour(2000));
        std::sort(c.failures.begin(), c.failures.end());
        for (int i = 0; i < 5; ++i) {
            const Instant t = hour(2000);
            c.notCounted.push_back({t, t + 30 * kHour});
            c.nearMisses.push_back({t + 50 * kHour, t + 90 * kHour});
            if (i == 0) c.trueAfterAll.push_back({t + 100 * kHour, t + 130 * kHour});
        }
        of.assets.push_back(c);
    }
    for (int s = 0; s < 10; ++s) {
        auto& alarms = of.alarms.emplace_back(3);
        for (auto& on : alarms) {
            for (int i = 0; i < 40; ++i) {
                const Instant t = hour(1990);
                on.push_back({t, t + (1 + static_cast<int>(random() % 9)) * kHour});
            }
            on = joined(on);
        }
    }
    const auto found = search(of);
    ASSERT_TRUE(found);
    for (std::size_t s = 0; s < of.alarms.size(); ++s) {
        std::vector<AssetCase> cases = of.assets;
        for (std::size_t a = 0; a < cases.size(); ++a) cases[a].alarms = of.alarms[s][a];
        const Proof proof = prove(cases, of.spec);
        const Tally& t = found->tallies[s];
        EXPECT_EQ(t.caught, proof.caught);
        EXPECT_EQ(t.missed, proof.missed);
        EXPECT_EQ(t.untestable, proof.untestable);
        EXPECT_EQ(t.cameTrue, proof.cameTrue);
        EXPECT_EQ(t.falseAlarms, proof.falseAlarms);
        EXPECT_EQ(t.falsePerAssetMonth, proof.falsePerAssetMonth);
    }
}

INSTANTIATE_TEST_SUITE_P(Seeds, RandomSearch, ::testing::Range(1u, 21u));

}  // namespace
}  // namespace jacinth
