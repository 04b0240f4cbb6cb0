#include <gtest/gtest.h>
#include <sqlite3.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "core/series/text_value.h"
#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/ledger_chain.h"
#include "store/sample_store.h"
#include "store/schema.h"
#include "store/study.h"
#include "store/study_database.h"
#include "store/study_file_fixture.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

TEST_F(StudyTest, SamplesSurviveReopening) {
    const TagId id = tag();
    const Series s = wavy(30000);
    EXPECT_EQ(write(id, s).added, 30000);
    reopen();
    const Series back = study->samples().read(id, kAlways, {});
    EXPECT_EQ(back.times, s.times);
    EXPECT_EQ(back.values, s.values);
    EXPECT_TRUE(study->check().empty());
    EXPECT_EQ(study->catalog().tagAt("Kiln 3/Air-off RH")->role, "air_off_rh");
}

TEST_F(StudyTest, WritingAgainChangesNothingAndLateSamplesFindTheirPlace) {
    const TagId id = tag();
    const Series s = wavy(20000);
    Series odd, even;
    for (std::size_t i = 0; i < s.size(); ++i) (i % 2 ? odd : even).push(s.times[i], s.values[i]);
    EXPECT_EQ(write(id, odd).added, 10000);
    EXPECT_EQ(write(id, even).added, 10000);
    EXPECT_EQ(write(id, s).unchanged, 20000);
    Series one;
    one.push(s.times[77], -1);
    EXPECT_EQ(write(id, one).replaced, 1);
    const Series back = study->samples().read(id, kAlways, {});
    EXPECT_EQ(back.times, s.times);
    EXPECT_EQ(back.values[77], -1);
    EXPECT_TRUE(study->check().empty());
}

TEST_F(StudyTest, DisorderInOneBatchIsSettledLaterEntryStands) {
    const TagId id = tag();
    Series s;
    s.push(at(30), 3), s.push(at(10), 1), s.push(at(20), 2), s.push(at(10), 9);
    EXPECT_EQ(write(id, s).added, 3);
    EXPECT_EQ(study->samples().read(id, between(0, 100), {}).values, (std::vector<double>{9, 2, 3}));
}

TEST_F(StudyTest, ReadGivesTheNeighboursToo) {
    const TagId id = tag();
    Series s;
    for (int i = 0; i < 20000; ++i) s.push(at(i * kSecond), i);
    write(id, s);
    const Series part = study->samples().read(id, between(8000 * kSecond + kNanosecond, 8500 * kSecond), {});
    EXPECT_EQ(part.values.front(), 8000);
    EXPECT_EQ(part.values.back(), 8500);
    const Series middle = study->samples().read(
        id, between(8191 * kSecond + kNanosecond, 8191 * kSecond + 2 * kNanosecond), {});
    EXPECT_EQ(middle.values, (std::vector<double>{8191, 8192}));
    EXPECT_EQ(study->samples().read(id, between(30000 * kSecond, 30001 * kSecond), {}).values,
              (std::vector<double>{19999}));
}

TEST_F(StudyTest, AValueIsFoundPastSamplesOfBadQuality) {
    const auto line = tag(), held = tag("Step");
    Series s;
    for (int i = 0; i < 100; ++i)
        s.push(at(i * kMinute), i, i >= 40 && i < 45 ? Quality::Bad : Quality::Good);
    write(line, s);
    Series h;
    h.push(at(0), 7);
    for (int i = 1; i < 2000; ++i) h.push(at(i * kMinute), 9, Quality::Bad);
    write(held, h);
    Tag step = *study->catalog().tag(held);
    step.kind = TagKind::Stepped;
    EXPECT_DOUBLE_EQ(
        study->valueAt(*study->catalog().tag(line), at(42 * kMinute + 30 * kSecond), Which::Mended), 42.5);
    EXPECT_DOUBLE_EQ(study->valueAt(step, at(1900 * kMinute), Which::Mended), 7);
    EXPECT_TRUE(std::isnan(study->valueAt(step, at(-kMinute), Which::Mended)));
}

TEST_F(StudyTest, ASpikeOfOneSampleIsInTheColumnsAtEveryZoom) {
    const TagId id = tag();
    Series s = wavy(300000);
    s.values[123456] = 999;
    write(id, s);
    const Instant spike = s.times[123456];
    for (Duration width = 400 * kDay; width > kMinute; width = width * 2 / 3) {
        double greatest = 0;
        const auto columns =
            study->samples().columns(id, {spike - width / 3, spike - width / 3 + width}, 900, {});
        EXPECT_LT(columns.size(), 2400u) << width;
        for (const Summary& c : columns) greatest = std::max(greatest, c.usable ? c.greatest : 0);
        EXPECT_EQ(greatest, 999) << formatDuration(width);
    }
}

TEST_F(StudyTest, MendedColumnsAgreeWithMendedSamples) {
    const TagId id = tag();
    const Series s = wavy(40000);
    write(id, s);
    Fix ramp;
    ramp.tag = id;
    ramp.from = s.times[9000], ramp.to = s.times[25000];
    ramp.body = RampFix{0, -9.5};
    study->change("ramp", "drift", {}, [&] { study->judgement().addFix(ramp); });
    const Tag t = *study->catalog().tag(id);
    const TimeRange range{s.times[100], s.times[39000]};
    ColumnBuilder expected(range, 300);
    expected.add(study->read(t, range, Which::Mended).view());
    const auto want = expected.take(), got = study->columns(t, range, 300, Which::Mended);
    double least = 1e9, leastGot = 1e9;
    for (const Summary& c : want) least = std::min(least, c.least);
    for (const Summary& c : got) leastGot = std::min(leastGot, c.least);
    EXPECT_EQ(least, leastGot);
    EXPECT_DOUBLE_EQ(study->valueAt(t, s.times[25000], Which::Mended), s.values[25000] - 9.5);
    EXPECT_DOUBLE_EQ(study->valueAt(t, s.times[25000], Which::AsLogged), s.values[25000]);
}

TEST_F(StudyTest, ChangesAreUndoneRedoneAndEnteredInTheLedger) {
    const TagId id = tag();
    study->setWho("M. L.");
    Fix f;
    f.tag = id, f.from = at(0), f.to = at(10), f.body = ShiftFix{1}, f.why = "probe knocked";
    study->change("shift on Kiln 3 Air-off RH", f.why, {{"by", 1}}, [&] { study->judgement().addFix(f); });
    const TrackId track = [&] {
        TrackId made;
        study->change("labels", "", {}, [&] { made = study->tracks().put("Labels", track_kind::kLabels); });
        return made;
    }();
    EXPECT_EQ(study->history().undoName(), "labels");
    ASSERT_TRUE(study->history().undo());
    EXPECT_FALSE(study->tracks().named("Labels"));
    EXPECT_EQ(study->history().undoName(), "shift on Kiln 3 Air-off RH");
    EXPECT_EQ(study->history().redoName(), "labels");
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(study->judgement().fixes(id).empty());
    reopen();  // undo outlives the program
    ASSERT_TRUE(study->history().redo());
    ASSERT_EQ(study->judgement().fixes(id).size(), 1u);
    EXPECT_EQ(study->judgement().fixes(id)[0].why, "probe knocked");
    EXPECT_EQ(study->judgement().fixes(id)[0].who, "M. L.");
    ASSERT_TRUE(study->history().redo());
    EXPECT_EQ(study->tracks().named("Labels")->id, track);
    EXPECT_FALSE(study->history().redo());
    EXPECT_EQ(study->history().ledger().size(), 6u);
    EXPECT_EQ(study->history().ledger()[2].what, "undo: labels");
}

TEST_F(StudyTest, TwoStepsInARowAreJoinedToOne) {
    const auto put = [&](const char* name) {
        study->change(name, "", {}, [&] { study->tracks().put(name, track_kind::kLabels); });
        return study->history().newest();
    };
    const auto first = put("First");
    put("Second");
    study->history().join(first);
    EXPECT_EQ(study->history().undoName(), "Second");
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(study->tracks().all().empty());
    EXPECT_EQ(study->history().undoName(), "");
    ASSERT_TRUE(study->history().redo());
    EXPECT_EQ(study->tracks().all().size(), 2u);
    EXPECT_EQ(study->history().redoName(), "");
    // Where another step came between nothing is joined.
    const auto third = put("Third");
    put("Fourth");
    put("Fifth");
    study->history().join(third);
    ASSERT_TRUE(study->history().undo());
    EXPECT_TRUE(study->tracks().named("Fourth"));
    EXPECT_EQ(study->history().undoName(), "Fourth");
}

TEST_F(StudyTest, CheckNamesACodeThatHasNoName) {
    WriteBatch t(*study);
    const TagId states =
                    study->catalog().addTag(study->catalog().addAsset("Kiln 3"), "Mode", "", TagKind::State),
                texts = study->catalog().addTag(study->catalog().addAsset("Kiln 3"), "Flow", "",
                                                TagKind::Continuous);
    Series s;
    s.push(at(0), study->catalog().addState(states, "Auto"));
    s.push(at(1), study->catalog().addState(states, "Off"));
    study->samples().write(states, s);
    s.values[0] = 1.5;
    s.values[1] = valueOfText(static_cast<std::uint32_t>(study->catalog().addState(texts, "No Data")));
    study->samples().write(texts, s);
    t.commit();
    EXPECT_TRUE(study->check().empty());
    databaseOf(*study).run("DELETE FROM state WHERE name IN ('Off', 'No Data')");
    study->reload();
    const auto faults = study->check();
    ASSERT_EQ(faults.size(), 2u);
    EXPECT_NE(faults[0].find("the code 1 has no name among the 1 states of the tag"), std::string::npos)
        << faults[0];
    EXPECT_NE(faults[1].find("the code 0 has no name among the 0 states of the tag"), std::string::npos)
        << faults[1];
}

TEST_F(StudyTest, TheLedgerCannotBeChanged) {
    study->change("labels", "", {}, [&] { study->tracks().put("Labels", track_kind::kLabels); });
    EXPECT_THROW(databaseOf(*study).run("UPDATE ledger SET who = 'somebody else'"), StoreError);
    EXPECT_THROW(databaseOf(*study).run("DELETE FROM ledger"), StoreError);
}

TEST_F(StudyTest, AChangeThatFailsLeavesNothing) {
    EXPECT_THROW(study->change("half", "", {},
                               [&] {
                                   study->tracks().put("Runs", track_kind::kRuns);
                                   study->tracks().put("Runs", track_kind::kLabels);
                               }),
                 StoreError);
    EXPECT_TRUE(study->tracks().all().empty());
    EXPECT_TRUE(study->history().ledger().empty());
    EXPECT_EQ(study->history().undoName(), "");
}

TEST_F(StudyTest, LimitsAndRulesComeBack) {
    LimitSet set;
    set.name = "spring";
    set.goldenRuns = {SpanId(3), SpanId(5)};
    GoldenLimits g;
    g.slices = {{Place(), 5, 1, 2, 3}, {Place(kMinute), 1, std::nan(""), std::nan(""), std::nan("")}};
    set.byRole["air_off_rh"] = g;
    study->change("limits", "", {}, [&] {
        study->judgement().putLimitSet(set);
        study->judgement().putRule({"wear", "@bearing_vibration > 4", {36 * kHour, 6 * kHour, kHour}});
    });
    reopen();
    const LimitSet back = *study->judgement().limitSetNamed("spring");
    EXPECT_EQ(back.goldenRuns, set.goldenRuns);
    EXPECT_EQ(back.byRole.at("air_off_rh").slices[0].high, 3);
    EXPECT_TRUE(std::isnan(back.byRole.at("air_off_rh").slices[1].low));
    EXPECT_EQ(study->judgement().rules().at(0).spec.least, 6 * kHour);
    EXPECT_EQ(study->judgement().labelBook().size(), firstLabelBook().size());
}

TEST_F(StudyTest, IdentifiersAreNeverUsedAgain) {
    const auto track = study->tracks().put("Runs", track_kind::kRuns);
    const auto add = [&] {
        SpanId id;
        study->change("run", "", {}, [&] {
            id = study->tracks().addSpan(track, {{}, {}, {}, at(1), at(2), {}});
        });
        return id;
    };
    const auto first = add();
    study->change("golden", "", {}, [&] { study->judgement().setGoldenRuns(track, {first}, "by eye"); });
    study->change("clear", "", {}, [&] { study->tracks().clear(track); });
    const auto second = add();
    EXPECT_GT(second, first);
    EXPECT_TRUE(study->judgement().goldenRuns(track).empty());
    study->change("remove", "", {}, [&] { study->tracks().removeSpan(second); });
    EXPECT_GT(add(), second);
    // What is undone comes back as what it was, with its mark.
    for (int i = 0; i < 4; ++i) ASSERT_TRUE(study->history().undo());
    EXPECT_EQ(study->judgement().goldenRuns(track), std::vector{first});
    EXPECT_EQ(study->check(), std::vector<std::string>{});
}

TEST_F(StudyTest, ACheckSeesOneStateWhateverIsWrittenMeanwhile) {
    const auto id = tag();
    write(id, wavy(100));
    auto reader = std::move(*Study::open(path, true));
    {
        Snapshot snapshot(databaseOf(*reader));
        Statement before(databaseOf(*reader), "SELECT count(*) FROM ledger");
        ASSERT_TRUE(before.step());
        const auto entries = before.integer(0);
        study->change("meanwhile", "", {}, [&] { study->tracks().put("Runs", track_kind::kRuns); });
        Statement after(databaseOf(*reader), "SELECT count(*) FROM ledger");
        ASSERT_TRUE(after.step());
        EXPECT_EQ(after.integer(0), entries);
        EXPECT_FALSE(reader->tracks().named("Runs"));
        Snapshot inside(databaseOf(*reader));  // within another one it does nothing
    }
    EXPECT_TRUE(reader->tracks().named("Runs"));
    EXPECT_EQ(reader->check(), std::vector<std::string>{});
}

TEST_F(StudyTest, ATrackIsRemovedWithItsSpansAndComesBack) {
    TrackId track;
    study->change("put", "", {}, [&] {
        track = study->tracks().put("Peaks", "peaks");
        study->tracks().addSpan(track, {{}, {}, {}, at(1), at(2), {}});
    });
    study->change("remove", "", {}, [&] { study->tracks().remove(track); });
    EXPECT_FALSE(study->tracks().named("Peaks"));
    EXPECT_TRUE(study->tracks().spans(track).empty());
    ASSERT_TRUE(study->history().undo());
    ASSERT_TRUE(study->tracks().named("Peaks"));
    EXPECT_EQ(study->tracks().named("Peaks")->id, track);
    EXPECT_EQ(study->tracks().spans(track).size(), 1u);
    EXPECT_EQ(study->check(), std::vector<std::string>{});
}

TEST_F(StudyTest, UndoNamesTheStepsOfAnotherProgram) {
    study->change("mine", "", {}, [&] { study->tracks().put("A", track_kind::kLabels); });
    EXPECT_TRUE(study->history().nextUndo()->ours);
    const auto mine = study->history().nextUndo()->id;
    Statement(databaseOf(*study),
              "INSERT INTO history(name, changes, who, origin) VALUES('theirs', x'', 'R. O.', 12)")
        .run();
    EXPECT_FALSE(study->history().nextUndo()->ours);
    EXPECT_EQ(study->history().nextUndo()->who, "R. O.");
    const Status refused = study->history().undo(mine);
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("theirs"), std::string::npos);
}

TEST_F(StudyTest, AStudyThatCannotBeWrittenIsRead) {
    write(tag(), wavy(500));
    study.reset();
    fs::permissions(path, fs::perms::owner_read);
    const auto opened = Study::open(path);
    ASSERT_TRUE(opened) << opened.error().message;
    if (::geteuid() != 0) {
        EXPECT_TRUE((*opened)->readOnly());
    }
    EXPECT_EQ((*opened)->catalog().tags().size(), 1u);
}

TEST_F(StudyTest, NamesAreChecked) {
    for (const char* bad : {"", "  ", "a\nb", "\xFF"}) {
        EXPECT_THROW(study->catalog().addAsset(bad), StoreError) << bad;
        EXPECT_THROW(study->tracks().put(bad, track_kind::kRuns), StoreError) << bad;
    }
}

TEST_F(StudyTest, TwoOpenersSeeEachOther) {
    auto second = std::move(*Study::open(path));
    study->change("labels", "", {}, [&] { study->tracks().put("Labels", track_kind::kLabels); });
    EXPECT_TRUE(second->tracks().named("Labels"));
    second->change("runs", "", {}, [&] { second->tracks().put("Runs", track_kind::kRuns); });
    EXPECT_EQ(study->tracks().all().size(), 2u);
}

TEST_F(StudyTest, ACopyNeverTakesThePlaceOfAnOpenStudy) {
    const std::string other = (dir / "other.jacinth").string();
    auto open = std::move(*Study::create(other));
    open->change("put", "", {}, [&] { open->tracks().put("Runs", track_kind::kRuns); });
    open.reset();
    open = std::move(*Study::open(other));  // at rest: nothing lies in its journal
    const Status refused = study->saveCopy(other, true);
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("is open in a program"), std::string::npos);
    EXPECT_TRUE(open->tracks().named("Runs"));
    open.reset();
    ASSERT_TRUE(study->saveCopy(other, true));
    EXPECT_FALSE((*Study::open(other))->tracks().named("Runs"));
}

TEST_F(StudyTest, SaveACopy) {
    const TagId id = tag();
    write(id, wavy(500));
    const std::string copy = (dir / "copy.jacinth").string();
    ASSERT_TRUE(study->saveCopy(copy));
    EXPECT_FALSE(study->saveCopy(copy));
    auto other = std::move(*Study::open(copy, true));
    EXPECT_EQ(other->samples().whole(id).count, 500u);
}

}  // namespace
}  // namespace jacinth
