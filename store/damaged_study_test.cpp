// Files that are damaged, old, or of another program.
#include <gtest/gtest.h>
#include <sqlite3.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/judgement.h"
#include "store/ledger_chain.h"
#include "store/schema.h"
#include "store/study.h"
#include "store/study_database.h"
#include "store/study_file_fixture.h"
#include "store/tracks.h"

namespace jacinth {
namespace {

TEST_F(StudyTest, CheckFindsADamagedBlock) {
    const TagId id = tag();
    write(id, wavy(20000));
    EXPECT_TRUE(study->check().empty());
    databaseOf(*study).run("UPDATE block SET greatest = greatest + 1 WHERE id = 1");
    databaseOf(*study).run("UPDATE block_samples SET data = substr(data, 1, 900) WHERE block = 2");
    study->reload();
    const auto faults = study->check();
    ASSERT_EQ(faults.size(), 2u);
    EXPECT_NE(faults[0].find("figures do not agree"), std::string::npos);
    EXPECT_NE(faults[1].find("damaged"), std::string::npos);
    EXPECT_NE(faults[1].find("Kiln 3/Air-off RH"), std::string::npos);
}

TEST_F(StudyTest, OtherFilesAreRefusedAndLeftAlone) {
    const std::string other = (dir / "other.db").string();
    {
        Database db(other, Database::Mode::Create);
        db.run("CREATE TABLE mine(x)");
    }
    const auto opened = Study::open(other);
    ASSERT_FALSE(opened);
    EXPECT_NE(opened.error().message.find("not a Jacinth study"), std::string::npos);
    std::ofstream(dir / "text.txt") << "time,value\n";
    EXPECT_FALSE(Study::open((dir / "text.txt").string()));
    EXPECT_FALSE(Study::open((dir / "nothing").string()));
    EXPECT_FALSE(Study::create(path));
    databaseOf(*study).run("PRAGMA user_version = 99");
    study.reset();
    EXPECT_NE(Study::open(path).error().message.find("newer Jacinth"), std::string::npos);
}

TEST_F(StudyTest, ANewerStudyThatSaysSoIsOpenedForReading) {
    const auto make = [&](const char* sql) {
        study.reset();
        Database db(path, Database::Mode::ReadWrite);
        db.run(sql);
    };
    const std::size_t tags = study->catalog().tags().size();
    study->setSetting("readable from format", std::to_string(kSchemaVersion));
    make("CREATE TABLE of_the_future(x); PRAGMA user_version = 99");
    auto opened = Study::open(path);
    ASSERT_TRUE(opened) << opened.error().message;
    EXPECT_TRUE((*opened)->readOnly() && (*opened)->isNewer());
    EXPECT_EQ((*opened)->catalog().tags().size(), tags);
    EXPECT_THROW((*opened)->setSetting("plant", "other"), StoreError);
    opened = Error{""};
    // Not where it says that older programs would misread it, nor where a table is another one.
    make("UPDATE setting SET value = '98' WHERE name = 'readable from format'");
    EXPECT_FALSE(Study::open(path));
    make("UPDATE setting SET value = '8x' WHERE name = 'readable from format'");
    EXPECT_FALSE(Study::open(path));
    make(
        "UPDATE setting SET value = '8' WHERE name = 'readable from format'; ALTER TABLE golden_run RENAME "
        "TO "
        "chosen_run");
    EXPECT_FALSE(Study::open(path, true));
}

TEST_F(StudyTest, AStudyOfTheFormatBeforeKeepsEverything) {
    const std::string old = (dir / "old.jacinth").string();
    {
        Database db(old, Database::Mode::Create);
        createTablesOf(db, 5);
        db.run(
            "INSERT INTO asset(id, name, kind) VALUES(3, 'Kiln 3', 'Kiln');"
            "INSERT INTO tag(id, asset, name, role, kind) VALUES(7, 3, 'RH', 'rh', 0);"
            "INSERT INTO track(id, name, kind) VALUES(2, 'Runs', 'runs');"
            "INSERT INTO span(id, track, asset, start, end) VALUES(41, 2, 3, 10, 20);"
            "INSERT INTO golden_run(track, span, why) VALUES(2, 41, 'good');"
            "INSERT INTO golden_run(track, span, why) VALUES(2, 99, 'of a run that is gone');"
            "INSERT INTO fix(tag, kind, start, end, start_by, end_by, is_on, why, who, entered) "
            "VALUES(7, 'shift', 1, 2, 0.5, 0.5, 1, 'w', 'M. L.', 5);"
            "INSERT INTO import(at, file, kind, bytes, rows, samples, bad_rows, complete) VALUES(1, 'f', "
            "'wide', 1, 1, 1, 1, 1);"
            "INSERT INTO bad_row(import, line, reason, text) VALUES(1, 4, 'r', 't');"
            "INSERT INTO ledger(at, who, what, why, detail) VALUES(1, 'M. L.', 'one', '', '{}');"
            "INSERT INTO ledger(at, who, what, why, detail) VALUES(2, 'M. L.', 'two', '', '{}');"
            "INSERT INTO setting(name, value) VALUES('zone', 'Europe/Oslo')");
    }
    auto s = std::move(*Study::open(old));
    EXPECT_EQ(s->catalog().tag(TagId(7))->path(), "Kiln 3/RH");
    EXPECT_EQ(s->judgement().goldenRuns(TrackId(2)), std::vector{SpanId(41)});
    EXPECT_EQ(s->judgement().fixes(TagId(7)).size(), 1u);
    EXPECT_EQ(s->imports().badRows(ImportId(1)).at(0).reason, "r");
    EXPECT_EQ(s->history().ledger().size(), 2u);
    EXPECT_EQ(s->zone().name(), "Europe/Oslo");
    EXPECT_EQ(s->check(), std::vector<std::string>{});
    EXPECT_TRUE(Study::open(old, true));
}

TEST_F(StudyTest, AChangedRowIsNamedAndNotUsed) {
    const auto id = tag();
    write(id, wavy(500));
    const auto track = study->tracks().put("Runs", track_kind::kRuns);
    study->change("all", "", {}, [&] {
        study->tracks().addSpan(track, {{}, {}, {}, at(1), at(2), {}});
        study->judgement().addFix({{}, id, ShiftFix{1}, at(0), at(10)});
        study->judgement().putRule({"wear", "@x > 1", {}});
    });
    ASSERT_EQ(study->check(), std::vector<std::string>{});
    study.reset();
    {
        // Another program, without the checksums.
        Database db(path, Database::Mode::ReadWrite);
        db.run("UPDATE span SET end = 3; UPDATE fix SET start_by = 2; UPDATE rule SET text = '@x > 2'");
    }
    study = std::move(*Study::open(path));
    EXPECT_TRUE(study->tracks().spans(track).empty());
    EXPECT_TRUE(study->judgement().fixes(id).empty());
    EXPECT_TRUE(study->judgement().rules().empty());
    EXPECT_EQ(study->damage().size(), 3u);
    EXPECT_EQ(study->check().size(), 3u);
}

TEST_F(StudyTest, LostAndForeignRowsAreNamed) {
    const auto id = tag();
    write(id, wavy(5000));
    TrackId track;
    study->change("all", "", {}, [&] {
        track = study->tracks().put("Runs", track_kind::kRuns);
        for (int i = 0; i < 3; ++i) study->tracks().addSpan(track, {{}, {}, {}, at(i), at(i + 1), {}});
    });
    study->change("one less", "", {},
                  [&] { study->tracks().removeSpan(study->tracks().spans(track).front().id); });
    ASSERT_EQ(study->check(), std::vector<std::string>{});
    ASSERT_TRUE(study->history().undo());
    ASSERT_EQ(study->check(), std::vector<std::string>{});
    study.reset();
    const auto tamper = [&](const char* sql) {
        const std::string copy = (dir / "lost.jacinth").string();
        fs::copy_file(path, copy, fs::copy_options::overwrite_existing);
        {
            Database db(copy, Database::Mode::ReadWrite);
            db.run(sql);
        }
        auto s = std::move(*Study::open(copy));
        return std::pair(s->damage(), s->check());
    };
    const auto [quick, all] = tamper("DELETE FROM span WHERE start = 1");
    ASSERT_EQ(quick.size(), 1u);
    EXPECT_EQ(quick[0], "table span: 2 rows are there where 3 were counted");
    EXPECT_EQ(all, quick);
    // A copy of a whole row under another key has a checksum that is not its own.
    const auto [foreign, ignored] = tamper(
        "INSERT INTO span(track, asset, tag, start, end, facts, import, row_sum) "
        "SELECT track, asset, tag, start, end, facts, import, row_sum FROM span LIMIT 1");
    EXPECT_EQ(foreign.size(), 2u);
    // Samples are counted as well, by the full check alone.
    const auto [quickly, fully] = tamper("DELETE FROM block WHERE id = (SELECT max(id) FROM block)");
    EXPECT_TRUE(quickly.empty());
    EXPECT_FALSE(fully.empty());
    const auto [uncounted, same] = tamper("DELETE FROM row_count WHERE name = 'rule'");
    ASSERT_EQ(uncounted.size(), 1u);
    EXPECT_EQ(uncounted[0], "table rule: the count of its rows is missing");
}

TEST_F(StudyTest, TheLedgersChainShowsEveryChange) {
    for (const char* what : {"one", "two", "three"}) {
        WriteBatch t(*study);
        study->history().enterInLedger(what, "why", {{"x", 1}});
        t.commit();
    }
    const auto tamper = [&](const char* sql) {
        const std::string copy = (dir / "tampered.jacinth").string();
        fs::remove(copy);
        EXPECT_TRUE(study->saveCopy(copy));
        Database db(copy, Database::Mode::ReadWrite);
        db.run("DROP TRIGGER ledger_is_append_only; DROP TRIGGER ledger_keeps_all");
        db.run(sql);
        return checkLedger(db);
    };
    EXPECT_EQ(study->check(), std::vector<std::string>{});
    EXPECT_EQ(tamper("SELECT 1").size(), 0u);
    EXPECT_EQ(tamper("UPDATE ledger SET why = 'other' WHERE what = 'two'").size(), 1u);
    EXPECT_GE(tamper("DELETE FROM ledger WHERE what = 'two'").size(), 1u);
    EXPECT_EQ(tamper("DELETE FROM ledger WHERE what = 'three'").size(), 1u);
    EXPECT_GE(
        tamper("INSERT INTO ledger(at, who, what, why, detail, hash) VALUES(1, 'x', 'y', '', '{}', 'abc')")
            .size(),
        1u);
}

TEST_F(StudyTest, WhatCannotBeANumberOfTheFileIsNamed) {
    const auto id = tag();
    study->catalog().addState(id, "Off");
    study->catalog().addState(id, "On");
    study->catalog().addState(id, "Trip");
    Statement(databaseOf(*study), "DELETE FROM state WHERE code = 1").run();
    Statement(databaseOf(*study), "UPDATE tag SET kind = 66, spacing = -5, longest_gap = 0").run();
    study->catalog().reload();
    const Tag t = *study->catalog().tag(id);
    EXPECT_EQ(t.states.at(2), "Trip");
    EXPECT_EQ(t.kind, TagKind::Continuous);
    EXPECT_STREQ(tagKindName(static_cast<TagKind>(100)), "unknown");
    EXPECT_EQ(t.spacing, Duration());
    EXPECT_EQ(study->catalog().faults().size(), 2u);
}

TEST_F(StudyTest, LimitsByTheEndFromAnOlderFormatGetTheirSign) {
    const auto track = study->tracks().put("R", track_kind::kRuns);
    Statement(databaseOf(*study), "INSERT INTO limit_set(name, track, body) VALUES('old', ?, ?)")
        .bind(track,
              R"({"golden":[1],"roles":{"x":{"every":60,"method":"mean-sd","lineUp":"end","k":3,"q":0.05,)"
              R"("leastRuns":3,"slices":[[0,4,1,2,3],[60,4,5,6,7]]}}})")
        .run();
    const LimitSet set = *study->judgement().limitSetNamed("old");
    EXPECT_EQ(set.version, 1);
    const auto& slices = set.byRole.at("x").slices;
    ASSERT_EQ(slices.size(), 2u);
    EXPECT_EQ(slices[0].offset, Place(Duration(-60)));
    EXPECT_EQ(slices[0].centre, 6);
    EXPECT_EQ(slices[1].offset, Place());
    EXPECT_EQ(set.byRole.at("x").spec.smooth, 1);
}

}  // namespace
}  // namespace jacinth
