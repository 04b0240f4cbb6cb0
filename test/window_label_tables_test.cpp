// Around the marks, driven by mouse and keys: facts edited in their table, labels from lists, labels imported
// with their kinds said, cut-outs written, the overview.
#include <QComboBox>
#include <QSortFilterProxyModel>

#include "app/label/label_bench.h"
#include "app/window/cut_out_dialog.h"
#include "app/window/facts_dialog.h"
#include "app/window/label_import_dialog.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"
#include "work/label/labels.h"

namespace jacinth::test {
namespace {

class LabelTables : public ::testing::Test {
  protected:
    LabelTables() : folder("label-tables") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    }
    std::vector<Span> labels() { return labelsOf(d->study()); }
    AssetId kiln(int n) { return d->study().catalog().assetNamed("Kiln " + std::to_string(n))->id; }
    SpanId mark(int kilnNumber, Duration from, Duration length, const char* kind, const char* sure = "") {
        const Instant at = d->view().record().from + from;
        SpanId id;
        d->session().tryChange([&] {
            Span s{{}, kiln(kilnNumber), {}, at, at + length, {}};
            if (*sure) s.facts["certainty"] = std::string(sure);
            id = *addLabelled(d->study(), s, kind, "");
        });
        return id;
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(LabelTables, FactsAreEditedOneAndManyAtOnceAndTheKindSaysWhatCanBe) {
    app::FactsDialog dialog(d->session(), &d->window());
    dialog.show();
    const auto find = [&](const char* name) { return dialog.findChild<QLineEdit*>(name); };
    find("factKindName")->setText("fan drive");
    auto* type = dialog.findChild<QComboBox*>("factKindType");
    type->setCurrentText("choice");
    find("factKindChoices")->setText("belt; direct");
    dialog.findChild<QPushButton*>("factKindKeep")->click();
    ASSERT_EQ(d->study().judgement().factKinds().size(), 1u);
    auto* table = dialog.findChild<QTableView*>("factsTable");
    const auto columnOf = [&](const QString& name) {
        for (int c = 0; c < table->model()->columnCount(); ++c)
            if (table->model()->headerData(c, Qt::Horizontal).toString() == name) return c;
        return -1;
    };
    const int column = columnOf("fan drive");
    ASSERT_GT(column, 0);
    const auto cell = [&](int row) { return table->model()->index(row, column); };
    // In place: what is not a choice is refused and said.
    EXPECT_FALSE(table->model()->setData(cell(0), "chain", Qt::EditRole));
    EXPECT_TRUE(dialog.findChild<QLabel*>("factsTrouble")->text().contains("belt, direct"));
    EXPECT_TRUE(table->model()->setData(cell(0), "BELT", Qt::EditRole));
    EXPECT_EQ(cell(0).data().toString(), "belt");
    // Filled down over three more, as one step.
    table->setCurrentIndex(cell(0));
    for (int row = 0; row < 4; ++row) table->selectionModel()->select(cell(row), QItemSelectionModel::Select);
    table->selectionModel()->setCurrentIndex(cell(3), QItemSelectionModel::NoUpdate);
    dialog.findChild<QPushButton*>("factsFillDown")->click();
    int filled = 0;
    for (const Asset& a : d->study().catalog().assets()) filled += factText(a.facts, "fan drive") == "belt";
    EXPECT_EQ(filled, 4);
    EXPECT_EQ(d->study().history().undoName(), "facts of 3 things");
    // Filtered and sorted by value; taken back in one.
    find("factsFilter")->setText("belt");
    EXPECT_EQ(table->model()->rowCount(), 4);
    find("factsFilter")->setText("");
    d->session().undo();
    EXPECT_EQ(cell(1).data().toString(), "");
    EXPECT_EQ(cell(0).data().toString(), "belt");
    // A kind that does not fit what is on record is refused.
    dialog.findChild<QComboBox*>("factKind")->setCurrentText("fan drive");
    type->setCurrentText("number");
    dialog.findChild<QPushButton*>("factKindKeep")->click();
    EXPECT_TRUE(dialog.findChild<QLabel*>("factsTrouble")->text().contains("correct them first"));
    for (int of = 0; of < 5; ++of) dialog.findChild<QComboBox*>("factsOf")->setCurrentIndex(of);
}

/// Takes the first kind of the menu of kinds that comes up.
void takeFirstKind(QWidget* parent) {
    auto* timer = new QTimer(parent);
    QObject::connect(timer, &QTimer::timeout, timer, [timer] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        if (!menu || menu->objectName() != "labelMenu") return;
        menu->actions().front()->trigger();
        menu->close();
        timer->stop();
    });
    timer->start(20);
}

TEST_F(LabelTables, LabelsComeFromWhatWasWrittenDown) {
    d->bench(app::BenchId::Survey);
    d->view().setView(d->view().record());
    d->settle();
    auto* written = d->find<QTableView>("writtenTable");
    ASSERT_GT(written->model()->rowCount(), 20);
    // The menu opens a second one with the kinds: its first is taken.
    const QString first = QString::fromStdString(d->study().judgement().labelBook().front().name);
    takeFirstKind(written);
    takeFromMenu(written->viewport(), "tableMenu", "Label all in the list as…", QPoint(30, 10));
    d->settle();
    ASSERT_GT(labels().size(), 20u);
    for (const Span& s : labels()) {
        EXPECT_EQ(QString::fromStdString(factText(s.facts, "kind")), first);
        EXPECT_EQ(factText(s.facts, "from"), "What was written down");
        EXPECT_TRUE(s.facts.contains("from span"));
    }
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(labels().empty());
}

TEST_F(LabelTables, StuckStretchesAndSpikesBecomeLabelsInOneAction) {
    const QString first = QString::fromStdString(d->study().judgement().labelBook().front().name);
    d->clickTag("Kiln 3/Bed ΔP");
    d->bench(app::BenchId::Mend);
    d->click("toStuck");
    d->click("findStuck");
    d->settle();
    auto* stuck = d->find<QTableView>("stuckList");
    const int found = stuck->model()->rowCount();
    ASSERT_GT(found, 0);
    takeFirstKind(stuck);
    takeFromMenu(stuck->viewport(), "tableMenu", "Label all in the list as…", QPoint(30, 10));
    d->settle();
    ASSERT_EQ(labels().size(), static_cast<std::size_t>(found));
    for (const Span& s : labels()) {
        EXPECT_EQ(factText(s.facts, "from"), "Stuck stretches");
        EXPECT_EQ(QString::fromStdString(factText(s.facts, "kind")), first);
        EXPECT_EQ(d->study().catalog().tag(s.tag)->asset, s.asset);
        EXPECT_GE(s.end - s.start, 30 * kMinute);
    }
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(labels().empty());
    // Spikes: of the fix in hand, which is not entered by that.
    d->clickTag("Kiln 3/Bed ΔP");
    d->click("kindHide");
    d->click("findSpikes");
    d->settle();
    const std::size_t spikes = std::get<HideFix>(d->window().mend()->draft().body).parts.size();
    ASSERT_GT(spikes, 0u);
    takeFirstKind(d->find<QPushButton>("labelSpikes"));
    d->click("labelSpikes");
    d->settle();
    ASSERT_EQ(labels().size(), spikes) << d->statusText().toStdString();
    EXPECT_EQ(factText(labels()[0].facts, "from"), "Spikes");
    EXPECT_GT(labels()[0].end, labels()[0].start);
    EXPECT_TRUE(d->study().judgement().allFixes().empty());
}

TEST_F(LabelTables, LabelsOfOthersAreImportedOnceTheirKindsAreSaid) {
    const std::string text =
        "Machine,Begin,Finish,Class\n"
        "Kiln 1,2026-03-05 10:00,2026-03-05 11:00,burner\n"
        "Kiln 1,2026-03-06 10:00,2026-03-06 09:00,burner\n"
        "Kiln 2,2026-03-06 10:00,2026-03-06 11:00,odd\n";
    app::LabelImportDialog dialog(d->session(), "theirs.csv", text, &d->window());
    dialog.show();
    const auto column = [&](const char* ours, const char* theirs) {
        auto* box = dialog.findChild<QComboBox*>(QString("column_") + ours);
        box->setCurrentText(theirs);
        emit box->activated(box->currentIndex());
    };
    column("asset", "Machine");
    column("start", "Begin");
    column("end", "Finish");
    column("kind", "Class");
    QApplication::processEvents();
    dialog.findChild<QComboBox*>("kind_burner")->setCurrentText("flame loss");
    EXPECT_EQ(dialog.findChild<QComboBox*>("kind_odd")->currentText(), "keep aside");
    dialog.findChild<QPushButton*>("labelImportTake")->click();
    ASSERT_EQ(labels().size(), 1u);
    EXPECT_EQ(factText(labels()[0].facts, "kind"), "flame loss");
    EXPECT_EQ(dialog.findChild<QLabel*>("labelImportSaid")->text(),
              "1 labels added, 0 stood there already, 2 kept aside.");
    const auto* aside = dialog.findChild<QTableView*>("labelAside");
    ASSERT_EQ(aside->model()->rowCount(), 2);
    EXPECT_EQ(aside->model()->index(0, 1).data().toString(), "it ends before it starts");
    app::LabelImportDialog empty(d->session(), "x", "", &d->window());
    EXPECT_FALSE(empty.findChild<QPushButton*>("labelImportTake")->isEnabled());
}

TEST_F(LabelTables, CutOutsAreWrittenBesideTheInterface) {
    mark(1, 2 * kDay, kHour, "normal");
    app::CutOutDialog dialog(d->session(), {}, &d->window());
    dialog.show();
    const auto* said = dialog.findChild<QLabel*>("cutSaid");
    auto* write = dialog.findChild<QPushButton*>("cutWrite");
    write->click();
    EXPECT_EQ(said->text(), "Say into which folder.");
    dialog.findChild<QLineEdit*>("cutEvery")->setText("often");
    write->click();
    EXPECT_TRUE(said->text().contains("30s"));
    dialog.findChild<QLineEdit*>("cutEvery")->setText("1m");
    dialog.findChild<QLineEdit*>("cutFolder")->setText(QString::fromStdString(folder / "out"));
    write->click();
    d->settle();
    EXPECT_TRUE(fs::exists(folder / "out/manifest.json"));
    EXPECT_TRUE(said->text().contains("1 labels cut out")) << said->text().toStdString();
    write->click();
    d->settle();
    EXPECT_TRUE(said->text().contains("not empty"));
}

TEST_F(LabelTables, TheOverviewCountsAndSaysWhereToLookNext) {
    d->bench(app::BenchId::Label);
    auto& bench = *d->window().label();
    bench.turnTo(app::LabelWay::Overview);
    QTest::qWait(300);
    d->settle();
    EXPECT_EQ(bench.overview()->state(), "nothing is labelled yet");
    const SpanId unsure = mark(2, 10 * kDay, 2 * kHour, "normal", "unsure");
    mark(2, 11 * kDay, 2 * kHour, "");
    QTest::qWait(300);
    d->settle();
    EXPECT_EQ(bench.overview()->state(), "2 marks");
    QTableView* next = bench.overview()->next();
    ASSERT_GE(next->model()->rowCount(), 12);
    EXPECT_EQ(next->model()->index(0, 2).data().toString(), "unsure: normal?");
    EXPECT_EQ(next->model()->index(1, 2).data().toString(), "a mark that is not named yet");
    EXPECT_TRUE(next->model()->index(2, 2).data().toString().contains("like the unsure one of Kiln 2"));
    // The site's own facts are counted too.
    auto* fact = d->find<QComboBox>("overviewFact");
    EXPECT_FALSE(fact->isEnabled());
    d->session().tryChange([&] {
        std::vector<Span> all = labels();
        all[0].facts["cause"] = std::string("draught");
        all[1].facts["cause"] = std::string("draught");
        EXPECT_TRUE(changeLabels(d->study(), all, "cause"));
    });
    QTest::qWait(300);
    d->settle();
    ASSERT_EQ(fact->count(), 2);
    fact->setCurrentIndex(1);
    emit fact->activated(1);
    auto* causes = d->find<QTableView>("overviewFacts");
    ASSERT_EQ(causes->model()->rowCount(), 1);
    EXPECT_EQ(causes->model()->index(0, 0).data().toString(), "draught");
    EXPECT_EQ(causes->model()->index(0, 1).data().toString(), "2");
    EXPECT_EQ(causes->model()->index(0, 2).data().toString(), "4 h");
    // By run there is nothing yet, and it says so; a click on a week goes there.
    auto* by = d->find<QComboBox>("overviewBy");
    by->setCurrentIndex(1);
    emit by->activated(1);
    QTest::qWait(300);
    by->setCurrentIndex(0);
    emit by->activated(0);
    QTest::qWait(300);
    d->settle();
    d->clickAt(bench.overview()->view(), bench.overview()->view()->cellRect(3, 4).center().toPoint());
    EXPECT_EQ(bench.pageShown(), static_cast<int>(app::LabelWay::Marks));
    EXPECT_EQ(d->view().asset(), kiln(4));
    bench.turnTo(app::LabelWay::Overview);
    d->doubleClickAt(next->viewport(), next->visualRect(next->model()->index(0, 1)).center());
    EXPECT_EQ(bench.marks()->chosen(), std::vector<SpanId>{unsure});
}

}  // namespace
}  // namespace jacinth::test
