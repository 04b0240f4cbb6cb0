// Imports in the window: what names and units of other plants become, undo at an import, and who cancels
// what.
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTabWidget>
#include <QThread>

#include "app/window/import_dialog.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

class WindowImports : public ::testing::Test {
  protected:
    WindowImports() : folder("window-imports") {
        EXPECT_TRUE(Study::create(folder / "s.jacinth"));
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    }
    QString file(const char* name, const std::string& text) {
        std::ofstream(folder / name) << text;
        return QString::fromStdString(folder / name);
    }
    std::unique_ptr<app::ImportDialog> dialogFor(const QString& path) {
        auto dialog = std::make_unique<app::ImportDialog>(d->session(), QStringList{path}, &d->window());
        dialog->show();
        QTest::qWait(50);
        return dialog;
    }
    void import(app::ImportDialog& dialog) {
        auto* start = dialog.findChild<QPushButton*>("importStart");
        ASSERT_TRUE(start->isEnabled()) << trouble(dialog).toStdString();
        QTest::mouseClick(start, Qt::LeftButton);
        d->settle();
    }
    static QString trouble(app::ImportDialog& dialog) {
        return dialog.findChild<QLabel*>("importTrouble")->text();
    }
    static void enter(app::ImportDialog& dialog, const char* field, const QString& text) {
        auto* edit = dialog.findChild<QLineEdit*>(field);
        edit->setFocus();
        edit->selectAll();
        QTest::keyClicks(edit, text);
        QTest::keyClick(edit, Qt::Key_Tab);
    }
    const Catalog& catalog() { return d->study().catalog(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(WindowImports, APatternIsProposedShownAndKeptForTheNextOne) {
    auto dialog = dialogFor(file("a.csv",
                                 "time,North/Line 1/Pump 7/Flow [m³/h],South/Line 4/Pump 9/Flow [m³/h]\n"
                                 "2026-03-01T00:00Z,1,2\n2026-03-01T00:01Z,1,2\n"));
    EXPECT_EQ(dialog->findChild<QLineEdit*>("importNames")->text(), "{area}/{line}/{asset}/{tag}");
    EXPECT_EQ(dialog->findChild<QTabWidget*>("importTabs")->tabText(1), "Names (2)");
    const auto* names = dialog->findChild<QTableView*>("importNamesTable")->model();
    ASSERT_EQ(names->rowCount(), 2);
    EXPECT_EQ(names->index(0, 1).data().toString(), "Pump 7");
    EXPECT_EQ(names->index(1, 5).data().toString(), "area South, line Line 4");
    import(*dialog);
    EXPECT_EQ(factText(catalog().assetNamed("Pump 9")->facts, "line"), "Line 4");
    auto next = dialogFor(file("b.csv", "time,North/Line 1/Pump 8/Temp\n2026-03-01T00:00Z,1\n"));
    EXPECT_EQ(next->findChild<QLineEdit*>("importNames")->text(), "{area}/{line}/{asset}/{tag}");
    import(*next);
    EXPECT_TRUE(catalog().find("Pump 8/Temp"));
}

TEST_F(WindowImports, NamesThatWouldBeOneThingAreSaidBeforeAnythingIsStored) {
    auto dialog =
        dialogFor(file("a.csv", "time,A/L 1/Pump 1/Flow,B/L 2/Pump 1/Temp\n2026-03-01T00:00Z,1,2\n"));
    EXPECT_TRUE(trouble(*dialog).contains("Pump 1 is in")) << trouble(*dialog).toStdString();
    EXPECT_FALSE(dialog->findChild<QPushButton*>("importStart")->isEnabled());
    enter(*dialog, "importNames", "{asset}");
    EXPECT_TRUE(trouble(*dialog).contains("has no {tag}")) << trouble(*dialog).toStdString();
    enter(*dialog, "importNames", "{area}/{line}/{asset}/{tag}");
    enter(*dialog, "importAssetNames", "{line} {asset}");
    import(*dialog);
    EXPECT_TRUE(catalog().find("L 1 Pump 1/Flow"));
    EXPECT_TRUE(catalog().find("L 2 Pump 1/Temp"));
}

TEST_F(WindowImports, AnotherUnitIsAskedAbout) {
    import(*dialogFor(file("a.csv", "time,P 1/T [°C]\n2026-03-01T00:00Z,20\n")));
    auto dialog = dialogFor(file("b.csv", "time,P 1/T [°F]\n2026-03-02T00:00Z,212\n"));
    EXPECT_TRUE(dialog->findChild<QWidget*>("importUnitsRow")->isVisible());
    EXPECT_FALSE(dialog->findChild<QPushButton*>("importStart")->isEnabled());
    auto* units = dialog->findChild<QComboBox*>("importUnits");
    units->setFocus();
    QTest::keyClick(units, Qt::Key_Down);
    emit units->activated(units->currentIndex());
    EXPECT_EQ(units->currentText(), "convert them");
    import(*dialog);
    const Tag tag = *catalog().find("P 1/T");
    EXPECT_DOUBLE_EQ(d->study().read(tag, d->study().record(), Which::AsLogged).values[1], 100);
}

TEST_F(WindowImports, UndoAsksAtAnImportAndTakesBackWhatIsMeant) {
    import(*dialogFor(file("a.csv", "time,P 1/T\n2026-03-01T00:00Z,20\n")));
    const auto owner = [&] { return factText(catalog().assetNamed("P 1")->facts, "owner"); };
    d->session().tryChange([&] {
        d->study().change("owner of P 1", "", {}, [&] {
            d->study().catalog().setAssetFacts(catalog().assetNamed("P 1")->id,
                                               {{"owner", std::string("M. L.")}});
        });
    });
    import(*dialogFor(file("b.csv", "time,P 1/U\n2026-03-01T00:00Z,20\n")));
    ASSERT_EQ(owner(), "M. L.");
    dismissDialog();
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(owner(), "M. L.") << "left without an answer";
    onNextDialog([](QWidget* box) {
        EXPECT_EQ(box->objectName(), "undoPastImport");
        for (QPushButton* button : box->findChildren<QPushButton*>())
            if (button->text().contains("owner of P 1")) button->click();
    });
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(owner(), "");
    EXPECT_TRUE(catalog().find("P 1/U"));
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(owner(), "M. L.");
}

TEST_F(WindowImports, AJobIsCancelledByItsOwnerAlone) {
    QObject one, other;
    auto goOn = std::make_shared<std::atomic<bool>>(true);
    int cancelled = 0, ended = 0;
    const auto work = [goOn, &cancelled](app::JobContext& job) -> std::function<void()> {
        while (goOn->load())
            if (job.progress.stopped(0.5)) {
                ++cancelled;
                return {};
            } else {
                QThread::msleep(5);
            }
        return {};
    };
    d->session().runJob(&one, "compare", "One", work, false, [&] { ++ended; });
    d->session().runJob(&other, "compare", "Other", work, false, [&] { ++ended; });
    d->session().runJob(&d->session(), "import", "Import", work, true, [&] { ++ended; });
    QTest::qWait(100);
    EXPECT_EQ(ended, 0) << "one of the same name ended that of another page";
    d->session().cancelJobsOf(&one);
    EXPECT_TRUE(QTest::qWaitFor([&] { return ended == 1; }, 3000));
    QTest::qWait(100);
    EXPECT_EQ(ended, 1);
    goOn->store(false);
    EXPECT_TRUE(QTest::qWaitFor([&] { return ended == 3; }, 3000));
    EXPECT_EQ(cancelled, 1);
}

TEST_F(WindowImports, AFolderIsOneDialogThatSaysWhatEachFileBecomes) {
    fs::create_directories(folder / "all");
    file("all/a.csv",
         "Export of the pump house\n\ntime,P 1/Flow,P 2/Flow\n2026-03-01T00:00Z,1,2\n"
         "2026-03-01T00:01Z,1,2\n2026-03-01T00:02Z,1,2\n");
    file("all/b.csv",
         "Export of the pump house\n\ntime,P 1/Flow,P 2/Flow\n2026-03-02T00:00Z,1,2\n"
         "2026-03-02T00:01Z,1,2\n2026-03-02T00:02Z,1,2\n");
    file("all/failures.csv", "asset,time,kind\nP 2,2026-03-01T00:01Z,seal\n");
    file("all/unclear.csv", "time,P 1/Temp\n01/02/2026,1\n02/02/2026,2\n");
    auto dialog = dialogFor(QString::fromStdString(folder / "all"));
    d->settle();
    auto* files = dialog->findChild<QTableView*>("importFiles");
    ASSERT_TRUE(files->isVisible());
    const auto becomes = [&](int row) { return files->model()->index(row, 1).data().toString(); };
    ASSERT_EQ(files->model()->rowCount(), 4);
    EXPECT_EQ(files->model()->index(3, 0).data().toString(), "failures.csv") << "events after samples";
    EXPECT_EQ(becomes(0), "samples, wide: 2 tags on 2 assets");
    EXPECT_EQ(becomes(1), "like a.csv");
    EXPECT_TRUE(becomes(2).contains("day first or month first")) << becomes(2).toStdString();
    EXPECT_EQ(becomes(3), "failures");
    auto* start = dialog->findChild<QPushButton*>("importStart");
    EXPECT_FALSE(start->isEnabled()) << "one file needs an answer";
    EXPECT_TRUE(trouble(*dialog).contains("needs an answer")) << trouble(*dialog).toStdString();
    // The answer is given for that file alone; what is said of another stays with it.
    files->selectRow(2);
    d->settle();
    auto* times = dialog->findChild<QComboBox*>("importTimes");
    times->setCurrentIndex(times->findText("day first"));
    emit times->activated(times->currentIndex());
    d->settle();
    EXPECT_TRUE(start->isEnabled()) << trouble(*dialog).toStdString();
    files->selectRow(0);
    d->settle();
    EXPECT_EQ(times->currentIndex(), 0);
    EXPECT_TRUE(dialog->findChild<QLabel*>("importFacts")->text().contains("2 title lines"));
    files->selectRow(2);
    d->settle();
    EXPECT_EQ(times->currentText(), "day first");
    import(*dialog);
    EXPECT_EQ(catalog().tags().size(), 3u);
    EXPECT_EQ(d->study().samples().whole(d->tagId("P 1/Flow")).count, 6);
    EXPECT_EQ(d->study().samples().whole(d->tagId("P 1/Temp")).lastTime, *fromIso("2026-02-02T00:00:00Z"));
    EXPECT_EQ(d->study().tracks().spansOf(track_kind::kFailures).size(), 1u);
}

TEST_F(WindowImports, AnEmptyFolderAndAFileThatIsGoneAreSaid) {
    fs::create_directories(folder / "none");
    auto dialog = dialogFor(QString::fromStdString(folder / "none"));
    EXPECT_TRUE(trouble(*dialog).contains("holds no text files")) << trouble(*dialog).toStdString();
    EXPECT_FALSE(dialog->findChild<QPushButton*>("importStart")->isEnabled());
    auto gone = dialogFor(QString::fromStdString(folder / "gone.csv"));
    EXPECT_FALSE(trouble(*gone).isEmpty());
    EXPECT_FALSE(gone->findChild<QPushButton*>("importStart")->isEnabled());
}

}  // namespace
}  // namespace jacinth::test
