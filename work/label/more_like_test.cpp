// More of the same shape, over a fleet.
#include "work/label/more_like.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "work/base/study_fixture.h"

namespace jacinth {
namespace {

constexpr int kMinutes = 6000;

/// Three presses with `Temp`, a minute a sample: a slow wave with little noise, and a bump of half an hour at
/// some places, twice as high on Press 2. Press 3 lacks `Load`, which has the bump ten minutes later.
class MoreLikeIt : public NewStudy {
  protected:
    void fill() override {
        const std::map<int, std::vector<int>> bumps{{1, {1000, 3000}}, {2, {500, 4200}}, {3, {2500}}};
        for (const auto& [press, places] : bumps) {
            const AssetId asset = study->catalog().addAsset("Press " + std::to_string(press));
            const auto write = [&, height = press == 2 ? 20.0 : 10.0](const char* name, int later) {
                const TagId tag = study->catalog().addTag(asset, name, "°C", TagKind::Continuous);
                Series s;
                for (int m = 0; m < kMinutes; ++m) {
                    double v = 50 + std::sin(m / 300.0) + (m * 7919 % 13) * 0.01;
                    for (const int place : places)
                        if (const int in = m - place - later; in >= 0 && in < 30)
                            v += height * std::sin(in * 3.14159265 / 30);
                    s.push(at(m * kMinute), v);
                }
                study->samples().write(tag, s);
                study->catalog().setSpacing(tag, kMinute);
            };
            write("Temp", 0);
            if (press != 3) write("Load", 10);
        }
        (void)study->catalog().addTag(press(1), "Mode", "", TagKind::State);
    }
    AssetId press(int n) const { return study->catalog().assetNamed("Press " + std::to_string(n))->id; }
    MoreLike example(std::vector<std::string> roles = {"temp"}) {
        MoreLike out;
        out.asset = press(1);
        out.roles = std::move(roles);
        out.example = {at(995 * kMinute), at(1040 * kMinute)};
        out.search.most = 4;
        return out;
    }
    std::vector<AlikeStretch> found(const MoreLike& question) {
        auto out = moreLike(*study, question);
        EXPECT_TRUE(out) << out.error().message;
        return out ? *out : std::vector<AlikeStretch>();
    }
    std::string refusal(const MoreLike& question) {
        const auto out = moreLike(*study, question);
        return out ? "it was searched" : out.error().message;
    }
    bool isAt(const AlikeStretch& s, int asset, int minute) {
        return s.asset == press(asset) && std::chrono::abs(s.range.from - at(minute * kMinute)) < 3 * kMinute;
    }
};

TEST_F(MoreLikeIt, TheBumpsOfTheFleetAreFoundNearestFirst) {
    const auto hits = found(example());
    ASSERT_EQ(hits.size(), 4u);
    for (const auto& [asset, minute] : {std::pair{1, 2995}, {2, 495}, {2, 4195}, {3, 2495}})
        EXPECT_TRUE(std::any_of(hits.begin(), hits.end(),
                                [&](const AlikeStretch& s) { return isAt(s, asset, minute); }))
            << asset << " " << minute;
    EXPECT_TRUE(std::is_sorted(hits.begin(), hits.end(),
                               [](const auto& a, const auto& b) { return a.distance < b.distance; }));
    for (const AlikeStretch& s : hits) EXPECT_FALSE(isAt(s, 1, 995)) << "the example itself";
}

TEST_F(MoreLikeIt, WithLevelsThoseOfTheSameHeightAreNearest) {
    MoreLike question = example();
    question.search.level = true;
    const auto hits = found(question);
    ASSERT_GE(hits.size(), 2u);
    for (std::size_t i = 0; i < 2; ++i) EXPECT_NE(hits[i].asset, press(2)) << "twice as high";
}

TEST_F(MoreLikeIt, WhereAndOnWhatItIsSearchedIsKeptTo) {
    MoreLike question = example();
    question.assets = {press(2)};
    question.range = {at(0), at(2000 * kMinute)};
    const auto hits = found(question);
    ASSERT_FALSE(hits.empty());
    EXPECT_TRUE(isAt(hits[0], 2, 495));
    for (const AlikeStretch& s : hits) {
        EXPECT_EQ(s.asset, press(2));
        EXPECT_LE(s.range.to, at(2000 * kMinute));
    }
}

TEST_F(MoreLikeIt, OverSeveralTagsOnlyAssetsThatHaveAllOfThem) {
    const auto hits = found(example({"temp", "load"}));
    for (const AlikeStretch& s : hits) EXPECT_NE(s.asset, press(3));
    EXPECT_TRUE(std::any_of(hits.begin(), hits.end(), [&](const auto& s) { return isAt(s, 1, 2995); }));
    EXPECT_TRUE(std::any_of(hits.begin(), hits.end(), [&](const auto& s) { return isAt(s, 2, 4195); }));
}

TEST_F(MoreLikeIt, WhatCannotBeSearchedIsSaid) {
    EXPECT_EQ(refusal(example({})), "say which tags the example is about");
    EXPECT_EQ(refusal(example({"temp", "steam"})), "Press 1 has no tags of numbers in all of these roles");
    EXPECT_EQ(refusal(example({"mode"})), "Press 1 has no tags of numbers in all of these roles");
    MoreLike question = example();
    question.example = {at(0), at(0)};
    EXPECT_EQ(refusal(question), "the example has no length");
    question.example = {at(-kDay), at(kHour)};
    EXPECT_EQ(refusal(question), "the example lies outside the record");
    question.example = {at(kHour), at(kHour + 2 * kMinute)};
    EXPECT_NE(refusal(question), "it was searched") << "too few values";
    question = example();
    question.asset = AssetId(999);
    EXPECT_EQ(refusal(question), "the asset of the example is not in this study");
    const auto stopped = moreLike(*study, example(), [](double) { return false; });
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, ErrorKind::Cancelled);
}

TEST_F(MoreLikeIt, ItsValuesComeInAsManyStepsAsAreAsked) {
    const MoreLike question = example({"temp", "load"});
    const auto both = valuesOf(*study, question, press(1), question.example, 45);
    ASSERT_EQ(both.size(), 2u);
    EXPECT_EQ(both[0].size(), 45u);
    EXPECT_GT(*std::max_element(both[0].begin(), both[0].end()), 58);
    const auto one = valuesOf(*study, question, press(3), {at(2495 * kMinute), at(2540 * kMinute)}, 9);
    EXPECT_EQ(one[0].size(), 9u);
    EXPECT_TRUE(one[1].empty()) << "it lacks the tag";
}

}  // namespace
}  // namespace jacinth
