// Two windows side by side: on one study, and on two.
#include <QCoreApplication>

#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/window_driver.h"
#include "work/mend/mending.h"

namespace jacinth::test {
namespace {

class TwoWindows : public ::testing::Test {
  protected:
    TwoWindows() : folder("two-windows") {
        copyDemo(folder / "a.jacinth");
        copyDemo(folder / "b.jacinth");
        first = std::make_unique<WindowDriver>(folder / "a.jacinth");
    }
    WindowDriver& openSecond(const char* file) {
        second = std::make_unique<WindowDriver>(folder / file);
        return *second;
    }
    /// By the keys and fields of Mend.
    static void enterShift(WindowDriver& d, const std::string& path, const char* by) {
        d.clickTag(path);
        d.bench(app::BenchId::Mend);
        d.type("timeField", "10 Mar to 14 Mar", true);
        d.click("kindShift");
        d.type("fixFrom", "11 Mar 2026 06:00");
        d.type("fixTo", "13 Mar 2026 06:00");
        d.type("fixBy", by);
        d.type("fixWhy", "probe knocked");
        d.click("enterFix");
    }
    static std::size_t fixes(WindowDriver& d) { return d.study().judgement().allFixes().size(); }
    static void findRuns(WindowDriver& d, const QString& where) {
        d.bench(app::BenchId::Screen);
        d.click("screenRuns");
        d.type("runsWhere", where, true);
    }
    static std::size_t runs(WindowDriver& d) { return d.study().tracks().spansOf(track_kind::kRuns).size(); }
    Folder folder;
    std::unique_ptr<WindowDriver> first, second;
};

TEST_F(TwoWindows, OfTwoStudiesDoNotTouchEachOther) {
    WindowDriver& other = openSecond("b.jacinth");
    enterShift(*first, "Kiln 1/Air-off RH", "2.5");
    findRuns(other, "@kiln_step is not \"Idle\"");
    EXPECT_EQ(fixes(*first), 1u);
    EXPECT_EQ(fixes(other), 0u);
    EXPECT_EQ(runs(*first), 0u);
    EXPECT_EQ(runs(other), 263u);
    // Undo goes to the window with the key press.
    other.key(&other.window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(runs(other), 0u);
    EXPECT_EQ(fixes(*first), 1u);
    EXPECT_FALSE(other.window().undoAction()->isEnabled());
    EXPECT_TRUE(first->window().undoAction()->isEnabled());
    first->close();
    other.bench(app::BenchId::Mend);
    EXPECT_EQ(fixes(other), 0u);
}

TEST_F(TwoWindows, OfOneStudyShowTheSame) {
    WindowDriver& other = openSecond("a.jacinth");
    other.clickTag("Kiln 1/Air-off RH");
    other.bench(app::BenchId::Mend);
    enterShift(*first, "Kiln 1/Air-off RH", "2.5");
    auto* ledger = other.window().mend()->ledger();
    EXPECT_TRUE(QTest::qWaitFor([&] { return ledger->model()->rowCount() == 1; }, 3000));
    EXPECT_TRUE(ledger->model()->index(0, 3).data().toString().contains("2.5"));
    // Off in the second, seen in the first.
    other.clickAt(ledger->viewport(),
                  ledger->visualRect(ledger->model()->index(0, 0)).center() - QPoint(8, 0));
    auto* mine = first->window().mend()->ledger();
    EXPECT_TRUE(QTest::qWaitFor(
        [&] { return mine->model()->index(0, 0).data(Qt::CheckStateRole) == Qt::Unchecked; }, 3000));
    EXPECT_TRUE(first->study().check().empty());
}

TEST_F(TwoWindows, OfOneStudyFindRunsOneAfterTheOther) {
    WindowDriver& other = openSecond("a.jacinth");
    findRuns(*first, "@kiln_step is not \"Idle\"");
    EXPECT_TRUE(QTest::qWaitFor([&] { return runs(other) == 263; }, 3000));
    findRuns(other, "@kiln_step is \"Cure\"");
    const std::size_t found = runs(other);
    EXPECT_GT(found, 0u);
    EXPECT_TRUE(QTest::qWaitFor([&] { return runs(*first) == found; }, 3000));
    EXPECT_TRUE(first->study().check().empty());
    other.close();
    first->settle();
    EXPECT_EQ(runs(*first), found);
}

TEST_F(TwoWindows, OneThatClosesAmidItsWorkLeavesTheOtherWhole) {
    WindowDriver& other = openSecond("a.jacinth");
    other.bench(app::BenchId::Prove);
    auto* editor = other.window().prove()->editor();
    editor->selectAll();
    QTest::keyClicks(editor, "slope(@bearing_vibration over 7d) > 0.001");
    auto* prove = other.find<QPushButton>("proveButton");
    ASSERT_TRUE(QTest::qWaitFor([&] { return prove->isEnabled(); }, 3000));
    QTest::mouseClick(prove, Qt::LeftButton);
    EXPECT_TRUE(other.session().busy());
    other.close();
    second.reset();
    enterShift(*first, "Kiln 2/Air-off RH", "-1");
    EXPECT_EQ(fixes(*first), 1u);
    EXPECT_TRUE(first->study().check().empty());
}

}  // namespace
}  // namespace jacinth::test
