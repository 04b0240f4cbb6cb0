// Imports, what tags are, and facts, through their dialogs.
#include <QApplication>
#include <QComboBox>
#include <fstream>

#include "app/base/preferences.h"
#include "app/base/tables.h"
#include "app/window/import_dialog.h"
#include "app/window/imports_dialog.h"
#include "app/window/tags_dialog.h"
#include "core/time/times_for_tests.h"
#include "source/import_samples.h"
#include "source/recipe.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/tracks.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

class OnRecord : public ::testing::Test {
  protected:
    OnRecord() : folder("record-window") {
        std::ofstream(folder / "first.csv")
            << "time,K 1/Temp [°C],K 2/Temp [°C]\n2026-03-01 00:00,1,5\n2026-03-01 00:01,2,6\n";
        std::ofstream(folder / "second.csv")
            << "time,K 1/Temp [°C],K 2/Temp [°C]\n2026-03-01 00:01,20,6\n2026-03-01 00:02,3,x\n";
        auto study = std::move(*Study::create(folder / "s.jacinth"));
        for (const char* name : {"first.csv", "second.csv"}) {
            EXPECT_TRUE(importSamples(*study, *TextSource::at(folder / name), {}));
        }
        study.reset();
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    }
    void type(QDialog& dialog, const char* name, const QString& text) {
        auto* field = dialog.findChild<QLineEdit*>(name);
        ASSERT_NE(field, nullptr) << name;
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClick(field, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClick(field, Qt::Key_Backspace);
        QTest::keyClicks(field, text);
    }
    void press(QDialog& dialog, const char* name) {
        auto* button = dialog.findChild<QPushButton*>(name);
        ASSERT_NE(button, nullptr) << name;
        ASSERT_TRUE(button->isEnabled()) << name;
        QTest::mouseClick(button, Qt::LeftButton);
        d->settle();
    }
    Tag tag(const char* path) { return *d->study().catalog().tagAt(path); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(OnRecord, AnImportIsRemovedAfterAClearQuestion) {
    app::ImportsDialog dialog(d->session(), &d->window());
    dialog.show();
    d->settle();
    auto* table = dialog.findChild<QTableView*>("importsTable");
    ASSERT_EQ(table->model()->rowCount(), 2);
    d->clickRow(table, 1);
    EXPECT_EQ(dialog.findChild<QTableView*>("importBadRowsKept")->model()->rowCount(), 0);
    d->clickRow(table, 0);  // the newest first
    auto* bad = dialog.findChild<QTableView*>("importBadRowsKept");
    ASSERT_EQ(bad->model()->rowCount(), 1);
    EXPECT_TRUE(bad->model()->index(0, 2).data().toString().contains("is not a number"));
    press(dialog, "removeImport");
    const QString question = dialog.findChild<QLabel*>("removalQuestion")->text();
    EXPECT_TRUE(question.contains("second.csv")) << question.toStdString();
    EXPECT_TRUE(question.contains("older samples it replaced come back")) << question.toStdString();
    press(dialog, "removeImportNo");
    EXPECT_FALSE(d->study().imports().all()[1].removedAt);
    press(dialog, "removeImport");
    type(dialog, "removalWhy", "wrong probe");
    press(dialog, "removeImportYes");
    EXPECT_TRUE(d->study().imports().all()[1].removedAt.has_value());
    EXPECT_EQ(d->study().read(tag("K 1/Temp"), d->study().record(), Which::AsLogged).values,
              (std::vector<double>{1, 2}));
    EXPECT_EQ(d->study().history().ledger().back().why, "wrong probe");
    EXPECT_FALSE(dialog.findChild<QPushButton*>("removeImport")->isEnabled());
    EXPECT_TRUE(d->statusText().contains("samples removed")) << d->statusText().toStdString();
}

TEST_F(OnRecord, SettingsOfOneAndOfManyTagsAreOneStepEach) {
    app::TagsDialog dialog(d->session(), tag("K 1/Temp").id, &d->window());
    dialog.show();
    d->settle();
    EXPECT_EQ(dialog.findChild<QLineEdit*>("tagUnit")->text(), "°C");
    type(dialog, "tagUnit", "K");
    type(dialog, "tagGap", "20m");
    dialog.findChild<QComboBox*>("tagKind")->setCurrentText("stepped");
    press(dialog, "applyTag");
    EXPECT_EQ(tag("K 1/Temp").unit, "K");
    EXPECT_EQ(tag("K 1/Temp").kind, TagKind::Stepped);
    EXPECT_EQ(tag("K 1/Temp").longestGap, 20 * kMinute);
    EXPECT_EQ(tag("K 2/Temp").unit, "°C");
    type(dialog, "tagGap", "soon");
    press(dialog, "applyTag");
    EXPECT_TRUE(dialog.findChild<QLabel*>("tagsTrouble")->text().contains("a length like 20m"));
    EXPECT_EQ(tag("K 1/Temp").longestGap, 20 * kMinute);
    auto* table = dialog.findChild<QTableView*>("tagsTable");
    table->selectAll();
    d->settle();
    EXPECT_EQ(dialog.findChild<QLabel*>("tagsChosen")->text(), "2 chosen");
    EXPECT_TRUE(dialog.findChild<QLineEdit*>("tagUnit")->text().isEmpty());  // they differ
    type(dialog, "tagUnit", "degC");
    press(dialog, "applyTag");
    EXPECT_EQ(tag("K 1/Temp").unit, "degC");
    EXPECT_EQ(tag("K 2/Temp").unit, "degC");
    EXPECT_EQ(tag("K 2/Temp").kind, TagKind::Continuous);  // what was not said stays
    EXPECT_EQ(d->study().history().undoName(), "settings of 2 tags");
    d->session().undo();
    EXPECT_EQ(tag("K 1/Temp").unit, "K");
    EXPECT_EQ(tag("K 2/Temp").unit, "°C");
}

TEST_F(OnRecord, FactsAreSetOnManyAtOnce) {
    app::TagsDialog dialog(d->session(), {}, &d->window());
    dialog.show();
    d->settle();
    auto* table = dialog.findChild<QTableView*>("tagsTable");
    table->selectAll();
    type(dialog, "factName", "system");
    press(dialog, "setFact");
    EXPECT_TRUE(dialog.findChild<QLabel*>("tagsTrouble")->text().contains("has a value"));
    type(dialog, "factValue", "air");
    press(dialog, "setFact");
    EXPECT_EQ(factText(tag("K 1/Temp").facts, "system"), "air");
    EXPECT_EQ(factText(tag("K 2/Temp").facts, "system"), "air");
    dialog.findChild<QComboBox*>("tagsWhat")->setCurrentText("assets");
    d->settle();
    ASSERT_EQ(table->model()->rowCount(), 2);
    d->clickRow(table, 1);
    type(dialog, "factName", "load");
    type(dialog, "factValue", "42,5");
    press(dialog, "setFact");
    EXPECT_EQ(factNumber(d->study().catalog().assetNamed("K 2")->facts, "load"), 42.5);
    EXPECT_FALSE(d->study().catalog().assetNamed("K 1")->facts.contains("load"));
    press(dialog, "unsetFact");
    EXPECT_FALSE(d->study().catalog().assetNamed("K 2")->facts.contains("load"));
    d->session().undo();
    d->session().undo();
    d->session().undo();
    EXPECT_TRUE(tag("K 1/Temp").facts.empty());
}

TEST_F(OnRecord, SeveralFilesOfOneLayoutAreOneImportByARecipe) {
    for (int i = 0; i < 3; ++i)
        std::ofstream(folder / ("part" + std::to_string(i) + ".csv"))
            << "at;name;reading\n02.03.2026 0" << i << ":00;Level;" << i << ",5\n";
    LayoutHints hints;
    hints.longForm = true;
    hints.tagColumn = "name";
    hints.valueColumn = "reading";
    hints.asset = "K 3";
    hints.zone = "Europe/Oslo";
    d->session().tryChange([&] { saveRecipe(d->study(), "lab", hints); });
    bool seen = false;
    QTimer::singleShot(300, [&] {
        auto* dialog = d->window().findChild<QDialog*>("importDialog");
        ASSERT_NE(dialog, nullptr);
        seen = true;
        // As guessed it cannot be: the recipe says how.
        EXPECT_FALSE(dialog->findChild<QPushButton*>("importStart")->isEnabled());
        auto* recipe = dialog->findChild<QComboBox*>("importRecipe");
        QTest::keyClick(recipe, Qt::Key_Down);
        emit recipe->activated(recipe->currentIndex());
        EXPECT_TRUE(dialog->findChild<QPushButton*>("importStart")->isEnabled())
            << dialog->findChild<QLabel*>("importTrouble")->text().toStdString();
        QTest::mouseClick(dialog->findChild<QPushButton*>("importStart"), Qt::LeftButton);
    });
    d->window().importFiles({QString::fromStdString(folder / "part0.csv"),
                             QString::fromStdString(folder / "part1.csv"),
                             QString::fromStdString(folder / "part2.csv")});
    d->settle();
    EXPECT_TRUE(seen);
    const auto level = d->study().catalog().tagAt("K 3/Level");
    ASSERT_TRUE(level);
    EXPECT_EQ(d->study().read(*level, d->study().record(), Which::AsLogged).values,
              (std::vector<double>{0.5, 1.5, 2.5}));
    EXPECT_TRUE(d->statusText().startsWith("3 files: ")) << d->statusText().toStdString();
    EXPECT_EQ(d->study().imports().all().size(), 5u);
}

TEST_F(OnRecord, SeveralTablesOfEventsAreTakenInOneGo) {
    for (int i = 0; i < 2; ++i)
        std::ofstream(folder / ("stops" + std::to_string(i) + ".csv"))
            << "asset,start,end,reason\nK 1,2026-03-0" << i + 1 << " 01:00,2026-03-0" << i + 1
            << " 02:00,belt\nK 1,2026-03-0" << i + 1 << " 05:00,,open\n";
    QTimer::singleShot(300, [&] {
        auto* dialog = d->window().findChild<QDialog*>("importDialog");
        ASSERT_NE(dialog, nullptr);
        auto* kind = dialog->findChild<QComboBox*>("importKind");
        kind->setCurrentText("stops");
        d->settle();
        auto* start = dialog->findChild<QPushButton*>("importStart");
        ASSERT_TRUE(start->isEnabled()) << dialog->findChild<QLabel*>("importTrouble")->text().toStdString();
        QTest::mouseClick(start, Qt::LeftButton);
    });
    d->window().importFiles(
        {QString::fromStdString(folder / "stops0.csv"), QString::fromStdString(folder / "stops1.csv")});
    d->settle();
    EXPECT_GE(d->study().tracks().spansOf(track_kind::kStops).size(), 2u);
    EXPECT_TRUE(d->statusText().startsWith("2 files: ")) << d->statusText().toStdString();
    EXPECT_EQ(d->study().imports().all().size(), 4u);
}

TEST_F(OnRecord, ThePreferredOrderOfDatesSettlesWhatAFileLeavesOpen) {
    std::ofstream(folder / "open.csv") << "time,K 9/Temp\n01/02/2026 00:00,1\n03/04/2026 00:00,2\n";
    app::Preferences preferred = app::Preferences::load();
    const auto importIt = [&](const QString& order) {
        preferred.dateOrder = order;
        preferred.save();
        app::ImportDialog dialog(d->session(), {QString::fromStdString(folder / "open.csv")}, &d->window());
        dialog.show();
        d->settle();
        auto* start = dialog.findChild<QPushButton*>("importStart");
        const bool possible = start->isEnabled();
        if (possible) QTest::mouseClick(start, Qt::LeftButton);
        d->settle();
        return possible;
    };
    EXPECT_FALSE(importIt(""));  // asked
    ASSERT_TRUE(importIt("month-first"));
    const auto times = [&] {
        return d->study().read(tag("K 9/Temp"), d->study().record(), Which::AsLogged).times;
    };
    EXPECT_EQ(times(),
              (std::vector<Instant>{*fromIso("2026-01-02T00:00:00Z"), *fromIso("2026-03-04T00:00:00Z")}));
    ASSERT_TRUE(importIt("day-first"));
    EXPECT_EQ(times().size(), 4u);
    EXPECT_EQ(times()[1], *fromIso("2026-02-01T00:00:00Z"));
    preferred.dateOrder.clear();
    preferred.save();
}

TEST_F(OnRecord, ATagBecomesStatesAndNumbersAgain) {
    app::TagsDialog dialog(d->session(), tag("K 1/Temp").id, &d->window());
    dialog.show();
    d->settle();
    const auto before = d->study().read(tag("K 1/Temp"), d->study().record(), Which::AsLogged).values;
    auto* kind = dialog.findChild<QComboBox*>("tagKind");
    kind->setCurrentText("state");
    type(dialog, "tagStates", "Manual, Off");
    press(dialog, "applyTag");
    EXPECT_EQ(tag("K 1/Temp").kind, TagKind::State);
    const auto& states = tag("K 1/Temp").states;
    EXPECT_TRUE(std::find(states.begin(), states.end(), "Manual") != states.end());
    kind->setCurrentText("continuous");
    press(dialog, "applyTag");
    EXPECT_EQ(tag("K 1/Temp").kind, TagKind::Continuous);
    EXPECT_EQ(d->study().read(tag("K 1/Temp"), d->study().record(), Which::AsLogged).values, before);
}

TEST_F(OnRecord, AWindowThatOnlyReadsWritesNothing) {
    const std::string path = d->study().path();
    d->close();
    d.reset();
    auto study = std::move(*Study::open(path, true));
    const auto written = std::filesystem::last_write_time(path);
    {
        app::MainWindow window(std::move(study), app::ThemeChoice::Light);
        window.show();
        QTest::qWait(300);
        window.session().view().goTo(at(0), at(kHour));
        window.session().saveView();
        QString said;
        QObject::connect(&window.session(), &app::Session::failed, [&](const QString& why) { said = why; });
        window.session().tryChange([&] { window.session().study().setSetting("zone", "UTC"); });
        EXPECT_FALSE(said.isEmpty());
        window.close();
    }
    EXPECT_EQ(std::filesystem::last_write_time(path), written);
    d = std::make_unique<WindowDriver>(path);  // for the fixture's end
}

}  // namespace
}  // namespace jacinth::test
