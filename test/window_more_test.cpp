// More of the window: wrong input, keys of the run sheet, dropping files, an empty study, a second window.
#include <QApplication>
#include <QDialog>
#include <QDropEvent>
#include <QMenu>
#include <QMimeData>
#include <QPainter>

#include "app/base/tables.h"
#include "app/plot/pane_layout.h"
#include "core/time/times_for_tests.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/window_driver.h"
#include "work/limits/screening.h"
#include "work/runs/find_runs.h"

namespace jacinth::test {
namespace {

class OnDemo : public ::testing::Test {
  protected:
    OnDemo() : folder("window-more") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    }
    void writeRule() {
        d->bench(app::BenchId::Prove);
        QTest::keyClicks(d->window().prove()->editor(), "mean(@bearing_vibration over 2h) > 2.75 for 20m");
        QTest::qWait(400);
        d->settle();
    }
    void findRunsByKeys() {
        d->bench(app::BenchId::Screen);
        d->type("runsWhere", "@kiln_step is not \"Idle\"");
        d->click("findRuns");
        d->click("screenSheet");
    }
    app::TimePlot* plot() { return d->window().survey()->plot(); }
    RampFix ramp() { return std::get<RampFix>(d->window().mend()->draft().body); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(OnDemo, AWrongRunExpressionSaysWhereAndChangesNothing) {
    d->bench(app::BenchId::Screen);
    d->type("runsWhere", "@kiln_stpe is not \"Idle\"");
    d->click("findRuns");
    EXPECT_TRUE(d->statusText().contains("nearest is `kiln_step`")) << d->statusText().toStdString();
    EXPECT_TRUE(d->study().tracks().spansOf(track_kind::kRuns).empty());
    d->type("runsWhere", "@fan_current + 1", true);
    EXPECT_TRUE(d->statusText().contains("a condition"));
    d->type("runsWhere", "@kiln_step is not \"Idle\"", true);
    EXPECT_EQ(d->study().tracks().spansOf(track_kind::kRuns).size(), 263u);
    EXPECT_TRUE(d->statusText().contains("263 runs found"));
}

TEST_F(OnDemo, TagsOfOneAssetHaveColoursOfTheirOwn) {
    std::vector<TagId> all;
    for (const Tag& t : d->study().catalog().tags())
        if (t.asset == d->view().asset() && t.kind != TagKind::State) all.push_back(t.id);
    ASSERT_GT(all.size(), 8u);
    d->view().setShown(all);
    d->settle();
    std::vector<QColor> seen;
    for (const TagId id : all) {
        const QColor colour = d->session().tagColour(id);
        EXPECT_EQ(std::count(seen.begin(), seen.end(), colour), 0) << d->session().tag(id)->path();
        seen.push_back(colour);
    }
}

TEST_F(OnDemo, WhatMendingChangedShowsNothingAsNothing) {
    d->clickTag("Kiln 3/Air-off RH");
    d->bench(app::BenchId::Mend);
    auto* mend = d->window().mend()->plot();
    int zero = -1;
    for (int i = 0; i < mend->paneCount(); ++i)
        if (mend->paneSpec(i).zeroLine) zero = i;
    ASSERT_GE(zero, 0);
    EXPECT_LT(mend->valueAt(zero, mend->paneRect(zero).bottom()), -0.9);
    EXPECT_GT(mend->valueAt(zero, mend->paneRect(zero).top()), 0.9);
    EXPECT_LT(mend->valueAt(zero, mend->paneRect(zero).top()), 2);
}

TEST_F(OnDemo, ASavedLayoutThatWasSpoiledIsUsedAsFarAsItIsOne) {
    d->session().tryChange([&] {
        d->study().setSetting("layouts", R"({"odd":[7,{"folded":"yes","roles":"x"},
            {"roles":["air_on_temp",3,null]}],"none":{"a":1}})");
    });
    app::useLayout(d->session(), "odd");
    d->settle();
    EXPECT_EQ(d->view().shown(),
              std::vector<TagId>{d->study().catalog().tagInRole(d->view().asset(), "air_on_temp")->id});
    app::useLayout(d->session(), "none");
    app::useLayout(d->session(), "absent");
    EXPECT_EQ(app::savedLayouts(d->session()), (QStringList{"none", "odd"}));
    EXPECT_EQ(d->view().shown().size(), 1u);
}

TEST_F(OnDemo, NothingSaidAboutRunsFindsNone) {
    d->bench(app::BenchId::Screen);
    d->click("findRuns");
    EXPECT_TRUE(d->statusText().contains("Say when a run lasts"));
    EXPECT_TRUE(d->study().tracks().spansOf(track_kind::kRuns).empty());
}

TEST_F(OnDemo, TheRunSheetGoesByKeysAndGMakesGolden) {
    findRunsByKeys();
    d->clickAsset("Kiln 2");
    app::RunSheet* sheet = d->window().screen()->sheet();
    ASSERT_GT(sheet->runs().size(), 30u);
    d->clickAt(sheet, sheet->cellCentre(sheet->runs()[4].id, 0));
    EXPECT_EQ(d->view().run(), sheet->runs()[4].id);
    d->key(sheet, Qt::Key_Right);
    EXPECT_EQ(d->view().run(), sheet->runs()[5].id);
    const auto track = d->study().tracks().firstOf(track_kind::kRuns)->id;
    d->key(sheet, Qt::Key_G);
    EXPECT_EQ(d->study().judgement().goldenRuns(track), std::vector{sheet->runs()[5].id});
    EXPECT_EQ(d->study().judgement().goldenWhy(track, sheet->runs()[5].id), "chosen by hand");
    d->key(sheet, Qt::Key_G);
    EXPECT_TRUE(d->study().judgement().goldenRuns(track).empty());
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d->study().judgement().goldenRuns(track).size(), 1u);
    ASSERT_TRUE(d->window().screen()->overlay()->picture().golden);
    EXPECT_EQ(d->window().screen()->overlay()->picture().golden->size(), 1u);
    // Enter goes to the run in Survey.
    d->key(sheet, Qt::Key_Return);
    EXPECT_EQ(d->view().bench(), app::BenchId::Survey);
    EXPECT_LE(d->view().view().from, sheet->runs()[5].start);
}

TEST_F(OnDemo, ARunIsMadeGoldenFromItsTrace) {
    findRunsByKeys();
    d->bench(app::BenchId::Survey);
    const auto track = d->study().tracks().firstOf(track_kind::kRuns)->id;
    const auto runs = d->study().tracks().spans(track);
    const auto run =
        std::find_if(runs.begin(), runs.end(), [&](const Span& s) { return s.asset == d->view().asset(); });
    ASSERT_NE(run, runs.end());
    d->view().setView({run->start - 6 * kHour, run->end + 6 * kHour});
    d->settle();
    app::TimePlot* plot = d->window().survey()->plot();
    const auto choose = [&](const QString& words) {
        bool chosen = false;
        QTimer::singleShot(300, [&] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            ASSERT_NE(menu, nullptr);
            for (QAction* a : menu->actions())
                if (a->text() == words) {
                    chosen = true;
                    a->trigger();
                }
            menu->close();
        });
        const QPoint at(static_cast<int>(plot->xOf(run->start + (run->end - run->start) / 2)),
                        plot->paneRect(0).center().y());
        QContextMenuEvent asked(QContextMenuEvent::Mouse, at, plot->mapToGlobal(at));
        QApplication::sendEvent(plot, &asked);
        d->settle();
        EXPECT_TRUE(chosen) << words.toStdString();
    };
    const QString name = "Run " + QString::fromStdString(factText(run->facts, "number"));
    choose(name + " is golden");
    EXPECT_EQ(d->study().judgement().goldenRuns(track), std::vector{run->id});
    EXPECT_EQ(d->study().judgement().goldenWhy(track, run->id), "chosen by hand");
    choose(name + " is no longer golden");
    EXPECT_TRUE(d->study().judgement().goldenRuns(track).empty());
}

TEST_F(OnDemo, WrongFieldsAreMarkedAndNothingIsBuilt) {
    findRunsByKeys();
    app::RunSheet* sheet = d->window().screen()->sheet();
    for (int i = 2; i < 6; ++i)
        d->clickAt(sheet,
                   sheet->cellCentre(sheet->runs()[static_cast<std::size_t>(i)].id, sheet->rowCount()));
    d->click("limitMore");
    d->type("limitEvery", "often");
    d->click("buildLimits");
    EXPECT_TRUE(d->study().judgement().limitSets().empty());
    EXPECT_TRUE(d->find<QLineEdit>("limitEvery")->property("wrong").toBool());
    d->type("limitEvery", "5m");
    d->type("limitTags", "air_off_tmp");
    d->click("buildLimits");
    EXPECT_TRUE(d->statusText().contains("nearest is `air_off_temp`")) << d->statusText().toStdString();
    EXPECT_TRUE(d->study().judgement().limitSets().empty());
    d->type("limitTags", "air_off_temp");
    d->click("buildLimits");
    ASSERT_EQ(d->study().judgement().limitSets().size(), 1u);
    EXPECT_EQ(d->study().judgement().limitSets()[0].byRole.begin()->second.spec.every, 5 * kMinute);
    // They came with one click and go with one undo.
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(excursionsOf(d->study()).empty());
    EXPECT_TRUE(d->study().judgement().limitSets().empty());
}

TEST_F(OnDemo, AWrongFixIsNotEntered) {
    d->clickTag("Kiln 2/Bed ΔP");
    d->bench(app::BenchId::Mend);
    d->type("timeField", "10 Mar to 14 Mar", true);
    d->type("fixFrom", "12 Mar 2026 06:00");
    d->type("fixTo", "11 Mar 2026 06:00");
    EXPECT_TRUE(d->find<QLineEdit>("fixTo")->property("wrong").toBool());
    d->type("fixTo", "13 Mar 2026 06:00");
    EXPECT_FALSE(d->find<QLineEdit>("fixTo")->property("wrong").toBool());
    d->type("fixWhy", "why not");
    d->click("enterFix");
    EXPECT_TRUE(d->statusText().contains("changes nothing"));
    d->click("kindShift");
    d->type("fixBy", "-12,5");
    d->click("enterFix");
    ASSERT_EQ(d->study().judgement().allFixes().size(), 1u) << d->statusText().toStdString();
    EXPECT_EQ(d->study().judgement().allFixes()[0].body, FixBody(ShiftFix{-12.5}));
    d->clickRow(d->window().mend()->ledger(), 0);
    d->click("removeFix");
    EXPECT_TRUE(d->study().judgement().allFixes().empty());
}

TEST_F(OnDemo, EndReadsWorksTheAmountOut) {
    d->clickTag("Kiln 3/Air-off RH");
    d->bench(app::BenchId::Mend);
    d->type("timeField", "10 Mar to 14 Mar", true);
    d->click("kindRamp");
    d->type("fixFrom", "11 Mar 2026 06:00");
    d->type("fixTo", "13 Mar 2026 06:00");
    const double now = d->study().valueAt(*d->study().catalog().tagAt("Kiln 3/Air-off RH"),
                                          d->window().mend()->draft().to, Which::Mended);
    d->type("fixEndReads", QString::number(now + 3, 'f', 2));
    EXPECT_NEAR(ramp().endBy, 3, 0.01);
}

TEST_F(OnDemo, TagsAskedForAreLinedUpBesideTheRules) {
    writeRule();
    auto* plot = d->window().findChild<app::LeadUpPlot*>("leadUpPlot");
    const int before = plot->linesDrawn();
    EXPECT_EQ(before, 7);
    d->type("leadUpTags", "fan_current, @bearing_temp");
    EXPECT_EQ(plot->linesDrawn(), 21);
    d->type("leadUpTags", "fan_curent");
    EXPECT_TRUE(d->find<QLineEdit>("leadUpTags")->property("wrong").toBool());
    EXPECT_EQ(plot->linesDrawn(), before);
}

TEST_F(OnDemo, AnAlarmIsOpenedInSurvey) {
    writeRule();
    d->click("proveButton");
    QTableView* alarms = d->window().prove()->alarms();
    ASSERT_GT(alarms->model()->rowCount(), 0);
    const AlarmVerdict a = d->window().prove()->proof()->alarms[0];
    d->doubleClickAt(alarms->viewport(), alarms->visualRect(alarms->model()->index(0, 1)).center());
    EXPECT_EQ(d->view().bench(), app::BenchId::Survey);
    EXPECT_EQ(d->view().asset(), a.asset);
    EXPECT_LE(d->view().view().from, a.range.from);
    EXPECT_EQ(d->view().cursor(0), a.range.from);
    const auto& shown = d->view().shown();
    EXPECT_EQ(
        std::count_if(shown.begin(), shown.end(),
                      [&](TagId id) { return d->study().catalog().tag(id)->role == "bearing_vibration"; }),
        1);
}

TEST_F(OnDemo, MostShorterThanLeastIsMarked) {
    writeRule();
    d->type("proveLeast", "60h");
    d->click("proveButton");
    EXPECT_TRUE(d->find<QLineEdit>("proveLeast")->property("wrong").toBool());
    EXPECT_EQ(d->window().prove()->state().rule().spec.least, 12 * kHour) << "it stays as it was";
}

TEST_F(OnDemo, ADroppedFileIsPreviewed) {
    std::ofstream(folder / "dropped.csv") << "time,Kiln 9/Level [m]\n2026-04-01T00:00:00Z,1\n";
    QMimeData mime;
    mime.setUrls({QUrl::fromLocalFile(QString::fromStdString(folder / "dropped.csv"))});
    QDragEnterEvent enter({600, 400}, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&d->window(), &enter);
    EXPECT_TRUE(enter.isAccepted());
    bool seen = false;
    QTimer::singleShot(400, [&] {
        auto* dialog = d->window().findChild<QDialog*>("importDialog");
        ASSERT_NE(dialog, nullptr);
        seen = true;
        QTest::mouseClick(dialog->findChild<QPushButton*>("importStart"), Qt::LeftButton);
    });
    QDropEvent drop(QPointF(600, 400), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&d->window(), &drop);
    QTest::qWait(900);
    d->settle();
    EXPECT_TRUE(seen);
    EXPECT_TRUE(d->study().catalog().tagAt("Kiln 9/Level"));
}

TEST_F(OnDemo, ATableOfEventsIsImportedAndUndone) {
    std::ofstream(folder / "failures.csv")
        << "asset,time,kind,note\nKiln 3,2026-04-01T10:00:00Z,fan bearing,again\nKlin 3,2026-04-02,x,\n";
    QTimer::singleShot(300, [&] {
        auto* dialog = d->window().findChild<QDialog*>("importDialog");
        ASSERT_NE(dialog, nullptr);
        // Known by its name for what it is.
        EXPECT_EQ(dialog->findChild<QComboBox*>("importKind")->currentText(), "failures");
        QTest::mouseClick(dialog->findChild<QPushButton*>("importStart"), Qt::LeftButton);
    });
    d->window().importFiles({QString::fromStdString(folder / "failures.csv")});
    d->settle();
    EXPECT_EQ(d->study().tracks().spansOf(track_kind::kFailures).size(), 8u);
    EXPECT_TRUE(
        d->statusText().contains("kept aside: 1 rows, 0 cells (first: line 3, there is no asset `Klin 3`"))
        << d->statusText().toStdString();
    d->window().activateWindow();  // without a window manager nobody does that when a dialog closes
    d->settle();
    EXPECT_TRUE(d->window().undoAction()->text().contains("import failures"))
        << d->window().undoAction()->text().toStdString();
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d->study().tracks().spansOf(track_kind::kFailures).size(), 7u) << d->statusText().toStdString();
}

TEST_F(OnDemo, PanelsFoldAway) {
    const int before = plot()->width();
    d->key(&d->window(), Qt::Key_F9);
    EXPECT_FALSE(d->window().plant()->isVisible());
    EXPECT_GT(plot()->width(), before + 150);
    d->key(&d->window(), Qt::Key_F10);
    EXPECT_GT(plot()->width(), before + 400);
    d->key(&d->window(), Qt::Key_F9);
    d->key(&d->window(), Qt::Key_F10);
    EXPECT_EQ(plot()->width(), before);
}

TEST_F(OnDemo, WhatIsOpenInASecondWindowSurvivesTheFirst) {
    WindowDriver other(folder / "s.jacinth");
    Fix f;
    f.tag = d->tagId("Kiln 1/Air-off RH");
    f.from = at(0), f.to = at(10), f.body = ShiftFix{1}, f.why = "a";
    d->session().tryChange(
        [&] { d->study().change("shift", "a", {}, [&] { d->study().judgement().addFix(f); }); });
    other.session().tryChange(
        [&] { other.study().change("shift", "b", {}, [&] { other.study().judgement().addFix(f); }); });
    EXPECT_EQ(other.study().judgement().allFixes().size(), 2u);
    other.close();
    EXPECT_EQ(d->study().judgement().allFixes().size(), 2u);
    EXPECT_EQ(d->study().history().ledger().back().why, "b");
    EXPECT_TRUE(d->study().check().empty());
}

TEST_F(OnDemo, MendKeepsEveryDigitAndASidewaysPullKeepsTheAmount) {
    d->clickTag("Kiln 1/Air-off RH");
    d->bench(app::BenchId::Mend);
    d->click("kindRamp");
    d->type("fixStartBy", "0.004");
    EXPECT_EQ(ramp().startBy, 0.004);
    d->type("fixEndBy", "-1.23456789");
    EXPECT_EQ(ramp().endBy, -1.23456789);
    EXPECT_EQ(d->find<QLineEdit>("fixStartBy")->text(), "0.004");
    EXPECT_EQ(d->find<QLineEdit>("fixEndBy")->text(), "-1.23456789");
    app::TimePlot* plot = d->window().mend()->plot();
    const Fix before = d->window().mend()->draft();
    const double endBefore = ramp().endBy;
    const int x = static_cast<int>(plot->xOf(before.to)), y = plot->paneRect(0).center().y();
    d->drag(plot, {x, y}, {x - 120, y + 3});
    EXPECT_LT(d->window().mend()->draft().to, before.to);
    EXPECT_EQ(ramp().endBy, endBefore);
    const int there = static_cast<int>(plot->xOf(d->window().mend()->draft().to));
    d->drag(plot, {there, y}, {there, y - 60});
    EXPECT_GT(ramp().endBy, endBefore);
    EXPECT_EQ(ramp().startBy, 0.004);
    d->type("fixWhy", "tiny");
    d->click("enterFix");
    const auto fixes = d->study().judgement().fixes(d->tagId("Kiln 1/Air-off RH"));
    ASSERT_EQ(fixes.size(), 1u);
    EXPECT_EQ(std::get<RampFix>(fixes[0].body).startBy, 0.004);
}

TEST_F(OnDemo, GoToARunOrAFailureTurnsToItsAsset) {
    const auto go = [&](const QString& text) {
        d->window().showGoTo(text);
        auto* field = d->window().findChild<QLineEdit*>("goToField");
        QTest::keyClick(field, Qt::Key_Return);
        d->settle();
    };
    const auto failures = d->study().tracks().spansOf(track_kind::kFailures);
    ASSERT_FALSE(failures.empty());
    const Span& last = failures.back();
    const QString asset = QString::fromStdString(d->study().catalog().asset(last.asset)->name);
    d->clickAsset(asset == "Kiln 1" ? "Kiln 2" : "Kiln 1");
    go(asset + " failed");
    EXPECT_EQ(d->view().asset(), last.asset);
    EXPECT_TRUE(d->view().view().contains(last.start) ||
                std::any_of(failures.begin(), failures.end(), [&](const Span& f) {
                    return f.asset == last.asset && d->view().view().contains(f.start);
                }));
    go("screen pages excursions");
    EXPECT_EQ(d->view().bench(), app::BenchId::Screen);
    EXPECT_EQ(d->window().screen()->pageShown(), static_cast<int>(app::ScreenWay::Excursions));
    go("dark");
    EXPECT_TRUE(d->session().theme().dark);
    go("theme light");
    EXPECT_FALSE(d->session().theme().dark);
}

TEST_F(OnDemo, CursorsAreDragged) {
    app::TimePlot* plot = d->window().survey()->plot();
    d->bench(app::BenchId::Survey);
    const QPoint at = plot->paneRect(0).center();
    d->view().setCursor(0, plot->timeAt(at.x()));
    d->view().setCursor(1, plot->timeAt(at.x() + 150));
    d->settle();
    const TimeRange view = d->view().view();
    d->drag(plot, at, at - QPoint(90, 0));
    EXPECT_NEAR(plot->xOf(*d->view().cursor(0)), at.x() - 90, 2);
    EXPECT_NEAR(plot->xOf(*d->view().cursor(1)), at.x() + 150, 2);
    EXPECT_EQ(d->view().view(), view);  // the view stays: a cursor was moved, not the record
}

TEST(EmptyStudy, ClosedItLeavesThePanelsOfTheNextStudyWhereTheyWere) {
    Folder folder("empty-panels");
    { ASSERT_TRUE(Study::create(folder / "new.jacinth")); }
    copyDemo(folder / "s.jacinth");
    { WindowDriver(folder / "new.jacinth").close(); }
    WindowDriver d(folder / "s.jacinth");
    EXPECT_TRUE(d.window().plant()->isVisible());
    EXPECT_TRUE(d.find("inspector")->isVisible());
    d.key(&d.window(), Qt::Key_F10);
    EXPECT_FALSE(d.find("inspector")->isVisible());
    d.close();
    WindowDriver again(folder / "s.jacinth");
    EXPECT_FALSE(again.find("inspector")->isVisible());  // what the user hid stays hidden
    again.key(&again.window(), Qt::Key_F10);
    again.close();
}

TEST(EmptyStudy, SaysWhatBelongsThere) {
    Folder folder("empty");
    { ASSERT_TRUE(Study::create(folder / "new.jacinth")); }
    WindowDriver d(folder / "new.jacinth");
    for (int b = 0; b < app::kBenches; ++b) {
        d.bench(static_cast<app::BenchId>(b));
        EXPECT_FALSE(d.window().grab().isNull());
    }
    d.bench(app::BenchId::Survey);
    EXPECT_EQ(d.window().survey()->plot()->paneCount(), 0);
    d.key(d.window().survey()->plot(), Qt::Key_C);
    d.wheel(d.window().survey()->plot(), {200, 100}, 2);
    d.bench(app::BenchId::Prove);
    EXPECT_FALSE(d.find("proveButton")->isEnabled());
    d.key(&d.window(), Qt::Key_Z, Qt::ControlModifier);  // nothing to undo: nothing happens
    EXPECT_TRUE(d.study().history().ledger().empty());
}

}  // namespace
}  // namespace jacinth::test
