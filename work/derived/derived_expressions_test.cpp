// Derived tags by expression: made, used, recalculated when what they are made of changes.
#include "work/derived/derived_expressions.h"

#include <nlohmann/json.hpp>

#include "core/expr/evaluate.h"
#include "core/time/times_for_tests.h"
#include "store/derived_catalog.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/study_database.h"
#include "store/tracks.h"
#include "work/base/study_fixture.h"
#include "work/base/study_inputs.h"
#include "work/derived/derived_refresh.h"
#include "work/derived/derived_tags.h"

namespace jacinth {
namespace {

/// Two kilns with air on and air off for two days, every minute; Kiln 1 has a gap of two hours at noon.
class Derived : public NewStudy {
  protected:
    void fill() override {
        for (const char* name : {"Kiln 1", "Kiln 2"}) {
            const auto asset = study->catalog().addAsset(name);
            const auto on = study->catalog().addTag(asset, "Air on", "°C", TagKind::Continuous);
            const auto off = study->catalog().addTag(asset, "Air off", "°C", TagKind::Continuous);
            Series a, b;
            for (int m = 0; m < 2 * 24 * 60; ++m) {
                if (std::string(name) == "Kiln 1" && m >= 720 && m < 840) continue;
                a.push(at(m * kMinute), 60 + m % 10);
                b.push(at(m * kMinute), 20 + m % 7);
            }
            study->samples().write(on, a);
            study->samples().write(off, b);
            for (const auto id : {on, off}) study->catalog().setSpacing(id, kMinute);
        }
    }
    TagId idOf(const std::string& tag) const { return study->catalog().tagAt(tag)->id; }
    double valueOf(const std::string& of, Instant t) const {
        const auto tag = study->catalog().tagAt(of);
        return tag ? study->valueAt(*tag, t, Which::Mended) : -1;
    }
    std::vector<std::string> refreshed() {
        const auto done = refreshDerived(*study);
        EXPECT_TRUE(done) << done.error().message;
        return done ? done->made : std::vector<std::string>{};
    }
    void define(const std::string& name, const std::string& text, const std::string& asset = "Kiln 1") {
        const auto ids = defineDerived(*study, {name, "", text, asset});
        ASSERT_TRUE(ids) << ids.error().message;
    }
    std::string refusal(const std::string& name, const std::string& text,
                        const std::string& asset = "Kiln 1") {
        const auto ids = defineDerived(*study, {name, "", text, asset});
        return ids ? "" : ids.error().message;
    }
    using Paths = std::vector<std::string>;
};

TEST_F(Derived, IsMadeOnEveryAssetThatCanUseItWithTheUnitOfItsTags) {
    define("Air drop", "@air_on - @air_off", "");
    EXPECT_EQ(refreshed(), (Paths{"Kiln 1/Air drop", "Kiln 2/Air drop"}));
    const auto tag = study->catalog().tagAt("Kiln 1/Air drop");
    EXPECT_EQ(tag->unit, "°C");
    EXPECT_EQ(tag->role, "air_drop");
    EXPECT_EQ(tag->kind, TagKind::Continuous);
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Air drop", at(17 * kMinute)), 67 - 23);
    // The gap of its tags is its own.
    EXPECT_TRUE(std::isnan(valueOf("Kiln 1/Air drop", at(780 * kMinute))));
    EXPECT_FALSE(std::isnan(valueOf("Kiln 2/Air drop", at(780 * kMinute))));
    EXPECT_TRUE(refreshed().empty());  // nothing is stale
}

TEST_F(Derived, IsUsedLikeAnyTag) {
    define("Air drop", "@air_on - @air_off");
    define("Warm", "air_drop > 43 for 2m");
    EXPECT_EQ(refreshed(), (Paths{"Kiln 1/Air drop", "Kiln 1/Warm"}));
    const auto warm = study->catalog().tagAt("Kiln 1/Warm");
    EXPECT_EQ(warm->kind, TagKind::State);
    EXPECT_EQ(warm->states, (Paths{"false", "true"}));
    // The same as the expression written out.
    const auto asset = study->catalog().assetNamed("Kiln 1")->id;
    const TimeRange range = between(kHour, 40 * kHour);
    const auto valueOf = [&](const std::string& text) {
        const auto e = compileExpression(text, namesIn(*study, asset));
        EXPECT_TRUE(e) << e.error().message;
        StudyInputs inputs(*study, asset, range, e->lookBack, Which::Mended);
        return stretches(std::get<Condition>(*evaluate(*e, inputs, range)), range);
    };
    const auto kept = valueOf("@warm is \"true\""), written = valueOf("@air_on - @air_off > 43 for 2m");
    ASSERT_GT(written.size(), 100u);
    ASSERT_EQ(kept.size(), written.size());
    for (std::size_t i = 0; i < kept.size(); ++i) {
        EXPECT_NEAR(static_cast<double>(epochNanoseconds(kept[i].from)),
                    static_cast<double>(epochNanoseconds(written[i].from)), 2);
        EXPECT_NEAR(static_cast<double>(epochNanoseconds(kept[i].to)),
                    static_cast<double>(epochNanoseconds(written[i].to)), 2);
    }
}

TEST_F(Derived, IsRecalculatedWhenSamplesFixesOrTracksChange) {
    define("Air drop", "@air_on - @air_off");
    EXPECT_NE(refusal("Drop in runs", "if(inside(\"Runs\"), air_drop, 0)").find("not a track"),
              std::string::npos);
    study->change("track", "", {}, [&] {
        const auto track = study->tracks().put("Runs", track_kind::kRuns);
        study->tracks().addSpan(track, {{}, {}, {}, at(kHour), at(2 * kHour), {}});
    });
    define("Drop in runs", "if(inside(\"Runs\"), air_drop, 0)");
    EXPECT_EQ(refreshed().size(), 2u);
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Drop in runs", at(90 * kMinute)), 60 + 0 - 20 - 90 % 7);
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Drop in runs", at(3 * kHour)), 0);

    Fix fix;
    fix.tag = idOf("Kiln 1/Air on");
    fix.from = at(kHour), fix.to = at(3 * kHour);
    fix.body = ShiftFix{5};
    study->change("fix", "", {}, [&] { study->judgement().addFix(fix); });
    EXPECT_EQ(refreshed().size(), 2u);
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Drop in runs", at(90 * kMinute)), 65 - 20 - 90 % 7);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(refreshed().size(), 2u);
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Air drop", at(90 * kMinute)), 60 - 20 - 90 % 7);

    {
        WriteBatch t(*study);
        Series more;
        more.push(at(3 * kDay), 99);
        study->samples().write(idOf("Kiln 1/Air off"), more);
        t.commit();
    }
    EXPECT_EQ(refreshed().size(), 2u);
    study->change("more runs", "", {}, [&] {
        study->tracks().addSpan(study->tracks().named("Runs")->id,
                                {{}, {}, {}, at(4 * kHour), at(5 * kHour), {}});
    });
    EXPECT_EQ(refreshed(), Paths{"Kiln 1/Drop in runs"});
    // Of another asset, or of a tag it does not use, nothing changes.
    fix.tag = idOf("Kiln 2/Air on");
    study->change("fix", "", {}, [&] { study->judgement().addFix(fix); });
    EXPECT_TRUE(refreshed().empty());
}

TEST_F(Derived, RoundAboutIsRefusedWithTheWay) {
    define("A", "@air_on + 1");
    define("B", "@a * 2");
    define("C", "@b + @air_off");
    EXPECT_EQ(refusal("A", "@c - 1"),
              "`Kiln 1/A` would be made from itself: `Kiln 1/A` → `Kiln 1/C` → `Kiln 1/B` → `Kiln 1/A`");
    EXPECT_EQ(refusal("A", "@a - 1"), "`Kiln 1/A` would be made from itself: `Kiln 1/A` → `Kiln 1/A`");
    EXPECT_EQ(derivedText(*study, idOf("Kiln 1/A")), "@air_on + 1");
    EXPECT_EQ(refreshed(), (Paths{"Kiln 1/A", "Kiln 1/B", "Kiln 1/C"}));
}

TEST_F(Derived, AWayRoundMadeByRolesHasNoSamplesAndSaysWhy) {
    define("A", "@air_on + 1");
    define("B", "@a * 2");
    refreshed();
    // The role that A reads goes over to B.
    study->change("roles", "", {}, [&] {
        Tag on = *study->catalog().tagAt("Kiln 1/Air on"), b = *study->catalog().tagAt("Kiln 1/B");
        on.role = "air_on_before";
        b.role = "air_on";
        study->catalog().updateTag(on);
        study->catalog().updateTag(b);
    });
    const auto done = refreshDerived(*study);
    ASSERT_TRUE(done);
    EXPECT_TRUE(done->made.empty());
    ASSERT_EQ(done->trouble.size(), 2u);
    EXPECT_NE(done->trouble[0].find("made from itself: `Kiln 1/"), std::string::npos) << done->trouble[0];
    EXPECT_EQ(study->samples().whole(idOf("Kiln 1/B")).count, 0u);
    const auto again = refreshDerived(*study);
    EXPECT_TRUE(again->trouble.empty());  // known already: not done over and over
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(refreshed().size(), 2u);
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/B", at(0)), 122);
}

TEST_F(Derived, UndoAndRedoOfMakingChangingAndTakingAway) {
    define("Air drop", "@air_on - @air_off");
    refreshed();
    ASSERT_TRUE(study->history().undo());
    EXPECT_FALSE(study->catalog().tagAt("Kiln 1/Air drop"));
    EXPECT_TRUE(study->check().empty());
    EXPECT_EQ(databaseOf(*study).number("SELECT count(*) FROM block"), 4 * ((2 * 24 * 60 + 8191) / 8192));
    ASSERT_TRUE(study->history().redo());
    EXPECT_EQ(refreshed(), Paths{"Kiln 1/Air drop"});
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Air drop", at(0)), 40);

    define("Air drop", "(@air_on - @air_off) * 2");
    EXPECT_EQ(study->samples().whole(idOf("Kiln 1/Air drop")).count, 0u);  // no old numbers under a new text
    refreshed();
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Air drop", at(0)), 80);
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(derivedText(*study, idOf("Kiln 1/Air drop")), "@air_on - @air_off");
    refreshed();
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Air drop", at(0)), 40);

    define("Warm", "air_drop > 45");
    EXPECT_EQ(removeDerived(*study, idOf("Kiln 1/Air drop")).error().message,
              "`Kiln 1/Warm` is made from `Kiln 1/Air drop`");
    EXPECT_FALSE(removeDerived(*study, idOf("Kiln 1/Air on")));
    ASSERT_TRUE(removeDerived(*study, idOf("Kiln 1/Warm")));
    ASSERT_TRUE(removeDerived(*study, idOf("Kiln 1/Air drop")));
    EXPECT_FALSE(study->catalog().tagAt("Kiln 1/Air drop"));
    ASSERT_TRUE(study->history().undo());
    ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->catalog().tagAt("Kiln 1/Warm")->states, (Paths{"false", "true"}));
    EXPECT_EQ(refreshed().size(), 2u);
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Air drop", at(0)), 40);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(Derived, KeptTagsCanBeTakenAwayToo) {
    DerivedSeries kept{"Kept", "m", {}, TagKind::Continuous, kHour};
    kept.series.push(at(0), 1);
    kept.series.push(at(kHour), 2);
    ASSERT_TRUE(keepDerived(
        *study, {study->catalog().assetNamed("Kiln 1")->id,
                 {kept},
                 "keep",
                 originOf(*study, *study->catalog().tagAt("Kiln 1/Air on"), study->record(), Which::Mended),
                 {}}));
    EXPECT_NE(refusal("Kept", "@air_on").find("is a kept tag"), std::string::npos);
    ASSERT_TRUE(removeDerived(*study, idOf("Kiln 1/Kept")));
    EXPECT_FALSE(study->catalog().tagAt("Kiln 1/Kept"));
    ASSERT_TRUE(study->history().undo());
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Kept", at(30 * kMinute)), 1.5);
}

TEST_F(Derived, WhatCannotBeIsRefusedWithTheReason) {
    EXPECT_EQ(refusal("", "@air_on"), "a derived tag needs a name");
    EXPECT_NE(refusal("a/b", "@air_on").find("neither"), std::string::npos);
    EXPECT_NE(refusal("X", "@air_onn").find("nearest is `air_on`"), std::string::npos);
    EXPECT_NE(refusal("X", "1 + 2").find("names no tag"), std::string::npos);
    EXPECT_NE(refusal("Air on", "@air_off").find("is a logged tag"), std::string::npos);
    EXPECT_NE(refusal("air-on", "@air_off").find("has the role `air_on` already"), std::string::npos);
    EXPECT_EQ(study->history().undoName(), "");
}

TEST_F(Derived, StopsWhenAskedAndStaysStale) {
    define("Air drop", "@air_on - @air_off");
    EXPECT_FALSE(refreshDerived(*study, [](const std::string&, double) { return false; }));
    ASSERT_EQ(derivedExpressions(*study).size(), 1u);
    EXPECT_TRUE(derivedExpressions(*study)[0].stale);
    EXPECT_EQ(refreshed(), Paths{"Kiln 1/Air drop"});
    EXPECT_FALSE(derivedExpressions(*study)[0].stale);
}

TEST_F(Derived, SaysWhatItWasMadeFrom) {
    define("Air drop", "@air_on - @air_off");
    refreshed();
    const auto made = nlohmann::json::parse(study->derived().state(idOf("Kiln 1/Air drop")).madeFrom);
    EXPECT_EQ(made["expression"], "@air_on - @air_off");
    EXPECT_TRUE(made["tags"].contains("Kiln 1/Air on"));
    EXPECT_TRUE(made["tags"].contains("Kiln 1/Air off"));
    EXPECT_GT(study->derived().state(idOf("Kiln 1/Air drop")).at, Instant());
}

TEST_F(Derived, SoundDataOnlyCounts) {
    Series bad;
    bad.push(at(10 * kMinute), 500, Quality::Uncertain);
    WriteBatch t(*study);
    study->samples().write(idOf("Kiln 1/Air on"), bad);
    t.commit();
    define("Double", "@air_on * 2");
    refreshed();
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Double", at(10 * kMinute)), 1000);
    study->setSetting(kSoundDataOnly, "yes");
    EXPECT_EQ(refreshed(), Paths{"Kiln 1/Double"});
    EXPECT_DOUBLE_EQ(valueOf("Kiln 1/Double", at(10 * kMinute)),
                     69 + 61);  // the line from 69 to 61 over it, twice its middle
}

}  // namespace
}  // namespace jacinth
