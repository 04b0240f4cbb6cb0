// Two people's differences, settled: afterwards both say the same, and it can be undone.
#include "work/label/settle.h"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/label/agree.h"
#include "work/label/labels.h"

namespace jacinth {
namespace {

class Settling : public NewStudy {
  protected:
    void fill() override {
        asset = study->catalog().addAsset("Press 1");
        study->catalog().addTag(asset, "Temp", "", TagKind::Continuous);
        study->judgement().setLabelBook(
            {{"leak", "", "#88CCEE", 0, false, ""}, {"normal", "", "#117733", 0, true, ""}});
    }
    void mark(const char* who, int fromMinute, int toMinute, const char* kind) {
        study->setWho(who);
        ASSERT_TRUE(addLabelled(*study, {{}, asset, {}, at(fromMinute * kMinute), at(toMinute * kMinute), {}},
                                kind, ""));
    }
    Agreement between_() { return *agreementBetween(*study, "Ann", "Bo", {}, between(0, kDay)); }
    Status settle(std::size_t n, const char* kind, const char* why = "seen on the camera") {
        return settleDifference(*study, between_().differences[n], "Ann", "Bo", {kind, why});
    }
    AssetId asset;
};

TEST_F(Settling, EachDifferenceIsSettledAndThenThereAreNone) {
    mark("Ann", 0, 60, "leak");
    mark("Bo", 20, 80, "leak");     // Ann alone 0–20, Bo alone 60–80
    mark("Ann", 100, 130, "leak");  // of another kind
    mark("Bo", 100, 130, "normal");
    mark("Bo", 200, 230, "leak");
    ASSERT_EQ(between_().differences.size(), 4u);
    ASSERT_TRUE(settle(0, "leak"));
    ASSERT_TRUE(settle(0, ""));        // 60–80: nothing
    ASSERT_TRUE(settle(0, "normal"));  // 100–130
    ASSERT_TRUE(settle(0, ""));
    EXPECT_TRUE(between_().differences.empty());
    const auto labels = labelsOf(*study);
    ASSERT_EQ(labels.size(), 4u);
    for (const Span& s : {labels[0], labels[1]}) {
        EXPECT_EQ(s.start, at(0)) << "grown to the front, not a second label";
        EXPECT_EQ(s.end, at(60 * kMinute));
    }
    EXPECT_EQ(factText(labels[2].facts, "kind"), "normal");
    EXPECT_EQ(study->history().ledger().back().why, "seen on the camera");
    for (int i = 0; i < 4; ++i) ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(between_().differences.size(), 4u);
}

TEST_F(Settling, ALabelThatCoversTheStretchIsCutInTwo) {
    mark("Ann", 0, 60, "leak");
    mark("Bo", 0, 20, "leak");
    mark("Bo", 30, 60, "leak");
    ASSERT_EQ(between_().differences.size(), 1u);
    ASSERT_TRUE(settle(0, ""));
    EXPECT_TRUE(between_().differences.empty());
    EXPECT_EQ(labelsOf(*study).size(), 4u);
}

TEST_F(Settling, WhatCannotBeSettledChangesNothing) {
    mark("Ann", 0, 60, "leak");
    mark("Bo", 100, 110, "normal");
    EXPECT_FALSE(settle(0, "leak", ""));
    EXPECT_FALSE(settle(0, "gremlins"));
    const Difference there = between_().differences[0];
    ASSERT_TRUE(settle(0, ""));
    EXPECT_FALSE(settleDifference(*study, there, "Ann", "Bo", {"leak", "too late"}));
    EXPECT_EQ(labelsOf(*study).size(), 1u);
}

}  // namespace
}  // namespace jacinth
