// Statements are prepared once for each text, whoever asks, and two of one text do not disturb each other.
#include "store/database.h"

#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>

#include "store/store_error.h"

namespace jacinth {
namespace {

class DatabaseTest : public ::testing::Test {
  protected:
    DatabaseTest() {
        std::filesystem::remove(path);
        db = std::make_unique<Database>(path, Database::Mode::Create);
        db->run("CREATE TABLE t(id INTEGER PRIMARY KEY, v)");
        for (int i = 1; i <= 5; ++i) Statement(*db, "INSERT INTO t(id, v) VALUES(?, ?)").bind(i, i * i).run();
    }
    ~DatabaseTest() override {
        db.reset();
        std::filesystem::remove(path);
    }
    const std::string path = std::filesystem::temp_directory_path() /
                             ("jacinth-database-" + std::to_string(::getpid()) + ".sqlite");
    std::unique_ptr<Database> db;
};

TEST_F(DatabaseTest, AStatementOfTheSameTextBeginsWithoutTheValuesOfTheLast) {
    const char* const sql = "SELECT v FROM t WHERE id = ? OR (?2 IS NULL AND id = 5)";
    {
        Statement s(*db, sql);
        s.bind(2, 1);
        ASSERT_TRUE(s.step());
        EXPECT_EQ(s.integer(0), 4);
    }
    Statement s(*db, sql);
    ASSERT_TRUE(s.step());  // nothing is bound: the fifth
    EXPECT_EQ(s.integer(0), 25);
    EXPECT_FALSE(s.step());
}

TEST_F(DatabaseTest, TwoOfOneTextWalkOnTheirOwn) {
    const char* const sql = "SELECT id FROM t ORDER BY id";
    Statement outer(*db, sql);
    int pairs = 0;
    while (outer.step()) {
        Statement inner(*db, sql);
        while (inner.step()) ++pairs;
    }
    EXPECT_EQ(pairs, 25);
}

TEST_F(DatabaseTest, AStatementLeftInTheMiddleKeepsNothingLocked) {
    {
        Statement s(*db, "SELECT id FROM t ORDER BY id");
        ASSERT_TRUE(s.step());
    }
    db->run("DROP TABLE t");
    EXPECT_THROW(Statement(*db, "SELECT id FROM t ORDER BY id").step(), StoreError);
    db->run("CREATE TABLE t(id INTEGER PRIMARY KEY, v, w)");
    Statement again(*db, "SELECT id FROM t ORDER BY id");
    EXPECT_FALSE(again.step());
}

TEST_F(DatabaseTest, ManyTextsAreAllAnswered) {
    for (int round = 0; round < 2; ++round)
        for (int i = 0; i < 300; ++i) {
            Statement s(*db, "SELECT v + " + std::to_string(i) + " FROM t WHERE id = ?");
            s.bind(3);
            ASSERT_TRUE(s.step());
            EXPECT_EQ(s.integer(0), 9 + i);
        }
}

TEST_F(DatabaseTest, TimesAndWhatIsAbsentComeBackAsTheyWere) {
    const Instant t = *fromIso("1969-12-31T23:59:59.000000001Z");
    Statement(*db, "INSERT INTO t(id, v) VALUES(?, ?)").bind(10, t).run();
    Statement(*db, "INSERT INTO t(id, v) VALUES(?, ?)").bind(11, 90 * kMinute).run();
    Statement(*db, "INSERT INTO t(id, v) VALUES(?, ?)").bind(12, std::optional<std::int64_t>()).run();
    Statement s(*db, "SELECT v FROM t WHERE id >= 10 ORDER BY id");
    ASSERT_TRUE(s.step());
    EXPECT_EQ(s.instant(0), t);
    ASSERT_TRUE(s.step());
    EXPECT_EQ(s.duration(0), 90 * kMinute);
    ASSERT_TRUE(s.step());
    EXPECT_TRUE(s.isNull(0));
}

TEST_F(DatabaseTest, AWrongTextIsRefusedAndTheNextOneWorks) {
    EXPECT_THROW(Statement(*db, "SELEKT 1"), StoreError);
    Statement s(*db, "SELECT count(*) FROM t");
    ASSERT_TRUE(s.step());
    EXPECT_EQ(s.integer(0), 5);
}

/// A step that changes row 2 of a table with checksums.
Blob stepOf(Database& db) {
    db.run(
        "CREATE TABLE kept(id INTEGER PRIMARY KEY, v, row_sum); INSERT INTO kept VALUES(1, 10, 1), (2, 20, "
        "2)");
    return recordChanges(db, {"kept"}, [&] { db.run("UPDATE kept SET v = 21, row_sum = 3 WHERE id = 2"); });
}

std::int64_t valueOfSecond(Database& db) {
    return db.number("SELECT v FROM kept WHERE id = 2");
}

TEST_F(DatabaseTest, AStepIsNotTakenBackWhereItsRowHasChangedSince) {
    const Blob step = stepOf(*db);
    db->run("UPDATE kept SET row_sum = 4 WHERE id = 2");  // as another column's change would leave it
    EXPECT_THROW(applyChanges(*db, step, true), StoreError);
    EXPECT_EQ(valueOfSecond(*db), 21);
}

TEST_F(DatabaseTest, AStepOfAnEarlierFormatIsTakenBackThoughChecksumsHaveMoreColumnsNow) {
    const Blob step = stepOf(*db);
    db->run("ALTER TABLE kept ADD COLUMN more; UPDATE kept SET row_sum = 40 + id");
    applyChanges(*db, step, true);
    EXPECT_EQ(valueOfSecond(*db), 20);
    applyChanges(*db, step, false);
    EXPECT_EQ(valueOfSecond(*db), 21);
    // Not where what it changed is another value now.
    db->run("UPDATE kept SET v = 22 WHERE id = 2");
    EXPECT_THROW(applyChanges(*db, step, true), StoreError);
    EXPECT_EQ(valueOfSecond(*db), 22);
}

}  // namespace
}  // namespace jacinth
