// The lists under the plot of the fixes that follow it: samples one by one, stuck stretches; and the amount
// of a shift from levels on both sides.
#include <QCheckBox>
#include <QClipboard>
#include <QGuiApplication>
#include <QScrollBar>

#include "app/mend/mend_bench.h"
#include "app/mend/sample_list.h"
#include "store/judgement.h"
#include "test/window_driver.h"
#include "work/mend/mending.h"

namespace jacinth::test {
namespace {

class UnderThePlot : public ::testing::Test {
  protected:
    UnderThePlot() : folder("window-samples") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickTag("Kiln 4/Bed ΔP");
        d->bench(app::BenchId::Mend);
        d->type("timeField", "19 Mar 2026 12:00 to 19 Mar 2026 20:00", true);
    }
    app::FixesPage* page() { return d->window().mend()->fixesPage(); }
    const Fix& draft() { return page()->draft(); }
    QTableView* samples() { return d->find<QTableView>("sampleList"); }
    QString cell(QTableView* table, int row, int column) {
        return table->model()->index(row, column).data().toString();
    }
    void showSamples() {
        d->click("toSamples");
        d->settle();
    }
    std::vector<Fix> fixes() { return d->study().judgement().allFixes(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(UnderThePlot, SamplesAreInStepWithTheViewBothWays) {
    showSamples();
    const int top = samples()->rowAt(3);
    EXPECT_TRUE(cell(samples(), top, 0).startsWith("2026-03-19 12:00"))
        << cell(samples(), top, 0).toStdString();
    // The view leads: the table follows.
    d->type("timeField", "20 Mar 2026 06:00 to 20 Mar 2026 12:00", true);
    d->settle();
    EXPECT_TRUE(cell(samples(), samples()->rowAt(3), 0).startsWith("2026-03-20 06:00"));
    // The table leads: the cursor follows, and the view where the row lies beyond it.
    d->clickRow(samples(), samples()->rowAt(60));
    ASSERT_TRUE(d->view().cursor(0));
    EXPECT_TRUE(d->view().view().contains(*d->view().cursor(0)));
    const TimeRange before = d->view().view();
    for (int i = 0; i < 4; ++i) d->key(samples(), Qt::Key_PageUp);
    d->settle();
    EXPECT_LT(d->view().view().from, before.from);
    EXPECT_TRUE(d->view().view().contains(*d->view().cursor(0)));
    // The cursor leads: its row is the current one.
    const Instant t = d->view().view().from + d->view().view().length() / 3;
    d->view().setCursor(0, t);
    d->settle();
    const auto* model = static_cast<app::SampleModel*>(samples()->model());
    const auto row = static_cast<std::size_t>(samples()->currentIndex().row());
    EXPECT_GE(model->samples().rows[row].time, t);
    EXPECT_LT(model->samples().rows[row].time, t + 5 * kMinute);
}

TEST_F(UnderThePlot, ASampleSaysWhatWasLoggedAndWhichFixesAct) {
    d->click("kindShift");
    d->type("fixFrom", "19 Mar 2026 16:17");
    d->type("fixTo", "19 Mar 2026 18:00");
    d->type("fixBy", "-38");
    d->type("fixWhy", "knocked");
    d->click("enterFix");
    showSamples();
    d->type("timeField", "19 Mar 2026 16:30 to 19 Mar 2026 16:50", true);
    d->settle();
    const int row = samples()->rowAt(3);
    EXPECT_NEAR(cell(samples(), row, 2).toDouble() - cell(samples(), row, 1).toDouble(), -38, 1e-6);
    EXPECT_NEAR(cell(samples(), row, 3).toDouble(), -38, 1e-6);
    EXPECT_EQ(cell(samples(), row, 4), "good");
    EXPECT_EQ(cell(samples(), row, 5), QString("shift (%1)").arg(fixes()[0].id.number));
    d->click("copySamples");
    const QStringList lines = QGuiApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts);
    ASSERT_GT(lines.size(), 10);
    EXPECT_EQ(lines[0].section('\t', 0, 0), "time");
    EXPECT_TRUE(lines[1].startsWith("2026-03-19 16:30:")) << lines[1].toStdString();
    EXPECT_FALSE(QGuiApplication::clipboard()->text().contains(QChar(0x2212)));  // a spreadsheet reads -38
    // Undone, the table follows.
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(cell(samples(), samples()->rowAt(3), 5), "");
}

TEST_F(UnderThePlot, OfALongViewTheSamplesAboutTheCursorAreListed) {
    showSamples();
    d->key(&d->window(), Qt::Key_0, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(samples()->model()->rowCount(), 20000);
    EXPECT_TRUE(d->find<QLabel>("sampleStatus")->text().contains("the view holds more"));
    d->view().setCursor(0, d->study().record().from + 45 * kDay);
    d->settle();
    EXPECT_TRUE(cell(samples(), samples()->currentIndex().row(), 0).startsWith("2026-04-15"))
        << cell(samples(), samples()->currentIndex().row(), 0).toStdString();
}

TEST_F(UnderThePlot, AStuckStretchIsFoundShownAndHidden) {
    d->click("toStuck");
    EXPECT_TRUE(d->find<QLabel>("stuckStatus")->text().contains("not looked for"));
    d->click("findStuck");
    d->settle();
    auto* table = d->find<QTableView>("stuckList");
    ASSERT_EQ(table->model()->rowCount(), static_cast<int>(demoTruth()["stuck"].size()));
    d->clickRow(table, 1);
    d->settle();
    EXPECT_EQ(draft().kind(), FixKind::Hide);
    EXPECT_EQ(QString::fromStdString(d->study().catalog().tag(d->view().tag())->path()), cell(table, 1, 1));
    EXPECT_TRUE(d->view().view().contains(draft().from) && d->view().view().contains(draft().to));
    EXPECT_TRUE(fixes().empty());
    d->click("enterFix");
    ASSERT_EQ(fixes().size(), 1u);
    EXPECT_TRUE(QString::fromStdString(fixes()[0].why).startsWith("stuck: "));
    EXPECT_EQ(cell(table, 1, 6), "fixed: hide");
    d->click("findStuck");
    d->settle();
    EXPECT_EQ(table->model()->rowCount(), static_cast<int>(demoTruth()["stuck"].size()) - 1);
    d->type("stuckLeast", "a while", true);
    EXPECT_TRUE(d->find<QLineEdit>("stuckLeast")->property("wrong").toBool());
}

TEST_F(UnderThePlot, TheAmountComesFromTheLevelsOnBothSides) {
    d->click("kindShift");
    d->type("fixFrom", "19 Mar 2026 16:17");
    d->type("fixTo", "30 Apr 2026 23:59");
    d->type("levelMargin", "1h");
    d->click("measureLevels");
    EXPECT_NEAR(std::get<ShiftFix>(draft().body).by, -38, 4);
    EXPECT_TRUE(d->find<QLabel>("misfit")->text().contains("a step of +"));
    d->type("levelMargin", "wide");
    d->click("measureLevels");
    EXPECT_TRUE(d->find<QLineEdit>("levelMargin")->property("wrong").toBool());
}

TEST_F(UnderThePlot, TheAmountComesFromTwoStretchesDraggedByHand) {
    d->type("timeField", "19 Mar 2026 14:00 to 19 Mar 2026 19:00", true);
    d->click("kindShift");
    d->type("fixFrom", "19 Mar 2026 16:17");
    d->type("fixTo", "30 Apr 2026 23:59");
    d->click("twoStretches");
    d->settle();
    EXPECT_NEAR(std::get<ShiftFix>(draft().body).by, -38, 4);
    const QString first = d->find<QLabel>("misfit")->text();
    // The end of the second stretch is dragged out: more samples, another level.
    auto* plot = page()->plot();
    const Duration length = d->view().view().length() / 10;
    const Instant edge = draft().from + length * 3 / 2;
    const int y = plot->paneRect(0).center().y();
    d->drag(plot, {static_cast<int>(plot->xOf(edge)), y}, {plot->paneRect(0).right() - 3, y});
    EXPECT_TRUE(d->find<QLabel>("misfit")->text().contains("a step of"));
    EXPECT_NE(d->find<QLabel>("misfit")->text(), first);
    // Another kind of fix, and back: they are still there, and the box says so.
    d->click("kindRamp");
    d->click("kindShift");
    d->settle();
    EXPECT_TRUE(d->find<QCheckBox>("twoStretches")->isChecked());
    EXPECT_EQ(plot->handleCount(), 6);
    // Of another tag the levels are its own.
    const QString ofBed = d->find<QLabel>("misfit")->text();
    d->clickTag("Kiln 4/Fan current");
    d->settle();
    EXPECT_NE(d->find<QLabel>("misfit")->text(), ofBed);
    d->click("twoStretches");
    EXPECT_TRUE(d->find<QLabel>("misfit")->isHidden());
    EXPECT_EQ(plot->handleCount(), 2);
}

}  // namespace
}  // namespace jacinth::test
