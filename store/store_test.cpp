#include <gtest/gtest.h>
#include <sqlite3.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "store/history.h"
#include "store/ledger_chain.h"
#include "store/schema.h"
#include "store/study.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;

Series wavy(int n, int decimals = 2, unsigned seed = 3) {
    std::mt19937 random(seed);
    Series s;
    Instant t = *fromIso("2026-03-01T00:00:00Z");
    for (int i = 0; i < n; ++i) {
        t += 30 * kSecond + static_cast<Instant>(random() % 40) * kMillisecond;
        const double scale = std::pow(10, decimals);
        s.push(t, std::round((50 + 20 * std::sin(i * 0.01) + static_cast<double>(random() % 100) / 200) *
                             scale) /
                      scale);
    }
    return s;
}

TEST(BlockCodec, EveryDoubleComesBackBitForBit) {
    Series s = wavy(1000);
    for (const double odd : {0.0, -0.0, 1e300, -1e-300, 0.1 + 0.2, 1.0 / 3, 123456789.123456, 1e9, 1e9 + 0.1})
        s.push(s.times.back() + 1, odd);
    s.quality.clear();
    s.push(s.times.back() + kSecond, 5, Quality::Bad);
    const Series back = decodeSamples(encodeSamples(s));
    ASSERT_EQ(back.times, s.times);
    EXPECT_EQ(std::memcmp(back.values.data(), s.values.data(), s.size() * 8), 0);
    EXPECT_EQ(back.view().qualityAt(s.size() - 1), Quality::Bad);
    EXPECT_EQ(back.view().qualityAt(0), Quality::Good);
}

TEST(BlockCodec, DecimalsAreSmallAndExact) {
    for (int decimals = 0; decimals <= 6; ++decimals) {
        const Series s = wavy(static_cast<int>(kBlockSamples), decimals);
        const Blob bytes = encodeSamples(s);
        EXPECT_EQ(decodeSamples(bytes).values, s.values);
        if (decimals <= 2) {
            EXPECT_LT(bytes.size(), 3 * s.size());
        }
    }
}

TEST(BlockCodec, CellsComeBack) {
    Series s = wavy(1000);
    s.quality.assign(s.size(), Quality::Good);
    for (std::size_t i = 64; i < 128; ++i) s.quality[i] = Quality::Bad;
    const auto cells = cellsOf(s), back = decodeCells(encodeCells(cells));
    ASSERT_EQ(back.size(), cells.size());
    for (std::size_t i = 0; i < cells.size(); ++i) {
        EXPECT_EQ(back[i].firstTime, cells[i].firstTime);
        EXPECT_EQ(back[i].lastTime, cells[i].lastTime);
        EXPECT_EQ(back[i].usable, cells[i].usable);
        if (cells[i].usable) {
            EXPECT_EQ(back[i].least, cells[i].least);
            EXPECT_EQ(back[i].sum, cells[i].sum);
        }
    }
}

TEST(BlockCodec, DamageIsSeen) {
    const Blob whole = encodeSamples(wavy(500));
    std::mt19937 random(5);
    int seen = 0;
    for (int i = 0; i < 2000; ++i) {
        Blob bytes = whole;
        bytes[random() % bytes.size()] ^= static_cast<std::uint8_t>(1 + random() % 255);
        if (i % 3 == 0) bytes.resize(random() % bytes.size());
        try {
            decodeSamples(bytes);
        } catch (const StoreError&) {
            ++seen;
        }
    }
    EXPECT_GT(seen, 1980);  // what is left are bits of zstd's headers that change nothing
}

class StudyTest : public ::testing::Test {
  protected:
    void SetUp() override {
        dir = fs::temp_directory_path() / ("jacinth-store-" + std::to_string(::getpid()) + "-" +
                                           ::testing::UnitTest::GetInstance()->current_test_info()->name());
        fs::remove_all(dir);
        fs::create_directories(dir);
        path = (dir / "s.jacinth").string();
        study = std::move(*Study::create(path));
    }
    void TearDown() override {
        study.reset();
        fs::remove_all(dir);
    }
    std::int64_t tag(const std::string& name = "Air-off RH") {
        Transaction t(study->database());
        const std::int64_t id =
            study->catalog().addTag(study->catalog().addAsset("Kiln 3"), name, "%", TagKind::Continuous);
        t.commit();
        return id;
    }
    WriteCount write(std::int64_t id, const Series& s) {
        Transaction t(study->database());
        const WriteCount count = study->samples().write(id, s);
        study->catalog().setSpacing(id, study->samples().spacing(id));
        t.commit();
        return count;
    }
    void reopen() {
        study.reset();
        study = std::move(*Study::open(path));
    }
    fs::path dir;
    std::string path;
    std::unique_ptr<Study> study;
};

constexpr TimeRange kAlways{0, 4'000'000'000LL * kSecond};

TEST_F(StudyTest, SamplesSurviveReopening) {
    const std::int64_t id = tag();
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
    const std::int64_t id = tag();
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
    const std::int64_t id = tag();
    Series s;
    s.push(30, 3), s.push(10, 1), s.push(20, 2), s.push(10, 9);
    EXPECT_EQ(write(id, s).added, 3);
    EXPECT_EQ(study->samples().read(id, {0, 100}, {}).values, (std::vector<double>{9, 2, 3}));
}

TEST_F(StudyTest, ReadGivesTheNeighboursToo) {
    const std::int64_t id = tag();
    Series s;
    for (int i = 0; i < 20000; ++i) s.push(i * kSecond, i);
    write(id, s);
    const Series part = study->samples().read(id, {8000 * kSecond + 1, 8500 * kSecond}, {});
    EXPECT_EQ(part.values.front(), 8000);
    EXPECT_EQ(part.values.back(), 8500);
    const Series between = study->samples().read(id, {8191 * kSecond + 1, 8191 * kSecond + 2}, {});
    EXPECT_EQ(between.values, (std::vector<double>{8191, 8192}));
    EXPECT_EQ(study->samples().read(id, {30000 * kSecond, 30001 * kSecond}, {}).values,
              (std::vector<double>{19999}));
}

TEST_F(StudyTest, AValueIsFoundPastSamplesOfBadQuality) {
    const std::int64_t line = tag(), held = tag("Step");
    Series s;
    for (int i = 0; i < 100; ++i) s.push(i * kMinute, i, i >= 40 && i < 45 ? Quality::Bad : Quality::Good);
    write(line, s);
    Series h;
    h.push(0, 7);
    for (int i = 1; i < 2000; ++i) h.push(i * kMinute, 9, Quality::Bad);
    write(held, h);
    Tag step = *study->catalog().tag(held);
    step.kind = TagKind::Stepped;
    EXPECT_DOUBLE_EQ(study->valueAt(*study->catalog().tag(line), 42 * kMinute + 30 * kSecond, Which::Mended),
                     42.5);
    EXPECT_DOUBLE_EQ(study->valueAt(step, 1900 * kMinute, Which::Mended), 7);
    EXPECT_TRUE(std::isnan(study->valueAt(step, -kMinute, Which::Mended)));
}

TEST_F(StudyTest, ASpikeOfOneSampleIsInTheColumnsAtEveryZoom) {
    const std::int64_t id = tag();
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
    const std::int64_t id = tag();
    const Series s = wavy(40000);
    write(id, s);
    Fix ramp;
    ramp.tag = id;
    ramp.kind = FixKind::Ramp;
    ramp.from = s.times[9000], ramp.to = s.times[25000];
    ramp.startBy = 0, ramp.endBy = -9.5;
    study->change("ramp", "drift", {}, [&] { study->addFix(ramp); });
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
    const std::int64_t id = tag();
    study->setWho("M. L.");
    Fix f;
    f.tag = id, f.from = 0, f.to = 10, f.startBy = f.endBy = 1, f.why = "probe knocked";
    study->change("shift on Kiln 3 Air-off RH", f.why, {{"by", 1}}, [&] { study->addFix(f); });
    const std::int64_t track = [&] {
        std::int64_t made = 0;
        study->change("labels", "", {}, [&] { made = study->putTrack("Labels", track_kind::kLabels); });
        return made;
    }();
    EXPECT_EQ(study->undoName(), "labels");
    ASSERT_TRUE(study->undo());
    EXPECT_FALSE(study->trackNamed("Labels"));
    EXPECT_EQ(study->undoName(), "shift on Kiln 3 Air-off RH");
    EXPECT_EQ(study->redoName(), "labels");
    ASSERT_TRUE(study->undo());
    EXPECT_TRUE(study->fixes(id).empty());
    reopen();  // undo outlives the program
    ASSERT_TRUE(study->redo());
    ASSERT_EQ(study->fixes(id).size(), 1u);
    EXPECT_EQ(study->fixes(id)[0].why, "probe knocked");
    EXPECT_EQ(study->fixes(id)[0].who, "M. L.");
    ASSERT_TRUE(study->redo());
    EXPECT_EQ(study->trackNamed("Labels")->id, track);
    EXPECT_FALSE(study->redo());
    EXPECT_EQ(study->ledger().size(), 6u);
    EXPECT_EQ(study->ledger()[2].what, "undo: labels");
}

TEST_F(StudyTest, TwoStepsInARowAreJoinedToOne) {
    const auto put = [&](const char* name) {
        study->change(name, "", {}, [&] { study->putTrack(name, track_kind::kLabels); });
        return newestStep(study->database());
    };
    const std::int64_t first = put("First");
    put("Second");
    joinSteps(study->database(), first);
    EXPECT_EQ(study->undoName(), "Second");
    ASSERT_TRUE(study->undo());
    EXPECT_TRUE(study->tracks().empty());
    EXPECT_EQ(study->undoName(), "");
    ASSERT_TRUE(study->redo());
    EXPECT_EQ(study->tracks().size(), 2u);
    EXPECT_EQ(study->redoName(), "");
    // Where another step came between nothing is joined.
    const std::int64_t third = put("Third");
    put("Fourth");
    put("Fifth");
    joinSteps(study->database(), third);
    ASSERT_TRUE(study->undo());
    EXPECT_TRUE(study->trackNamed("Fourth"));
    EXPECT_EQ(study->undoName(), "Fourth");
}

TEST_F(StudyTest, TheLedgerCannotBeChanged) {
    study->change("labels", "", {}, [&] { study->putTrack("Labels", track_kind::kLabels); });
    EXPECT_THROW(study->database().run("UPDATE ledger SET who = 'somebody else'"), StoreError);
    EXPECT_THROW(study->database().run("DELETE FROM ledger"), StoreError);
}

TEST_F(StudyTest, AChangeThatFailsLeavesNothing) {
    EXPECT_THROW(study->change("half", "", {},
                               [&] {
                                   study->putTrack("Runs", track_kind::kRuns);
                                   study->putTrack("Runs", track_kind::kLabels);
                               }),
                 StoreError);
    EXPECT_TRUE(study->tracks().empty());
    EXPECT_TRUE(study->ledger().empty());
    EXPECT_EQ(study->undoName(), "");
}

TEST_F(StudyTest, LimitsAndRulesComeBack) {
    LimitSet set;
    set.name = "spring";
    set.goldenRuns = {3, 5};
    GoldenLimits g;
    g.slices = {{0, 5, 1, 2, 3}, {kMinute, 1, std::nan(""), std::nan(""), std::nan("")}};
    set.byRole["air_off_rh"] = g;
    study->change("limits", "", {}, [&] {
        study->putLimitSet(set);
        study->putRule({"wear", "@bearing_vibration > 4", {36 * kHour, 6 * kHour, kHour}});
    });
    reopen();
    const LimitSet back = *study->limitSetNamed("spring");
    EXPECT_EQ(back.goldenRuns, set.goldenRuns);
    EXPECT_EQ(back.byRole.at("air_off_rh").slices[0].high, 3);
    EXPECT_TRUE(std::isnan(back.byRole.at("air_off_rh").slices[1].low));
    EXPECT_EQ(study->rules().at(0).spec.least, 6 * kHour);
    EXPECT_EQ(study->labelBook().size(), firstLabelBook().size());
}

TEST_F(StudyTest, CheckFindsADamagedBlock) {
    const std::int64_t id = tag();
    write(id, wavy(20000));
    EXPECT_TRUE(study->check().empty());
    study->database().run("UPDATE block SET greatest = greatest + 1 WHERE id = 1");
    study->database().run("UPDATE block_samples SET data = substr(data, 1, 900) WHERE block = 2");
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
    study->database().run("PRAGMA user_version = 99");
    study.reset();
    EXPECT_NE(Study::open(path).error().message.find("newer Jacinth"), std::string::npos);
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
    EXPECT_EQ(s->catalog().tag(7)->path(), "Kiln 3/RH");
    EXPECT_EQ(s->goldenRuns(2), std::vector<std::int64_t>{41});
    EXPECT_EQ(s->fixes(7).size(), 1u);
    EXPECT_EQ(s->badRows(1).at(0).reason, "r");
    EXPECT_EQ(s->ledger().size(), 2u);
    EXPECT_EQ(s->zone().name(), "Europe/Oslo");
    EXPECT_EQ(s->check(), std::vector<std::string>{});
    EXPECT_TRUE(Study::open(old, true));
}

TEST_F(StudyTest, IdentifiersAreNeverUsedAgain) {
    const auto track = study->putTrack("Runs", track_kind::kRuns);
    const auto add = [&] {
        std::int64_t id = 0;
        study->change("run", "", {}, [&] { id = study->addSpan(track, {0, 0, 0, 1, 2, {}}); });
        return id;
    };
    const auto first = add();
    study->change("golden", "", {}, [&] { study->setGoldenRuns(track, {first}, "by eye"); });
    study->change("clear", "", {}, [&] { study->clearTrack(track); });
    const auto second = add();
    EXPECT_GT(second, first);
    EXPECT_TRUE(study->goldenRuns(track).empty());
    study->change("remove", "", {}, [&] { study->removeSpan(second); });
    EXPECT_GT(add(), second);
    // What is undone comes back as what it was, with its mark.
    for (int i = 0; i < 4; ++i) ASSERT_TRUE(study->undo());
    EXPECT_EQ(study->goldenRuns(track), std::vector<std::int64_t>{first});
    EXPECT_EQ(study->check(), std::vector<std::string>{});
}

TEST_F(StudyTest, AChangedRowIsNamedAndNotUsed) {
    const auto id = tag();
    write(id, wavy(500));
    const auto track = study->putTrack("Runs", track_kind::kRuns);
    study->change("all", "", {}, [&] {
        study->addSpan(track, {0, 0, 0, 1, 2, {}});
        study->addFix({0, id, FixKind::Shift, 0, 10, 1, 1});
        study->putRule({"wear", "@x > 1", {}});
    });
    ASSERT_EQ(study->check(), std::vector<std::string>{});
    study.reset();
    {
        // Another program, without the checksums.
        Database db(path, Database::Mode::ReadWrite);
        db.run("UPDATE span SET end = 3; UPDATE fix SET start_by = 2; UPDATE rule SET text = '@x > 2'");
    }
    study = std::move(*Study::open(path));
    EXPECT_TRUE(study->spans(track).empty());
    EXPECT_TRUE(study->fixes(id).empty());
    EXPECT_TRUE(study->rules().empty());
    EXPECT_EQ(study->damage().size(), 3u);
    EXPECT_EQ(study->check().size(), 3u);
}

TEST_F(StudyTest, LostAndForeignRowsAreNamed) {
    const auto id = tag();
    write(id, wavy(5000));
    std::int64_t track = 0;
    study->change("all", "", {}, [&] {
        track = study->putTrack("Runs", track_kind::kRuns);
        for (int i = 0; i < 3; ++i) study->addSpan(track, {0, 0, 0, i, i + 1, {}});
    });
    study->change("one less", "", {}, [&] { study->removeSpan(study->spans(track).front().id); });
    ASSERT_EQ(study->check(), std::vector<std::string>{});
    ASSERT_TRUE(study->undo());
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

TEST_F(StudyTest, ACheckSeesOneStateWhateverIsWrittenMeanwhile) {
    const auto id = tag();
    write(id, wavy(100));
    auto reader = std::move(*Study::open(path, true));
    {
        Snapshot snapshot(reader->database());
        Statement before(reader->database(), "SELECT count(*) FROM ledger");
        ASSERT_TRUE(before.step());
        const auto entries = before.integer(0);
        study->change("meanwhile", "", {}, [&] { study->putTrack("Runs", track_kind::kRuns); });
        Statement after(reader->database(), "SELECT count(*) FROM ledger");
        ASSERT_TRUE(after.step());
        EXPECT_EQ(after.integer(0), entries);
        EXPECT_FALSE(reader->trackNamed("Runs"));
        Snapshot inside(reader->database());  // within another one it does nothing
    }
    EXPECT_TRUE(reader->trackNamed("Runs"));
    EXPECT_EQ(reader->check(), std::vector<std::string>{});
}

TEST_F(StudyTest, ATrackIsRemovedWithItsSpansAndComesBack) {
    std::int64_t track = 0;
    study->change("put", "", {}, [&] {
        track = study->putTrack("Peaks", "peaks");
        study->addSpan(track, {0, 0, 0, 1, 2, {}});
    });
    study->change("remove", "", {}, [&] { study->removeTrack(track); });
    EXPECT_FALSE(study->trackNamed("Peaks"));
    EXPECT_TRUE(study->spans(track).empty());
    ASSERT_TRUE(study->undo());
    ASSERT_TRUE(study->trackNamed("Peaks"));
    EXPECT_EQ(study->trackNamed("Peaks")->id, track);
    EXPECT_EQ(study->spans(track).size(), 1u);
    EXPECT_EQ(study->check(), std::vector<std::string>{});
}

TEST_F(StudyTest, TheLedgersChainShowsEveryChange) {
    for (const char* what : {"one", "two", "three"}) {
        Transaction t(study->database());
        study->enterInLedger(what, "why", {{"x", 1}});
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

TEST_F(StudyTest, UndoNamesTheStepsOfAnotherProgram) {
    study->change("mine", "", {}, [&] { study->putTrack("A", track_kind::kLabels); });
    EXPECT_TRUE(study->nextUndo()->ours);
    const auto mine = study->nextUndo()->id;
    Statement(study->database(),
              "INSERT INTO history(name, changes, who, origin) VALUES('theirs', x'', 'R. O.', 12)")
        .run();
    EXPECT_FALSE(study->nextUndo()->ours);
    EXPECT_EQ(study->nextUndo()->who, "R. O.");
    const Status refused = study->undo(mine);
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

TEST_F(StudyTest, WhatCannotBeANumberOfTheFileIsNamed) {
    const auto id = tag();
    study->catalog().addState(id, "Off");
    study->catalog().addState(id, "On");
    study->catalog().addState(id, "Trip");
    Statement(study->database(), "DELETE FROM state WHERE code = 1").run();
    Statement(study->database(), "UPDATE tag SET kind = 66, spacing = -5, longest_gap = 0").run();
    study->catalog().reload();
    const Tag t = *study->catalog().tag(id);
    EXPECT_EQ(t.states.at(2), "Trip");
    EXPECT_EQ(t.kind, TagKind::Continuous);
    EXPECT_STREQ(tagKindName(static_cast<TagKind>(100)), "unknown");
    EXPECT_EQ(t.spacing, 0);
    EXPECT_EQ(study->catalog().faults().size(), 2u);
}

TEST_F(StudyTest, NamesAreChecked) {
    for (const char* bad : {"", "  ", "a\nb", "\xFF"}) {
        EXPECT_THROW(study->catalog().addAsset(bad), StoreError) << bad;
        EXPECT_THROW(study->putTrack(bad, track_kind::kRuns), StoreError) << bad;
    }
}

TEST_F(StudyTest, TwoOpenersSeeEachOther) {
    auto second = std::move(*Study::open(path));
    study->change("labels", "", {}, [&] { study->putTrack("Labels", track_kind::kLabels); });
    EXPECT_TRUE(second->trackNamed("Labels"));
    second->change("runs", "", {}, [&] { second->putTrack("Runs", track_kind::kRuns); });
    EXPECT_EQ(study->tracks().size(), 2u);
}

TEST_F(StudyTest, ACopyNeverTakesThePlaceOfAnOpenStudy) {
    const std::string other = (dir / "other.jacinth").string();
    auto open = std::move(*Study::create(other));
    open->change("put", "", {}, [&] { open->putTrack("Runs", track_kind::kRuns); });
    open.reset();
    open = std::move(*Study::open(other));  // at rest: nothing lies in its journal
    const Status refused = study->saveCopy(other, true);
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("is open in a program"), std::string::npos);
    EXPECT_TRUE(open->trackNamed("Runs"));
    open.reset();
    ASSERT_TRUE(study->saveCopy(other, true));
    EXPECT_FALSE((*Study::open(other))->trackNamed("Runs"));
}

TEST_F(StudyTest, SaveACopy) {
    const std::int64_t id = tag();
    write(id, wavy(500));
    const std::string copy = (dir / "copy.jacinth").string();
    ASSERT_TRUE(study->saveCopy(copy));
    EXPECT_FALSE(study->saveCopy(copy));
    auto other = std::move(*Study::open(copy, true));
    EXPECT_EQ(other->samples().whole(id).count, 500u);
}

TEST_F(StudyTest, LimitsByTheEndFromAnOlderFormatGetTheirSign) {
    const auto track = study->putTrack("R", track_kind::kRuns);
    Statement(study->database(), "INSERT INTO limit_set(name, track, body) VALUES('old', ?, ?)")
        .bind(track,
              R"({"golden":[1],"roles":{"x":{"every":60,"method":"mean-sd","lineUp":"end","k":3,"q":0.05,)"
              R"("leastRuns":3,"slices":[[0,4,1,2,3],[60,4,5,6,7]]}}})")
        .run();
    const LimitSet set = *study->limitSetNamed("old");
    EXPECT_EQ(set.version, 1);
    const auto& slices = set.byRole.at("x").slices;
    ASSERT_EQ(slices.size(), 2u);
    EXPECT_EQ(slices[0].offset, -60);
    EXPECT_EQ(slices[0].centre, 6);
    EXPECT_EQ(slices[1].offset, 0);
    EXPECT_EQ(set.byRole.at("x").spec.smooth, 1);
}

}  // namespace
}  // namespace jacinth
