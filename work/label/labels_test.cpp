// Labels, the label book, and kept spans that become labels.
#include "work/label/labels.h"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/label/kinds.h"
#include "work/survey/kept_spans.h"
#include "work/survey/tag_peaks.h"

namespace jacinth {
namespace {

class Labels : public NewStudy {
  protected:
    void fill() override {
        for (const char* name : {"Press 1", "Press 2"}) {
            const auto asset = study->catalog().addAsset(name);
            study->catalog().addTag(asset, "Temp", "°C", TagKind::Continuous);
        }
    }
    Tag temp(const char* asset = "Press 1") { return *study->catalog().tagAt(std::string(asset) + "/Temp"); }
    std::vector<Span> labels() { return study->tracks().spansOf(track_kind::kLabels); }
    void addKind(const char* name, char key = 0) {
        ASSERT_TRUE(addLabelKind(*study, {name, "", "#8A4FA3", key, false}));
    }
};

TEST_F(Labels, KindsAreAddedOnceWithAKeyOfTheirOwn) {
    const std::size_t before = study->judgement().labelBook().size();
    addKind("slipping belt", 'z');
    EXPECT_EQ(study->judgement().labelBook().size(), before + 1);
    const auto refusal = [&](const LabelKind& kind) { return addLabelKind(*study, kind).error().message; };
    EXPECT_EQ(refusal({"slipping belt", "", "#8A4FA3", 0, false}), "there is a kind `slipping belt` already");
    EXPECT_EQ(refusal({"other", "", "#8A4FA3", 'z', false}), "`slipping belt` has the key z already");
    for (const char* colour : {"red", "#12345", "#12345G", ""})
        EXPECT_EQ(refusal({"other", "", colour, 0, false}),
                  std::string("the colour of `other` is `") + colour + "`; one is like #8A4FA3");
    EXPECT_FALSE(addLabelKind(*study, {"  ", "", "#8A4FA3", 0, false}));
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().labelBook().size(), before);
}

TEST_F(Labels, EverySpanOfATrackBecomesALabelOnce) {
    addKind("surge");
    const auto track = keepStretches(*study, "Hot", temp(),
                                     {between(0, kHour), between(2 * kHour, 3 * kHour), between(kDay, kDay)},
                                     {{"state", std::string("Run")}});
    ASSERT_TRUE(track);
    const auto done = labelSpans(*study, study->tracks().spans(*track), "surge", "Hot");
    ASSERT_TRUE(done);
    EXPECT_EQ(done->added.size(), 2u);  // a moment has no length to mark
    ASSERT_EQ(labels().size(), 2u);
    EXPECT_EQ(labels()[1].start, at(2 * kHour));
    EXPECT_EQ(labels()[1].tag, temp().id);
    EXPECT_EQ(factText(labels()[1].facts, "kind"), "surge");
    EXPECT_EQ(factText(labels()[1].facts, "state"), "Run");
    EXPECT_EQ(factText(labels()[1].facts, "from"), "Hot");
    EXPECT_EQ(factText(labels()[1].facts, "note"), "");
    EXPECT_EQ(factText(labels()[1].facts, "by"), study->who());
    const auto again = labelSpans(*study, study->tracks().spans(*track), "surge", "Hot");
    EXPECT_EQ(again->added.size(), 0u);
    EXPECT_EQ(again->known, 2u);
    EXPECT_EQ(labels().size(), 2u);
    EXPECT_EQ(study->history().undoName(), "labels surge from Hot");
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(labels().empty());
    EXPECT_FALSE(labelSpans(*study, study->tracks().spans(*track), "gremlins", "Hot"));
}

TEST_F(Labels, OnlyALabelIsRemovedAsOne) {
    addKind("surge");
    const auto track = keepStretches(*study, "Hot", temp(), {between(0, kHour)}, {});
    const SpanId span = study->tracks().spans(*track).front().id;
    EXPECT_EQ(removeLabels(*study, {span}).error().message, std::to_string(span.number) + " is not a label");
    const auto label = addLabelled(*study, {{}, temp().asset, {}, at(0), at(kHour), {}}, "surge", "");
    ASSERT_TRUE(removeLabels(*study, {*label}));
    EXPECT_TRUE(labels().empty());
    EXPECT_EQ(study->tracks().spans(*track).size(), 1u);
}

TEST_F(Labels, KeptTracksStandByAssetAndAreRemovedWithTheirSpans) {
    ASSERT_TRUE(keepStretches(*study, "Hot", temp(), {between(0, kHour), between(2 * kHour, 3 * kHour)}, {}));
    ASSERT_TRUE(keepStretches(*study, "Cold", temp("Press 2"), {between(0, kHour)}, {}));
    Peak peak{};
    peak.left = at(kHour);
    peak.right = at(2 * kHour);
    keepPeaks(*study, "Peaks", temp(), {peak}, kMinute);
    const auto names = [&](const char* asset) {
        std::vector<std::string> out;
        for (const Track& t : keptTracks(*study, study->catalog().assetNamed(asset)->id))
            out.push_back(t.name);
        return out;
    };
    EXPECT_EQ(names("Press 1"), (std::vector<std::string>{"Hot", "Peaks"}));
    EXPECT_EQ(names("Press 2"), std::vector<std::string>{"Cold"});
    // Kept again: what was there gives way.
    ASSERT_TRUE(keepStretches(*study, "Hot", temp(), {between(5 * kHour, 6 * kHour)}, {}));
    EXPECT_EQ(study->tracks().spans(study->tracks().named("Hot")->id).size(), 1u);
    EXPECT_NE(keepStretches(*study, "Peaks", temp(), {between(0, 1)}, {})
                  .error()
                  .message.find("is a track of peaks"),
              std::string::npos);
    EXPECT_FALSE(keepStretches(*study, " ", temp(), {between(0, 1)}, {}));
    const auto hot = study->tracks().named("Hot")->id;
    ASSERT_TRUE(removeKept(*study, hot));
    EXPECT_FALSE(study->tracks().named("Hot"));
    EXPECT_EQ(names("Press 1"), std::vector<std::string>{"Peaks"});
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->tracks().spans(hot).size(), 1u);
    // A track of another kind stays.
    TrackId runs;
    study->change("runs", "", {}, [&] { runs = study->tracks().put("Runs", track_kind::kRuns); });
    EXPECT_FALSE(removeKept(*study, runs));
    EXPECT_TRUE(study->tracks().named("Runs"));
    EXPECT_TRUE(study->check().empty());
}

}  // namespace
}  // namespace jacinth
