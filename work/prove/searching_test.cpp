// Settings searched, and rules compared, on the failures of a study.
#include "work/prove/searching.h"

#include "work/prove/comparing.h"
#include "work/prove/proving_fixture.h"

namespace jacinth {
namespace {

class Searching : public Proving {
  protected:
    SearchRequest over(const std::string& rule, std::vector<Vary> vary) {
        SearchRequest out;
        out.prove = asking(rule);
        out.vary = std::move(vary);
        out.shuffles = 0;
        return out;
    }
    std::string refusal(const SearchRequest& request) {
        const auto found = searchRule(*study, request);
        return found ? "it was searched" : found.error().message;
    }
};

TEST_F(Searching, EverySettingIsWhatAProofOfItAloneSays) {
    const SearchRequest request = over("mean(@vib over {hours}h) > {limit} and @vib < {top}",
                                       {{"hours", 1, 25, 5}, {"limit", 0.5, 5.5, 6}});
    SearchRequest whole = request;
    whole.prove.settings = {{"top", 100}};
    whole.aim.falseAtMost = 0.5;  // kiln 2 has one false alarm in 80 days of two kilns
    const auto found = searchRule(*study, whole);
    ASSERT_TRUE(found) << found.error().message;
    ASSERT_EQ(found->settings.size(), 30u);
    for (std::size_t i = 0; i < found->settings.size(); ++i) {
        ProveRequest one = request.prove;
        one.settings = found->settings[i];
        const Proof proof = proved(one);
        const Tally& t = found->result.tallies[i];
        EXPECT_EQ(std::tuple(t.caught, t.missed, t.untestable, t.cameTrue, t.falseAlarms),
                  std::tuple(proof.caught, proof.missed, proof.untestable, proof.cameTrue, proof.falseAlarms))
            << i;
        EXPECT_EQ(t.falsePerAssetMonth, proof.falsePerAssetMonth) << i;
    }
    EXPECT_EQ(found->result.tallies[found->result.best].caught, 3);
    EXPECT_TRUE(found->verdict.empty()) << "nothing was shuffled";
    EXPECT_EQ(found->leftOut.size(), 1u);
    EXPECT_EQ(found->leftOut[0].of, 3);
}

TEST_F(Searching, MasksAndOneAssetAreTakenIntoAccount) {
    SearchRequest request = over("@vib > {limit}", {{"limit", 0, 6, 7}});
    request.prove.asset = "Kiln 2";
    const auto second = searchRule(*study, request);
    ASSERT_TRUE(second) << second.error().message;
    EXPECT_EQ(second->result.tallies[3].caught, 1);
    EXPECT_EQ(second->result.tallies[3].falseAlarms, 1);
    request.prove.masks = {"Stops", "@vib > 3"};
    EXPECT_EQ(searchRule(*study, request)->result.tallies[3].falseAlarms, 0);
}

TEST_F(Searching, WhatIsKnownComesAfterEachAsset) {
    SearchRequest request = over("@vib > {limit}", {{"limit", 0, 6, 7}});
    std::vector<Searched> soFar;
    const auto whole =
        searchRule(*study, request, {}, [&](const Searched& found) { soFar.push_back(found); });
    ASSERT_TRUE(whole) << whole.error().message;
    ASSERT_EQ(soFar.size(), 2u);
    for (std::size_t i = 0; i < soFar.size(); ++i) {
        EXPECT_EQ(soFar[i].onAssets, i + 1);
        EXPECT_EQ(soFar[i].ofAssets, 2u);
        EXPECT_TRUE(soFar[i].leftOut.empty());
    }
    // On the first asset alone it is what a search there gives.
    request.prove.asset = "Kiln 1";
    const auto first = searchRule(*study, request);
    const auto quiet = searchRule(*study, over("@vib > {limit}", {{"limit", 0, 6, 7}}));
    ASSERT_TRUE(first && quiet);
    for (std::size_t i = 0; i < 7; ++i) {
        const Tally &early = soFar[0].result.tallies[i], &alone = first->result.tallies[i];
        EXPECT_EQ(std::pair(early.caught, early.falseAlarms), std::pair(alone.caught, alone.falseAlarms));
        const Tally &late = soFar[1].result.tallies[i], &all = quiet->result.tallies[i];
        EXPECT_EQ(std::pair(late.caught, late.falseAlarms), std::pair(all.caught, all.falseAlarms));
        EXPECT_EQ(whole->result.scores[i], quiet->result.scores[i]);
    }
    EXPECT_EQ(quiet->onAssets, 2u);
}

TEST_F(Searching, WhatCannotBeSearchedIsSaid) {
    EXPECT_EQ(refusal(over("@vib > {limit}", {})), "say which setting to vary, from where to where");
    SearchRequest both = over("@vib > {limit}", {{"limit", 0, 6, 7}});
    both.prove.settings = {{"limit", 2}};
    EXPECT_EQ(refusal(both), "{limit} is both given and varied");
    EXPECT_NE(refusal(over("@vib > {limit} and {x", {{"limit", 0, 6, 7}})).find("has no }"),
              std::string::npos);
    EXPECT_NE(refusal(over("@vib + {limit}", {{"limit", 0, 6, 7}})).find("a rule is a condition"),
              std::string::npos);
    EXPECT_NE(refusal(over("@steam > {limit}", {{"limit", 0, 6, 7}})), "it was searched");
    EXPECT_NE(refusal(over("mean(@vib over {limit}h) > 1", {{"limit", -1, 1, 3}})), "it was searched")
        << "a window of that length cannot be";
    const auto stopped = searchRule(*study, over("@vib > {limit}", {{"limit", 0, 6, 7}}),
                                    Progress([](double) { return false; }));
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, ErrorKind::Cancelled);
}

TEST(SearchWords, ArePlain) {
    LeftOut left;
    left.caught = 5, left.of = 7;
    EXPECT_EQ(
        verdictSentence({200, 0}, left, {}),
        "On failures it had not seen this rule caught 5 of 7. A search on random moments does as well in "
        "none of 200 tries.");
    EXPECT_NE(
        verdictSentence({200, 40}, left, {}).find("as well in 40 of 200 tries. This is what luck gives"),
        std::string::npos);
    EXPECT_NE(verdictSentence({20, 0}, left, {}).find("too few tries"), std::string::npos);
    EXPECT_NE(verdictSentence({200, 0}, {}, {}).find("too few failures"), std::string::npos);
    Tally none;
    none.untestable = 4;
    EXPECT_EQ(
        verdictSentence({200, 200}, {}, none),
        "None of the 4 failures could be tested with this rule; its proof says why. Do not put it on watch.");
    EXPECT_NE(verdictSentence({}, left, {}).find("not searched on random moments"), std::string::npos);
}

TEST_F(Searching, RulesAreComparedFailureByFailure) {
    const std::vector<NamedRule> rules{{"all", asking("@vib > 3")},
                                       {"second", asking("`Kiln 2/Vib` > 3 and @vib > 3")},
                                       {"never", asking("@vib > 100")}};
    const auto found = compareRules(*study, rules);
    ASSERT_TRUE(found) << found.error().message;
    ASSERT_EQ(found->failures.size(), 4u) << "also the one that none of them covers";
    EXPECT_TRUE(std::is_sorted(found->failures.begin(), found->failures.end(),
                               [](const auto& a, const auto& b) { return a.time < b.time; }));
    EXPECT_EQ(found->caughtByAny, 3);
    for (std::size_t i = 0; i < rules.size(); ++i)
        EXPECT_EQ(found->both[i][i], found->proofs[i].caught) << rules[i].name;
    EXPECT_EQ(found->both[0][1], found->both[1][0]);
    EXPECT_EQ(found->both[0][2], 0);
    int alone = 0;
    for (const ComparedFailure& f : found->failures) alone += f.caughtBy == std::vector<std::size_t>{0};
    EXPECT_EQ(found->alone, (std::vector<int>{alone, 0, 0}));
    for (const ComparedFailure& f : found->failures) EXPECT_LE(f.caughtBy.size(), f.testableBy.size());
}

TEST_F(Searching, AComparisonNeedsTwoRulesAndNamesTheOneThatIsWrong) {
    EXPECT_EQ(compareRules(*study, {{"all", asking("@vib > 3")}}).error().message,
              "say two rules or more to compare");
    const std::string why =
        compareRules(*study, {{"all", asking("@vib > 3")}, {"wrong", asking("@steam > 3")}}).error().message;
    EXPECT_TRUE(why.starts_with("wrong: ")) << why;
    const auto stopped = compareRules(*study, {{"a", asking("@vib > 3")}, {"b", asking("@vib > 4")}},
                                      Progress([](double) { return false; }));
    EXPECT_EQ(stopped.error().kind, ErrorKind::Cancelled);
}

}  // namespace
}  // namespace jacinth
