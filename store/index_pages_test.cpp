#include <gtest/gtest.h>
#include <unistd.h>

#include <cmath>
#include <filesystem>

#include "core/time/times_for_tests.h"
#include "store/sample_store.h"
#include "store/schema.h"
#include "store/study.h"
#include "store/study_database.h"

namespace jacinth {
namespace {

namespace fs = std::filesystem;
constexpr TimeRange kAlways = between(0, 4'000'000'000LL * kSecond);
constexpr Instant kStart = at(1'700'000'000LL * kSecond);

Series seconds(int n, Instant from = kStart) {
    Series s;
    for (int i = 0; i < n; ++i)
        s.push(from + i * kSecond, std::round(1000 * std::sin(i * 0.001)) / 10 + i % 7);
    return s;
}

/// A tag of 200 blocks: most of them in a page.
class IndexPagesTest : public ::testing::Test {
  protected:
    static constexpr int kSamples = 200 * static_cast<int>(kBlockSamples) - 500;
    void SetUp() override {
        dir = fs::temp_directory_path() / ("jacinth-pages-" + std::to_string(::getpid()) + "-" +
                                           ::testing::UnitTest::GetInstance()->current_test_info()->name());
        fs::create_directories(dir);
        study = std::move(*Study::create((dir / "s.jacinth").string()));
        WriteBatch t(*study);
        tag = study->catalog().addTag(study->catalog().addAsset("Kiln 3"), "Air-off RH", "%",
                                      TagKind::Continuous);
        t.commit();
        write(seconds(kSamples));
    }
    void TearDown() override {
        study.reset();
        fs::remove_all(dir);
    }
    WriteCount write(const Series& s) {
        WriteBatch t(*study);
        const WriteCount count = study->samples().write(tag, s);
        t.commit();
        return count;
    }
    std::int64_t pagesOnFile() { return databaseOf(*study).number("SELECT count(*) FROM index_page"); }
    std::int64_t looseOnFile() {
        return databaseOf(*study).number(
            "SELECT count(*) FROM block WHERE NOT EXISTS (SELECT 1 FROM index_page p WHERE p.tag = block.tag "
            "AND "
            "block.first_time BETWEEN p.first_time AND p.last_time)");
    }
    /// What is read at widths from a part of a cell to all of the record.
    void expectColumnsRight(const Series& all) {
        study->samples().forget();
        for (const int width : {kSamples, kSamples / 3, 200'000, 20'000}) {
            const TimeRange range{kStart + 1000 * kSecond, kStart + (1000 + width) * kSecond};
            Summary seen;
            for (const Summary& c : study->samples().columns(tag, range, 500, {})) seen.merge(c);
            const SeriesView inside = all.view().within({seen.firstTime, seen.lastTime + kNanosecond});
            const Summary truth = summarize(inside);
            EXPECT_EQ(seen.count, truth.count) << width;
            EXPECT_EQ(seen.least, truth.least) << width;
            EXPECT_EQ(seen.greatest, truth.greatest) << width;
            EXPECT_LE(seen.firstTime, range.from);
            EXPECT_GE(seen.lastTime, std::min(range.to - kNanosecond, all.times.back()));
        }
    }
    fs::path dir;
    std::unique_ptr<Study> study;
    TagId tag;
};

TEST_F(IndexPagesTest, MostBlocksAreInPagesAndReadTheSame) {
    EXPECT_EQ(pagesOnFile(), 1);
    EXPECT_LT(looseOnFile(), static_cast<std::int64_t>(IndexPages::kMostLoose));
    EXPECT_GE(looseOnFile(), 1);  // what the next write changes
    expectColumnsRight(seconds(kSamples));
    EXPECT_TRUE(study->samples().verify(tag).empty());
}

TEST_F(IndexPagesTest, GrowsByGroupsAsSamplesAreAppended) {
    Series all = seconds(kSamples);
    for (int i = 0; i < 40; ++i) {
        Series more = seconds(20'000, all.times.back() + kSecond);
        write(more);
        all.append(more.view());
    }
    EXPECT_EQ(pagesOnFile(), 1);
    EXPECT_LT(looseOnFile(), static_cast<std::int64_t>(IndexPages::kMostLoose));
    expectColumnsRight(all);
    EXPECT_TRUE(study->samples().verify(tag).empty());
}

TEST_F(IndexPagesTest, ALateSampleInAPageIsFoundAtEveryZoom) {
    Series late;
    late.push(kStart + 60'000 * kSecond + kSecond / 2, 5000);
    EXPECT_EQ(write(late).added, 1);
    expectColumnsRight(mergeSeries(seconds(kSamples), late));
    EXPECT_LT(looseOnFile(), 2 * static_cast<std::int64_t>(IndexPages::kMostLoose));
    EXPECT_TRUE(study->samples().verify(tag).empty());
}

TEST_F(IndexPagesTest, SamplesBeforeAllOthersComeFirst) {
    const Series early = seconds(3000, kStart - 5000 * kSecond);
    write(early);
    Series all = early;
    all.append(seconds(kSamples).view());
    EXPECT_EQ(study->samples().read(tag, kAlways, {}).times, all.times);
    expectColumnsRight(all);
}

TEST_F(IndexPagesTest, AFileOfTheSecondVersionIsGatheredWhenOpened) {
    const std::string old = (dir / "old.jacinth").string();
    {
        Database db(old, Database::Mode::Create);
        createTablesOf(db, 2);
        Statement(db, "ATTACH ? AS s").bind((dir / "s.jacinth").string()).run();
        db.run(
            "INSERT INTO asset(id, name, kind) SELECT id, name, kind FROM s.asset;"
            "INSERT INTO tag(id, asset, name, role, kind, spacing) SELECT id, asset, name, role, kind, "
            "spacing FROM s.tag;"
            "INSERT INTO block(id, tag, first_time, last_time, count, usable, first, last, least, greatest, "
            "sum, spacing) "
            "SELECT id, tag, first_time, last_time, count, usable, first, last, least, greatest, sum, "
            "spacing FROM s.block;"
            "INSERT INTO block_samples SELECT * FROM s.block_samples;"
            "INSERT INTO block_cells SELECT * FROM s.block_cells;"
            "INSERT INTO block_coarse SELECT * FROM s.block_coarse;");
    }
    // Version 2 kept the coarse summaries of every block by themselves.
    {
        Database db(old, Database::Mode::ReadWrite);
        std::vector<std::pair<std::int64_t, Blob>> coarse;
        Statement cells(
            db, "SELECT block, data FROM block_cells WHERE block NOT IN (SELECT block FROM block_coarse)");
        while (cells.step())
            coarse.emplace_back(cells.integer(0), encodeCells(coarseCells(decodeCells(cells.blob(1)))));
        for (const auto& [block, data] : coarse)
            Statement(db, "INSERT INTO block_coarse(block, data) VALUES(?, ?)").bind(block, data).run();
    }
    study.reset();
    std::filesystem::rename(old, dir / "s.jacinth");
    auto opened = Study::open((dir / "s.jacinth").string());
    ASSERT_TRUE(opened) << opened.error().message;
    study = std::move(*opened);
    EXPECT_EQ(pagesOnFile(), 1);
    expectColumnsRight(seconds(kSamples));
    EXPECT_TRUE(study->samples().verify(tag).empty());
}

TEST_F(IndexPagesTest, DamageOfAPageIsTold) {
    databaseOf(*study).run(
        "UPDATE coarse_page SET data = substr(data, 1, 40) WHERE id = (SELECT min(id) FROM coarse_page)");
    EXPECT_FALSE(study->samples().verify(tag).empty());
    databaseOf(*study).run("UPDATE index_page SET blocks = substr(blocks, 1, 100)");
    study->samples().forget();
    EXPECT_THROW(study->samples().whole(tag), StoreError);
}

}  // namespace
}  // namespace jacinth
