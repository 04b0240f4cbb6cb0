// Screen's Causes, driven by mouse and keys on the demo plant: found on arrival, left out before anything is
// entered, a step taken out, excursions set apart, limits from a change on; undone.
#include <unistd.h>

#include <QCheckBox>
#include <fstream>

#include "app/screen/screen_bench.h"
#include "core/base/allocation.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/screened_demo.h"
#include "test/window_driver.h"
#include "work/mend/mending.h"

namespace jacinth::test {
namespace {

class Causes : public ::testing::Test {
  protected:
    Causes() : folder("window-causes") {
        fs::copy_file(screenedDemo(), folder / "s.jacinth");
        start();
    }
    void start() {
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->bench(app::BenchId::Screen);
        d->click("screenCauses");
        d->settle();
    }
    app::CausesPage* page() { return d->window().screen()->causesPage(); }
    app::RowsModel* model() { return static_cast<app::RowsModel*>(page()->table()->model()); }
    QString cell(int row, int column) { return model()->index(row, column).data().toString(); }
    int rowOf(const QString& what) {
        for (int row = 0; row < model()->rowCount(); ++row)
            if (cell(row, 1) == what) return row;
        ADD_FAILURE() << "no cause " << what.toStdString();
        return 0;
    }
    void choose(const QString& what) {
        d->clickRow(page()->table(), rowOf(what));
        d->settle();
    }
    /// Clicks the tick box of a row.
    void tick(const QString& what) {
        const QModelIndex at = model()->index(rowOf(what), 0);
        page()->table()->scrollTo(at);
        const QRect box = page()->table()->visualRect(at);
        d->clickAt(page()->table()->viewport(), {box.left() + 12, box.center().y()});
        d->settle();
    }
    std::size_t onRecord(bool dismissedToo = true) {
        const auto all = excursionsOf(d->study());
        return static_cast<std::size_t>(std::count_if(all.begin(), all.end(), [&](const KeptExcursion& e) {
            return dismissedToo || e.dismissed.empty();
        }));
    }
    QString text(const char* label) { return d->find<QLabel>(label)->text(); }
    bool seen(const char* button) { return d->find<QPushButton>(button)->isVisible(); }

    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(Causes, AFixMakesLimitsAndExcursionsOldAndOneButtonMakesThemAgain) {
    auto* bar = d->find<QWidget>("outOfDate");
    EXPECT_TRUE(bar->isHidden());
    const std::size_t before = onRecord();
    d->session().tryChange([&] { ASSERT_TRUE(enterFix(d->study(), shiftOfKnockedBed(d->study()))); });
    d->settle();
    ASSERT_FALSE(bar->isHidden());
    EXPECT_TRUE(text("outOfDateSays").contains("screened before the fix of"))
        << text("outOfDateSays").toStdString();
    EXPECT_TRUE(text("outOfDateSays").contains("Kiln 4/Bed ΔP"));
    QString said;
    QObject::connect(&d->session(), &app::Session::notified, [&](const QString& m) { said = m; });
    d->click("makeAgain");
    d->settle();
    EXPECT_TRUE(bar->isHidden());
    EXPECT_TRUE(said.contains("excursions of Bed ΔP on Kiln 4 gone")) << said.toStdString();
    EXPECT_LT(onRecord() + 50, before);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(onRecord(), before);
    EXPECT_FALSE(bar->isHidden());
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_TRUE(bar->isHidden());
}

TEST_F(Causes, AreFoundOnArrivalAndSayWhy) {
    ASSERT_TRUE(page()->found());
    EXPECT_EQ(page()->found()->excursions.size(), onRecord());
    EXPECT_EQ(cell(0, 1), "Unexplained");
    choose("Step of Kiln 4 Bed ΔP");
    EXPECT_TRUE(text("causeChosen").contains("rises by")) << text("causeChosen").toStdString();
    EXPECT_TRUE(seen("causeTakeOut"));
    EXPECT_FALSE(seen("causeLimits"));
    EXPECT_FALSE(page()->sheet()->marked().empty());
    for (const auto& [run, role] : page()->sheet()->marked()) EXPECT_EQ(role, "bed_dp");
    choose("Process change of Kiln 1");
    EXPECT_FALSE(seen("causeTakeOut"));
    EXPECT_TRUE(seen("causeLimits"));
    choose("Unexplained");
    EXPECT_TRUE(text("causeChosen").contains("explains half"));
    EXPECT_FALSE(d->find<QPushButton>("causeApart")->isEnabled());
    EXPECT_TRUE(d->study().judgement().allFixes().empty()) << "looking enters nothing";
}

TEST_F(Causes, TheSheetWithoutThemIsShownBeforeAnythingIsEntered) {
    const std::size_t all = page()->found()->excursions.size();
    tick("Step of Kiln 4 Bed ΔP");
    EXPECT_TRUE(text("causesLeft").contains("without 1 cause")) << text("causesLeft").toStdString();
    EXPECT_TRUE(text("causesLeft").contains(QString("instead of %1").arg(all)));
    EXPECT_EQ(onRecord(), all);
    tick("Step of Kiln 4 Bed ΔP");
    EXPECT_FALSE(text("causesLeft").contains("without"));
    d->click("causesAllOut");
    d->settle();
    EXPECT_TRUE(text("causesLeft").contains("without")) << text("causesLeft").toStdString();
    const auto left = text("causesLeft").section(": ", 1).section(' ', 0, 0).toULong();
    EXPECT_GT(left, 20u);
    EXPECT_LT(left, all / 4);
}

TEST_F(Causes, TakingAStepOutSaysWhatItClearedAndIsOneStepToUndo) {
    const std::size_t all = onRecord();
    QStringList said;
    QObject::connect(&d->session(), &app::Session::notified, [&](const QString& words) { said << words; });
    choose("Step of Kiln 4 Bed ΔP");
    d->click("causeTakeOut");
    d->settle();
    ASSERT_EQ(d->study().judgement().allFixes().size(), 1u);
    const Fix fix = d->study().judgement().allFixes().front();
    EXPECT_NEAR(std::get<ShiftFix>(fix.body).by, -38, 3.8);
    EXPECT_TRUE(QString::fromStdString(fix.why).contains("false step"));
    EXPECT_LT(onRecord(), all - 80);
    EXPECT_TRUE(said.join('\n').contains("excursions of Bed ΔP on Kiln 4 gone"))
        << said.join('\n').toStdString();
    for (int row = 0; row < model()->rowCount(); ++row) EXPECT_NE(cell(row, 1), "Step of Kiln 4 Bed ΔP");
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_TRUE(d->study().judgement().allFixes().empty());
    EXPECT_EQ(onRecord(), all);
    EXPECT_TRUE(text("causesStatus").contains("before the last change"))
        << text("causesStatus").toStdString();
    d->click("findCauses");
    d->settle();
    EXPECT_EQ(page()->found()->excursions.size(), all);
}

TEST_F(Causes, ExcursionsAreSetApartWithAReasonOnly) {
    const std::size_t all = onRecord(false);
    choose("Process change of Kiln 1");
    const auto of = static_cast<std::size_t>(cell(rowOf("Process change of Kiln 1"), 3).toInt());
    d->click("causeApart");
    EXPECT_EQ(onRecord(false), all) << "no reason, nothing happens";
    d->type("causeWhy", "new pulley, accepted");
    d->click("causeApart");
    d->settle();
    EXPECT_EQ(onRecord(false), all - of);
    EXPECT_EQ(page()->found()->excursions.size(), all - of);
    d.reset();
    start();
    EXPECT_EQ(onRecord(false), all - of);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(onRecord(false), all);
}

TEST_F(Causes, LimitsFromAChangeOnAreThoseOfTheAsset) {
    const std::size_t all = onRecord();
    choose("Process change of Kiln 1");
    d->click("causeLimits");
    d->settle();
    const auto set = d->study().judgement().limitSetNamed("Golden limits, Kiln 1");
    ASSERT_TRUE(set);
    EXPECT_EQ(set->forRuns, "asset = \"Kiln 1\"");
    EXPECT_GT(set->goldenRuns.size(), 3u);
    EXPECT_LT(onRecord(), all - 40);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_FALSE(d->study().judgement().limitSetNamed("Golden limits, Kiln 1"));
    EXPECT_EQ(onRecord(), all);
}

TEST_F(Causes, ADoubleClickGoesToTheMoment) {
    choose("Step of Kiln 4 Bed ΔP");
    const Instant since = page()->found()->causes[1].range.from;
    d->click("causeSee");
    d->settle();
    EXPECT_EQ(d->view().bench(), app::BenchId::Survey);
    EXPECT_EQ(d->view().tag(), d->tagId("Kiln 4/Bed ΔP"));
    EXPECT_TRUE(d->view().view().contains(since));
}

TEST(CausesWithoutLimits, SayWhatToDoFirst) {
    Folder folder("no-causes");
    copyDemo(folder / "s.jacinth");
    WindowDriver d(folder / "s.jacinth");
    d.bench(app::BenchId::Screen);
    d.click("screenCauses");
    d.settle();
    EXPECT_TRUE(d.find<QLabel>("causesStatus")->text().contains("build limits"));
    EXPECT_FALSE(d.find<QPushButton>("findCauses")->isEnabled());
    d.click("causesAllOut");
    d.settle();
    EXPECT_FALSE(d.window().screen()->causesPage()->found());
}

/// Resident memory of this process, in MB.
double residentMegabytes() {
    std::ifstream statm("/proc/self/statm");
    double whole = 0, resident = 0;
    statm >> whole >> resident;
    return resident * static_cast<double>(::sysconf(_SC_PAGESIZE)) / 1e6;
}

TEST(CausesMemory, WhatTheyWereFoundWithGoesBackToTheSystem) {
    keepFreedMemory();  // as the program does
    Folder folder("causes-memory");
    fs::copy_file(screenedDemo(), folder / "s.jacinth");
    WindowDriver d(folder / "s.jacinth");
    d.bench(app::BenchId::Screen);
    d.settle();
    const double before = residentMegabytes();
    d.click("screenCauses");
    d.settle();
    const double found = residentMegabytes();
    QTest::qWait(2500);
    const double after = residentMegabytes();
    std::printf("resident before %.0f, with the causes found %.0f, idle %.0f MB\n", before, found, after);
    EXPECT_LT(after - before, 90);
}

}  // namespace
}  // namespace jacinth::test
