// Screen, driven by mouse and keys: runs found, golden ones chosen, limits compared, excursions worked
// through.
#include <QCompleter>

#include "app/base/tables.h"
#include "app/screen/limits_dialog.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/dialogs.h"
#include "test/window_driver.h"
#include "work/runs/find_runs.h"

namespace jacinth::test {
namespace {

using app::ScreenWay;

class Screen : public ::testing::Test {
  protected:
    Screen() : folder("screen") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->bench(app::BenchId::Screen);
    }
    app::ScreenBench* screen() { return d->window().screen(); }
    TrackId track() { return d->study().tracks().firstOf(track_kind::kRuns)->id; }
    void findRuns() { d->type("runsWhere", "@kiln_step is not \"Idle\"", true); }
    void chooseGolden() {
        d->type("runsFilter",
                "load between 41 and 43 and max(@air_on_temp) < 86.5 and duration < 22h and number < 8",
                true);
        d->click("goldenShown");
        d->type("runsFilter", "", true);
    }
    void build() {
        d->click("screenSheet");
        d->type("limitTags", "air_on_temp, air_off_temp, fan_current");
        d->click("buildLimits");
    }
    void prepare() {
        findRuns();
        chooseGolden();
        build();
    }
    QString label(const char* name) { return d->find<QLabel>(name)->text(); }
    int rows(QTableView* table) { return table->model()->rowCount(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(Screen, FromAWrongExpressionToALabelledExcursion) {
    // Who has no runs is where runs are found.
    EXPECT_EQ(screen()->pageShown(), static_cast<int>(ScreenWay::Runs));
    auto* where = d->find<app::ExpressionEditor>("runsWhere");
    QTest::mouseClick(where->viewport(), Qt::LeftButton);
    QTest::keyClicks(where, "@kiln_stpe is not \"Idle\"");
    QTest::keyClick(where, Qt::Key_Escape);
    d->settle();
    EXPECT_TRUE(label("runsSays").contains("nearest is `kiln_step`")) << label("runsSays").toStdString();
    // Mended by completion: back to the name, the beginning of it, Tab.
    QTest::keyClick(where, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClicks(where, "@kiln_s");
    ASSERT_TRUE(where->completer()->popup()->isVisible());
    QTest::keyClick(where, Qt::Key_Tab);
    EXPECT_EQ(where->toPlainText(), "@kiln_step");
    QTest::keyClicks(where, " is not \"Idle\"");
    QTest::keyClick(where, Qt::Key_Escape);
    d->settle();
    EXPECT_EQ(label("runsSays"), "");
    EXPECT_EQ(d->find<app::ExpressionEditor>("runsPhases")->toPlainText(), "@kiln_step");
    QTest::keyClick(where, Qt::Key_Return);
    d->settle();
    EXPECT_EQ(d->study().tracks().spans(track()).size(), 263u);
    EXPECT_EQ(rows(screen()->runsPage()->table()), 263);
    EXPECT_EQ(phasesOf(d->study(), track()).size(), 263u);

    // Golden by expression; why is remembered.
    chooseGolden();
    const auto golden = d->study().judgement().goldenRuns(track());
    ASSERT_GT(golden.size(), 12u);
    EXPECT_TRUE(d->study().judgement().goldenWhy(track(), golden[0]).starts_with("load between 41 and 43"));

    // Compare two methods before any limits are kept.
    d->clickTag("Kiln 3/Air-off temp");
    d->click("screenCompare");
    const auto& compared = screen()->comparePage()->comparison();
    ASSERT_TRUE(compared) << label("compareSays").toStdString();
    EXPECT_EQ(compared->role, "air_off_temp");
    EXPECT_EQ(compared->runs, 263u);
    EXPECT_GE(compared->onlyB.size(),
              compared->onlyA.size());  // three s flag more than the tolerance interval
    EXPECT_GT(compared->both.size(), 10u);
    EXPECT_LT(compared->widthB, compared->widthA);
    EXPECT_TRUE(screen()->comparePage()->overlay()->picture().other);

    // Limits, screening, the worst excursion, its label.
    build();
    ASSERT_FALSE(excursionsOf(d->study()).empty()) << d->statusText().toStdString();
    d->click("screenExcursions");
    auto* list = screen()->excursionsPage()->table();
    d->clickRow(list, 0);
    const auto worst = d->study().tracks().span(app::currentId<SpanId>(list));
    ASSERT_TRUE(worst);
    EXPECT_EQ(factNumber(worst->facts, "severity"), 4);
    d->click("excursionToSheet");
    EXPECT_EQ(screen()->pageShown(), static_cast<int>(ScreenWay::Sheet));
    EXPECT_EQ(static_cast<double>(d->view().run().number), factNumber(worst->facts, "run"));
    EXPECT_FALSE(screen()->overlay()->picture().excursions.empty());
    d->click("screenExcursions");
    d->click("excursionLabel");
    EXPECT_EQ(d->view().bench(), app::BenchId::Label);
    d->key(d->window().label()->plot(), Qt::Key_A);
    const auto labels = d->study().tracks().spansOf(track_kind::kLabels);
    ASSERT_EQ(labels.size(), 1u);
    EXPECT_EQ(toIso(labels[0].start).substr(0, 19), toIso(worst->start).substr(0, 19));
}

TEST_F(Screen, TheFilterOfRunsSaysWhatIsWrong) {
    findRuns();
    d->type("runsFilter", "durration > 20h", true);
    EXPECT_TRUE(label("runsFilterSays").contains("nearest is `duration`"))
        << label("runsFilterSays").toStdString();
    d->type("runsFilter", "max(@air_on_temp)");
    EXPECT_TRUE(label("runsFilterSays").contains("a condition would fit"));
    d->type("runsFilter", "product is \"Wheat\"", true);
    const int wheat = rows(screen()->runsPage()->table());
    EXPECT_GT(wheat, 10);
    EXPECT_LT(wheat, 100);
    d->type("runsFilter", "", true);
    EXPECT_EQ(rows(screen()->runsPage()->table()), 263);
}

TEST_F(Screen, ColumnsAreExpressionsAndAreCutByTheirHistograms) {
    findRuns();
    auto* page = screen()->runsPage();
    const int before = page->model()->columnCount();
    d->type("columnText", "max(@air_onn_temp)", true);
    EXPECT_EQ(page->model()->columnCount(), before);
    EXPECT_TRUE(d->statusText().contains("nearest is `air_on_temp`"));
    d->type("columnText", "max(@air_on_temp)");
    d->type("columnName", "hottest");
    d->click("addColumn");
    ASSERT_EQ(page->model()->columnCount(), before + 1);
    const int column = before;
    EXPECT_EQ(page->model()->columnName(column), "hottest, °C");
    // Sorted by a click on its name: the hottest first after the second.
    page->table()->horizontalScrollBar()->setValue(page->table()->horizontalScrollBar()->maximum());
    const QRect bars = page->histograms()->barsRect(column);
    const QPoint name(bars.center().x(), 8);
    d->clickAt(page->histograms()->viewport(), name);
    d->clickAt(page->histograms()->viewport(), name);
    const auto figure = [&](int row) {
        return page->model()->index(row, column).data().toString().toDouble();
    };
    EXPECT_GE(figure(0), figure(1));
    EXPECT_GT(figure(0), figure(200));
    // The right half of the bars: only hot ones stay, and the reason for golden says so.
    d->drag(page->histograms()->viewport(), bars.center(), bars.topRight() + QPoint(-1, 10));
    const int hot = rows(page->table());
    EXPECT_LT(hot, 263);
    EXPECT_GT(hot, 0);
    EXPECT_TRUE(d->find<QLineEdit>("goldenWhy")->text().contains("hottest"));
    d->clickAt(page->histograms()->viewport(), bars.center());  // a click removes the cut
    EXPECT_EQ(rows(page->table()), 263);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(page->model()->columnCount(), before);
}

TEST_F(Screen, RunsArePutRightByHand) {
    findRuns();
    auto* page = screen()->runsPage();
    d->clickRow(page->table(), 0);
    const Span run = *d->study().tracks().span(d->view().run());
    d->type("runEditWhy", "late start");
    d->type("runEnd", "1 Mar 2026 06:00");
    d->click("runMove");
    EXPECT_EQ(d->study().tracks().span(run.id)->end, instantOf("2026-03-01T05:00:00Z"));
    EXPECT_EQ(d->study().history().ledger().back().why, "late start");
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d->study().tracks().span(run.id)->end, run.end);
    d->clickRow(page->table(), 0);
    d->view().setCursor(0, run.start + 5 * kHour);
    d->click("runSplit");
    EXPECT_EQ(d->study().tracks().spans(track()).size(), 264u) << d->statusText().toStdString();
    EXPECT_EQ(d->study().tracks().span(run.id)->end, run.start + 5 * kHour);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->clickRow(page->table(), 1);
    d->click("runLeaveOut");
    EXPECT_EQ(d->study().tracks().spans(track()).size(), 262u);
}

TEST_F(Screen, TheSheetShowsTheFleetAndZooms) {
    prepare();
    app::RunSheet* sheet = screen()->sheet();
    const std::size_t here = sheet->runs().size();
    EXPECT_LT(here, 60u);
    d->find<QComboBox>("sheetFleet")->setCurrentIndex(1);
    d->settle();
    EXPECT_EQ(sheet->runs().size(), 263u);
    const double width = sheet->columnWidth();
    d->wheel(sheet, sheet->cellCentre(sheet->runs()[100].id, 0), 8);
    EXPECT_GT(sheet->columnWidth(), width * 3);
    // By keys to a run far away: it comes into view.
    d->key(sheet, Qt::Key_End);
    EXPECT_EQ(d->view().run(), sheet->runs().back().id);
    EXPECT_LT(sheet->cellCentre(sheet->runs().back().id, 0).x(), sheet->width());
    EXPECT_EQ(d->view().asset(), sheet->runs().back().asset);
}

TEST_F(Screen, TheSheetOpensWhereRunsAre) {
    findRuns();
    d->bench(app::BenchId::Survey);
    d->clickAsset("Site");
    d->bench(app::BenchId::Screen);
    d->click("screenSheet");
    const Asset* shown = d->study().catalog().asset(d->view().asset());
    ASSERT_TRUE(shown);
    EXPECT_EQ(shown->name, "Kiln 1");
    EXPECT_FALSE(screen()->sheet()->runs().empty());
    // Who turns to an asset without runs stays there, and is told where they are.
    d->clickAsset("Site");
    EXPECT_TRUE(screen()->sheet()->runs().empty());
    EXPECT_EQ(screen()->sheet()->wordsWhenEmpty(),
              "No runs of this track on Site; it has some on Kiln 1, Kiln 2, Kiln 3, Kiln 4 and 2 more.");
}

TEST_F(Screen, ACellARunOrATagIsPicked) {
    prepare();
    app::RunSheet* sheet = screen()->sheet();
    const auto all = excursionsOf(d->study());
    ASSERT_FALSE(all.empty());
    d->clickAsset("Kiln 4");
    ASSERT_GE(sheet->rowCount(), 3);
    d->clickAt(sheet, sheet->rowHead(0));
    EXPECT_EQ(sheet->pick(), app::RunSheet::Pick::Tag);
    const std::string role = d->session().tag(d->view().tag())->role;
    std::set<SpanId> here;
    for (const Span& r : sheet->runs()) here.insert(r.id);
    const auto expected = std::count_if(all.begin(), all.end(), [&](const KeptExcursion& e) {
        return e.role == role && here.contains(e.run);
    });
    EXPECT_EQ(rows(screen()->excursions()), expected);
    const SpanId run = sheet->runs()[5].id;
    d->clickAt(sheet, sheet->cellCentre(run, -1));
    EXPECT_EQ(sheet->pick(), app::RunSheet::Pick::Run);
    EXPECT_EQ(d->view().run(), run);
    EXPECT_EQ(rows(screen()->excursions()),
              std::count_if(all.begin(), all.end(), [&](const KeptExcursion& e) { return e.run == run; }));
}

TEST_F(Screen, AllRunsAsADensityAndSideBySide) {
    prepare();
    auto* show = d->find<QComboBox>("overlayShow");
    show->setCurrentIndex(1);
    d->settle();
    ASSERT_TRUE(screen()->overlay()->picture().all);
    EXPECT_EQ(screen()->overlay()->picture().all->size(), 263u);
    show->setCurrentIndex(2);
    d->settle();
    auto* multiples = screen()->sheetPage()->multiples();
    EXPECT_TRUE(multiples->isVisible());
    EXPECT_EQ(multiples->picture().panels.size(), 6u);
    ASSERT_GE(show->findText("side by side by product"), 0);
    show->setCurrentIndex(show->findText("side by side by product"));
    d->settle();
    ASSERT_EQ(multiples->picture().panels.size(), 4u);  // runs cut off by the record's ends have no product
    EXPECT_EQ(multiples->picture().panels[0].name, "Amber");
    EXPECT_EQ(multiples->picture().panels[2].name, "Wheat");
    d->clickAt(multiples, multiples->panelRect(2).center().toPoint());
    EXPECT_EQ(factText(d->study().tracks().span(d->view().run())->facts, "product"), "Wheat");
}

TEST_F(Screen, ExcursionsAreFilteredCountedAndDismissed) {
    prepare();
    d->click("screenExcursions");
    auto* page = screen()->excursionsPage();
    const int all = rows(page->table());
    EXPECT_EQ(all, static_cast<int>(excursionsOf(d->study()).size()));
    auto* severity = d->find<QComboBox>("excursionSeverity");
    severity->setCurrentIndex(2);
    emit severity->activated(2);
    d->settle();
    const int serious = rows(page->table());
    EXPECT_LT(serious, all);
    EXPECT_EQ(serious, std::ranges::count_if(excursionsOf(d->study()),
                                             [](const KeptExcursion& e) { return e.severity >= 3; }));
    auto* by = d->find<QComboBox>("excursionBy");
    by->setCurrentIndex(2);
    emit by->activated(2);
    ASSERT_EQ(page->bars()->picture().counts.size(), 6u);
    EXPECT_GE(page->bars()->picture().counts[0].hours, page->bars()->picture().counts[1].hours);
    const std::string most = page->bars()->picture().counts[0].name;
    d->clickAt(page->bars(), page->bars()->barRect(0).center().toPoint());
    for (const auto& row : static_cast<app::RowsModel*>(page->table()->model())->rows())
        EXPECT_TRUE(row.cells[1].startsWith(QString::fromStdString(most)));
    d->click("excursionAll");
    EXPECT_EQ(rows(page->table()), serious);
    // Dismissed with a reason; without one nothing happens.
    d->clickRow(page->table(), 0);
    const auto id = app::currentId<SpanId>(page->table());
    d->click("dismissExcursion");
    EXPECT_FALSE(d->study().tracks().span(id)->facts.contains("dismissed"));
    d->type("dismissWhy", "probe swapped");
    d->click("dismissExcursion");
    EXPECT_EQ(factText(d->study().tracks().span(id)->facts, "dismissed"), "probe swapped");
    EXPECT_EQ(rows(page->table()), serious - 1);
    d->click("excursionDismissed");
    EXPECT_EQ(rows(page->table()), serious);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(d->study().tracks().span(id)->facts.contains("dismissed"));
    EXPECT_TRUE(label("changeSays").contains("excursions a run before")) << label("changeSays").toStdString();
}

TEST_F(Screen, TheSavedListOfExcursionsHasTheFiguresOfTheStudy) {
    prepare();
    d->click("screenExcursions");
    auto* table = screen()->excursionsPage()->table();
    const QString path = QString::fromStdString(folder / "excursions.csv");
    chooseFile(path);
    takeFromMenu(table->viewport(), "tableMenu", "Save as CSV…");
    QFile file(path);
    ASSERT_TRUE(file.open(QIODevice::ReadOnly));
    const QStringList lines = QString::fromUtf8(file.readAll()).split('\n', Qt::SkipEmptyParts);
    const std::vector<KeptExcursion> kept = excursionsOf(d->study());
    ASSERT_EQ(lines.size(), static_cast<qsizetype>(kept.size()) + 1);
    std::map<std::string, double> peakAt;
    for (const KeptExcursion& e : kept)
        peakAt[d->study().catalog().tag(e.span.tag)->name + toIso(e.span.start)] = e.peak;
    for (const QString& line : lines.mid(1)) {
        const QStringList cells = line.split(',');
        const auto found = peakAt.find((cells[0] + cells[2]).toStdString());
        ASSERT_NE(found, peakAt.end()) << line.toStdString();
        EXPECT_EQ(cells[4].toDouble(), found->second) << line.toStdString();
    }
}

TEST_F(Screen, ScreeningGoesOnWhenTheListOfLimitsIsClosed) {
    prepare();
    const std::size_t before = excursionsOf(d->study()).size();
    d->study().change("none", "", {}, [&] {
        for (const KeptExcursion& e : excursionsOf(d->study())) d->study().tracks().removeSpan(e.span.id);
    });
    ASSERT_TRUE(excursionsOf(d->study()).empty());
    auto* dialog = new app::LimitsDialog(d->session(), &d->window());
    dialog->show();
    d->clickRow(dialog->findChild<QTableView*>(), 0);
    QTest::mouseClick(dialog->findChild<QPushButton*>("limitsScreen"), Qt::LeftButton);
    EXPECT_TRUE(d->session().busy());
    delete dialog;  // while it goes on
    d->settle();
    EXPECT_EQ(excursionsOf(d->study()).size(), before);
}

TEST_F(Screen, LimitsOfAProductAndASecondTrackOfRuns) {
    findRuns();
    chooseGolden();
    d->click("screenSheet");
    d->type("limitTags", "air_off_temp");
    d->click("limitMore");
    EXPECT_LE(d->window().height(), 800);  // with every setting open it still fits a small screen
    d->type("limitName", "pale");
    d->type("limitForRuns", "product is \"Pail");
    d->click("buildLimits");
    EXPECT_TRUE(d->study().judgement().limitSets().empty());  // the text does not end
    d->type("limitForRuns", "product is \"Pale\"");
    d->type("limitValidFrom", "10 Mar 2026 00:00");
    d->click("buildLimits");
    ASSERT_EQ(d->study().judgement().limitSets().size(), 1u) << d->statusText().toStdString();
    const LimitSet set = d->study().judgement().limitSets()[0];
    EXPECT_EQ(set.name, "pale");
    EXPECT_LT(set.goldenRuns.size(), d->study().judgement().goldenRuns(track()).size());
    for (const KeptExcursion& e : excursionsOf(d->study())) {
        const Span run = *d->study().tracks().span(e.run);
        EXPECT_EQ(factText(run.facts, "product"), "Pale");
        EXPECT_GE(run.start, instantOf("2026-03-09T23:00:00Z"));
    }
    // Limits and excursions came with one click, and go with one undo.
    const std::size_t flagged = excursionsOf(d->study()).size();
    EXPECT_GT(flagged, 0u);
    d->session().undo();
    d->settle();
    EXPECT_TRUE(d->study().judgement().limitSets().empty());
    EXPECT_TRUE(excursionsOf(d->study()).empty());
    d->session().redo();
    d->settle();
    EXPECT_EQ(d->study().judgement().limitSets().size(), 1u);
    EXPECT_EQ(excursionsOf(d->study()).size(), flagged);
    d->click("screenRuns");
    auto* tracks = d->find<QComboBox>("runsTrack");
    tracks->setCurrentText("Cures");
    d->type("runsWhere", "@kiln_step is \"Cure\"", true);
    ASSERT_TRUE(d->study().tracks().named("Cures"));
    EXPECT_GT(d->study().tracks().spans(d->study().tracks().named("Cures")->id).size(), 200u);
    EXPECT_EQ(d->study().tracks().spans(d->study().tracks().named("Runs")->id).size(), 263u);
}

TEST_F(Screen, OnlySoundDataIsAChoiceOnRecord) {
    QAction* sound = nullptr;
    for (QAction* a : d->window().findChildren<QAction*>())
        if (a->text() == "Only sound data") sound = a;
    ASSERT_TRUE(sound);
    EXPECT_FALSE(sound->isChecked());
    sound->trigger();
    d->settle();
    EXPECT_EQ(d->study().setting(kSoundDataOnly), "yes");
    EXPECT_TRUE(sound->isChecked());
    EXPECT_EQ(d->study().history().ledger().back().what, "only sound data");
    sound->trigger();
    d->settle();
    EXPECT_EQ(d->study().setting(kSoundDataOnly), "no");
    EXPECT_FALSE(sound->isChecked());
}

TEST_F(Screen, ARuleShowsWhereItIsTrueAndItsValueWhileItIsWritten) {
    d->clickAsset("Kiln 3");
    d->bench(app::BenchId::Prove);
    auto* preview = d->find<app::ExpressionPreview>("expressionPreview");
    QTest::keyClicks(d->window().prove()->editor(), "@kiln_step is \"Cure\"");
    QTest::qWait(400);
    d->settle();
    const std::size_t cures = preview->trueRanges().size();
    EXPECT_GT(cures, 0u);
    EXPECT_TRUE(preview->words().startsWith("Kiln 3: ")) << preview->words().toStdString();
    EXPECT_TRUE(preview->words().contains("% of the time in view"));
    // A click on the ribbon puts the cursor there, and the value is that of the cursor.
    d->clickAt(preview, {preview->width() / 2, 8});
    ASSERT_TRUE(d->view().cursor(0));
    // Another view, another ribbon; a text that does not compile shows none.
    d->view().setView(
        {preview->trueRanges().front().from + kMinute, preview->trueRanges().front().to - kMinute});
    d->settle();
    ASSERT_EQ(preview->trueRanges().size(), 1u);
    EXPECT_TRUE(preview->words().contains("true 100.0 %")) << preview->words().toStdString();
    QTest::keyClicks(d->window().prove()->editor(), " and");
    QTest::qWait(400);
    d->settle();
    EXPECT_EQ(preview->words(), "");
}

}  // namespace
}  // namespace jacinth::test
