// The window piece by piece: keys and mouse in, what the user sees and what the study then holds.
#include <QApplication>
#include <QDialog>
#include <QListWidget>
#include <QTableWidget>

#include "app/base/tables.h"
#include "store/history.h"
#include "store/imports.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "test/window_driver.h"

namespace jacinth::test {
namespace {

class Window : public ::testing::Test {
  protected:
    Window() : folder("window-piece") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    }
    app::TimePlot* plot() { return d->window().survey()->plot(); }
    QPoint middle() { return plot()->paneRect(0).center(); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(Window, WheelZoomsAtThePointerAndDragMoves) {
    const TimeRange before = d->view().view();
    const QPoint at = middle() + QPoint(100, 0);
    const Instant under = plot()->timeAt(at.x());
    d->wheel(plot(), at, 2);
    const TimeRange zoomed = d->view().view();
    EXPECT_NEAR(toNanoseconds(zoomed.length()) / toNanoseconds(before.length()), 0.64, 0.001);
    EXPECT_NEAR(plot()->xOf(under), at.x(), 1.0);
    d->drag(plot(), at, at - QPoint(120, 0));
    EXPECT_NEAR(plot()->xOf(under), at.x() - 120, 1.5);
    EXPECT_EQ(d->view().view().length(), zoomed.length());
}

TEST_F(Window, ControlWheelZoomsValuesAndDoubleClickFits) {
    const QPoint at = middle();
    const double before = plot()->valueAt(0, 0) - plot()->valueAt(0, 100);
    d->wheel(plot(), at, 3, Qt::ControlModifier);
    EXPECT_LT(plot()->valueAt(0, 0) - plot()->valueAt(0, 100), before * 0.6);
    d->doubleClickAt(plot(), at);
    EXPECT_NEAR(plot()->valueAt(0, 0) - plot()->valueAt(0, 100), before, before * 0.01);
}

TEST_F(Window, ShiftDragZoomsToTheBox) {
    const QPoint a = middle() - QPoint(80, 20), b = middle() + QPoint(60, 20);
    const Instant from = plot()->timeAt(a.x()), to = plot()->timeAt(b.x());
    d->drag(plot(), a, b, Qt::ShiftModifier);
    EXPECT_NEAR(toSeconds(d->view().view().from - from), 0, 2);
    EXPECT_NEAR(toSeconds(d->view().view().to - to), 0, 2);
}

TEST_F(Window, KeysStepZoomAndGoToTheEnds) {
    plot()->setFocus();
    const TimeRange before = d->view().view();
    d->key(plot(), Qt::Key_BracketRight);
    EXPECT_EQ(d->view().view().from, before.to);
    d->key(plot(), Qt::Key_BracketLeft);
    EXPECT_EQ(d->view().view(), before);
    d->key(plot(), Qt::Key_Plus);
    EXPECT_LT(d->view().view().length(), before.length());
    d->key(plot(), Qt::Key_Home);
    EXPECT_EQ(d->view().view().from, d->view().record().from);
    d->key(plot(), Qt::Key_End);
    EXPECT_EQ(d->view().view().to, d->view().record().to);
}

TEST_F(Window, TypedTimesAndTheWayBack) {
    const TimeRange before = d->view().view();
    d->type("timeField", "4 Apr 06:00 +2d", true);
    EXPECT_EQ(toIso(d->view().view().from), "2026-04-04T04:00:00Z");
    EXPECT_EQ(d->view().view().length(), 2 * kDay);
    QTest::qWait(600);
    d->type("timeField", "last 3 weeks", true);
    EXPECT_EQ(d->view().view().to, d->view().record().to);
    d->type("timeField", "some day", true);
    EXPECT_NE(d->statusText().indexOf("is not a time"), -1);
    EXPECT_EQ(d->view().view().to, d->view().record().to);
    d->key(&d->window(), Qt::Key_Left, Qt::AltModifier);
    EXPECT_EQ(toIso(d->view().view().from), "2026-04-04T04:00:00Z");
    d->key(&d->window(), Qt::Key_Right, Qt::AltModifier);
    EXPECT_EQ(d->view().view().to, d->view().record().to);
    EXPECT_NE(d->view().view(), before);
}

TEST_F(Window, CursorsShowValuesAndTheirDifference) {
    plot()->setFocus();
    QTest::mouseMove(plot(), middle() - QPoint(100, 0));
    d->key(plot(), Qt::Key_C);
    QTest::mouseMove(plot(), middle() + QPoint(100, 0));
    d->key(plot(), Qt::Key_C, Qt::ShiftModifier);
    ASSERT_TRUE(d->view().cursor(0) && d->view().cursor(1));
    EXPECT_NEAR(plot()->xOf(*d->view().cursor(1)) - plot()->xOf(*d->view().cursor(0)), 200, 2);
    auto* table = d->find<QTableView>("cursorTable");
    ASSERT_GT(table->model()->rowCount(), 0);
    const auto* model = qobject_cast<app::RowsModel*>(table->model());
    const Tag tag = *d->study().catalog().tag(TagId(model->rows()[0].key.number));
    const double v = d->study().valueAt(tag, *d->view().cursor(0), Which::Mended);
    EXPECT_NEAR(QString(model->rows()[0].cells[1]).replace("−", "-").toDouble(), v, std::abs(v) * 0.01 + 0.1);
    EXPECT_TRUE(d->find<QLabel>("stretchFigures")->text().contains("mean"));
}

TEST_F(Window, SpaceShowsAndHidesATag) {
    d->clickTag("Kiln 3/Bearing vib.");
    const auto before = d->view().shown();
    QTreeWidget* tree = d->window().plant()->tree();
    d->key(tree, Qt::Key_Space);
    const auto id = d->tagId("Kiln 3/Bearing vib.");
    const auto has = [&] { return std::count(d->view().shown().begin(), d->view().shown().end(), id) == 1; };
    const bool now = has();
    EXPECT_NE(before, d->view().shown());
    d->key(tree, Qt::Key_Space);
    EXPECT_NE(has(), now);
}

TEST_F(Window, AnotherAssetShowsTheSameRoles) {
    d->clickAsset("Kiln 2");
    const auto shown = d->view().shown();
    ASSERT_FALSE(shown.empty());
    std::vector<std::string> roles;
    for (const auto id : shown) roles.push_back(d->study().catalog().tag(id)->role);
    d->clickAsset("Kiln 5");
    ASSERT_EQ(d->view().shown().size(), shown.size());
    for (std::size_t i = 0; i < shown.size(); ++i) {
        EXPECT_EQ(d->study().catalog().tag(d->view().shown()[i])->role, roles[i]);
        EXPECT_EQ(d->study().catalog().tag(d->view().shown()[i])->assetName, "Kiln 5");
    }
}

TEST_F(Window, FilterHidesWhatDoesNotFit) {
    d->type("tagFilter", "kiln 4/bear");
    QTreeWidget* tree = d->window().plant()->tree();
    int seen = 0;
    for (int i = 0; i < tree->topLevelItemCount(); ++i)
        for (int k = 0; k < tree->topLevelItem(i)->childCount(); ++k)
            seen += !tree->topLevelItem(i)->child(k)->isHidden();
    EXPECT_EQ(seen, 2);
}

TEST_F(Window, TheFilterFoldsBackWhatItUnfolded) {
    QTreeWidget* tree = d->window().plant()->tree();
    const auto unfolded = [&] {
        QStringList out;
        for (int i = 0; i < tree->topLevelItemCount(); ++i)
            if (tree->topLevelItem(i)->isExpanded()) out << tree->topLevelItem(i)->text(0);
        return out;
    };
    d->clickAsset("Kiln 1");
    ASSERT_EQ(unfolded(), QStringList{"Kiln 1"});
    d->type("tagFilter", "bear");
    EXPECT_GE(unfolded().size(), 6);
    d->type("tagFilter", "kiln 4/bear");
    d->type("tagFilter", "");
    EXPECT_EQ(unfolded(), QStringList{"Kiln 1"});
    // The asset chosen meanwhile stays open too.
    d->type("tagFilter", "kiln 4/bear");
    d->clickAsset("Kiln 4");
    d->type("tagFilter", "");
    EXPECT_EQ(unfolded(), (QStringList{"Kiln 1", "Kiln 4"}));
}

TEST_F(Window, AWrittenLineGoesToItsMoment) {
    d->type("timeField", "all", true);
    QTest::qWait(200);
    QTableView* table = d->window().survey()->written();
    const auto* model = qobject_cast<app::RowsModel*>(table->model());
    int failure = -1;
    for (int i = 0; i < model->rowCount(); ++i)
        if (model->rows()[static_cast<std::size_t>(i)].cells[0].contains("Failure")) failure = i;
    ASSERT_GE(failure, 0);
    const Span span =
        *d->study().tracks().span(SpanId(model->rows()[static_cast<std::size_t>(failure)].key.number));
    d->clickRow(table, failure);
    EXPECT_EQ(d->view().asset(), span.asset);
    EXPECT_TRUE(d->view().view().contains(span.start));
    EXPECT_LT(d->view().view().length(), 2 * kDay);
    for (const auto id : d->view().shown()) EXPECT_EQ(d->study().catalog().tag(id)->asset, span.asset);
}

TEST_F(Window, GoToFindsTagsAndTimes) {
    d->key(&d->window(), Qt::Key_K, Qt::ControlModifier);
    auto* field = d->window().findChild<QLineEdit*>("goToField");
    ASSERT_NE(field, nullptr);
    QTest::keyClicks(field, "kiln 5 moist");
    auto* list = d->window().findChild<QListWidget*>("goToList");
    ASSERT_EQ(list->count(), 1);
    QTest::keyClick(field, Qt::Key_Return);
    d->settle();
    EXPECT_EQ(d->view().tag(), d->tagId("Kiln 5/Malt moisture"));
    d->key(&d->window(), Qt::Key_K, Qt::ControlModifier);
    field = d->window().findChild<QLineEdit*>("goToField");
    QTest::keyClicks(field, "7 Apr 12:00 +6h");
    QTest::keyClick(field, Qt::Key_Return);
    d->settle();
    EXPECT_EQ(toIso(d->view().view().from), "2026-04-07T10:00:00Z");
}

TEST_F(Window, TheRecordStripsBracketMovesTheView) {
    app::RecordStrip* strip = d->window().strip();
    const TimeRange before = d->view().view();
    const QPoint inside(static_cast<int>(strip->xOf(before.from + before.length() / 2)), 30);
    d->drag(strip, inside, inside + QPoint(150, 0));
    EXPECT_EQ(d->view().view().length(), before.length());
    EXPECT_NEAR(strip->xOf(d->view().view().from) - strip->xOf(before.from), 150, 2);
    d->clickAt(strip, {200, 30});
    EXPECT_TRUE(d->view().view().contains(strip->timeAt(200)));
    const QPoint right(static_cast<int>(strip->xOf(d->view().view().to)), 30);
    const Instant from = d->view().view().from;
    d->drag(strip, right, right + QPoint(60, 0));
    EXPECT_NEAR(toSeconds(d->view().view().from - from), 0, 1);
}

TEST_F(Window, DoubleClickOnAFailureOpensProve) {
    app::RecordStrip* strip = d->window().strip();
    const Span failure = d->study().tracks().spansOf(track_kind::kFailures).at(4);
    d->doubleClickAt(strip, {static_cast<int>(strip->xOf(failure.start)), strip->rowY(3) + 4});
    EXPECT_EQ(d->view().bench(), app::BenchId::Prove);
    EXPECT_EQ(app::currentId<SpanId>(d->window().prove()->failures()), failure.id);
}

TEST_F(Window, AFixByDraggingItsHandlesThenUndo) {
    d->clickTag("Kiln 1/Air-off RH");
    d->bench(app::BenchId::Mend);
    app::MendBench* mend = d->window().mend();
    d->type("timeField", "10 Mar to 14 Mar", true);
    d->click("kindRamp");
    d->type("fixFrom", "11 Mar 2026 06:00");
    d->type("fixTo", "13 Mar 2026 06:00");
    // Down by the end's grip: the end changes by less than nothing; the start stays.
    app::TimePlot* p = mend->plot();
    const double reads =
        d->study().valueAt(*d->study().catalog().tagAt("Kiln 1/Air-off RH"), mend->draft().to, Which::Mended);
    const QPoint grip(static_cast<int>(p->xOf(mend->draft().to)), static_cast<int>(p->yOf(0, reads)));
    d->drag(p, grip, {grip.x(), static_cast<int>(p->yOf(0, reads - 8))});
    EXPECT_NEAR(std::get<RampFix>(mend->draft().body).endBy, -8, 1.2);
    EXPECT_EQ(std::get<RampFix>(mend->draft().body).startBy, 0);
    // Entered only with a reason.
    d->click("enterFix");
    EXPECT_TRUE(d->study().judgement().allFixes().empty());
    EXPECT_TRUE(d->statusText().contains("Say why"));
    d->type("fixWhy", "drift");
    d->click("enterFix");
    ASSERT_EQ(d->study().judgement().allFixes().size(), 1u);
    EXPECT_EQ(d->study().judgement().allFixes()[0].who, "M. L.");
    EXPECT_EQ(d->window().undoAction()->text(), "&Undo ramp on Kiln 1 Air-off RH");
    // Off by its tick, on again by undo, gone by undo.
    QTableView* ledger = mend->ledger();
    d->clickAt(ledger->viewport(), ledger->visualRect(ledger->model()->index(0, 0)).center() - QPoint(8, 0));
    EXPECT_FALSE(d->study().judgement().allFixes()[0].on);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(d->study().judgement().allFixes()[0].on);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(d->study().judgement().allFixes().empty());
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(d->study().judgement().allFixes().size(), 1u);
    EXPECT_EQ(d->study().history().ledger().back().what, "redo: ramp on Kiln 1 Air-off RH");
}

TEST_F(Window, FitToReadingsSaysTheMisfitBeforeAndAfter) {
    d->clickTag("Kiln 1/Air-off RH");
    d->bench(app::BenchId::Mend);
    const auto drift = demoTruth()["drifts"][0];
    const Zone zone = d->study().zone();
    d->type("timeField",
            QString::fromStdString(zone.text(instantOf(drift["start"]) - kDay) + " to " +
                                   zone.text(instantOf(drift["end"]) + kDay)),
            true);
    d->type("fixFrom", QString::fromStdString(zone.text(instantOf(drift["start"]))));
    d->type("fixTo", QString::fromStdString(zone.text(instantOf(drift["end"]))));
    d->type("fixStartBy", "0");
    d->click("fitToReadings");
    EXPECT_TRUE(d->find<QLabel>("misfit")->text().startsWith("Misfit at"));
    EXPECT_NEAR(std::get<RampFix>(d->window().mend()->draft().body).endBy, -drift["endError"].get<double>(),
                1.5);
    d->type("timeField", "1 Mar 00:10 +2h", true);
    d->type("fixFrom", "1 Mar 2026 00:20");
    d->type("fixTo", "1 Mar 2026 00:50");
    d->click("fitToReadings");
    EXPECT_TRUE(d->find<QLabel>("misfit")->text().contains("a ramp needs"));
}

TEST_F(Window, MarksAreDraggedNamedMovedAndRemoved) {
    d->clickAsset("Kiln 3");
    d->bench(app::BenchId::Label);
    app::LabelBench* label = d->window().label();
    app::TimePlot* p = label->plot();
    const QPoint at = p->paneRect(0).center();
    const Instant from = p->timeAt(at.x() - 90), to = p->timeAt(at.x() + 40);
    d->drag(p, at - QPoint(90, 0), at + QPoint(40, 0));
    auto all = d->study().tracks().spansOf(track_kind::kLabels);
    ASSERT_EQ(all.size(), 1u);
    // To the nearest sample of the current tag.
    const Tag inHand = *d->session().tag(d->view().tag());
    const Series near = d->study().read(inHand, {from - kMinute, to + kMinute}, Which::AsLogged);
    const auto isSample = [&](Instant t) {
        return std::find(near.times.begin(), near.times.end(), t) != near.times.end();
    };
    EXPECT_TRUE(isSample(all[0].start) && isSample(all[0].end));
    EXPECT_NEAR(toSeconds(all[0].start - from), 0, 15);
    EXPECT_NEAR(toSeconds(all[0].end - to), 0, 15);
    EXPECT_EQ(factText(all[0].facts, "kind"), "");
    d->key(p, Qt::Key_B);
    EXPECT_EQ(factText(d->study().tracks().spansOf(track_kind::kLabels)[0].facts, "kind"), "bearing wear");
    // Its right edge, by the handle.
    const QPoint edge(static_cast<int>(std::lround(p->xOf(all[0].end))), at.y());
    d->drag(p, edge, edge + QPoint(70, 0));
    EXPECT_NEAR(toSeconds(d->study().tracks().spansOf(track_kind::kLabels)[0].end - p->timeAt(edge.x() + 70)),
                0, 2000);
    EXPECT_EQ(d->study().tracks().spansOf(track_kind::kLabels)[0].start, all[0].start);
    d->type("labelNote", "seen by ear");
    EXPECT_EQ(factText(d->study().tracks().spansOf(track_kind::kLabels)[0].facts, "note"), "seen by ear");
    d->click("removeLabel");
    EXPECT_TRUE(d->study().tracks().spansOf(track_kind::kLabels).empty());
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d->study().tracks().spansOf(track_kind::kLabels).size(), 1u);
}

TEST_F(Window, ARuleWithASlipSaysWhereAndIsNotProved) {
    d->bench(app::BenchId::Prove);
    app::ExpressionEditor* editor = d->window().prove()->editor();
    editor->selectAll();
    QTest::keyClicks(editor, "mean(@bearing_vibratoin over 2h) > 2.75");
    d->settle();
    QTest::qWait(300);
    EXPECT_EQ(d->find<QLabel>("ruleState")->text(),
              "column 6: `bearing_vibratoin` is not a role of Kiln; nearest is `bearing_vibration`");
    EXPECT_FALSE(d->find("proveButton")->isEnabled());
    editor->selectAll();
    QTest::keyClicks(editor, "mean(@bearing_vibration over 2h)");
    QTest::qWait(400);
    EXPECT_TRUE(d->find<QLabel>("ruleState")->text().contains("a rule is a condition"));
}

TEST_F(Window, ImportPreviewThenImport) {
    std::ofstream(folder / "new.csv")
        << "time;Kiln 7/Air-on temp [°C];Kiln 7/Burner mode\n02.04.2026 10:00;61,5;Auto\n02.04.2026 "
           "10:01;x;Auto\n02.04.2026 10:02;62,5;Off\n";
    QTimer::singleShot(300, [&] {
        auto* dialog = d->window().findChild<QDialog*>("importDialog");
        ASSERT_NE(dialog, nullptr);
        EXPECT_TRUE(dialog->findChild<QLabel*>("importFacts")->text().contains("decimal comma"));
        EXPECT_EQ(dialog->findChild<QTableWidget*>("importRows")->rowCount(), 3);
        EXPECT_EQ(dialog->findChild<QTableView*>("importBadRows")->model()->rowCount(), 1);
        QTest::mouseClick(dialog->findChild<QPushButton*>("importStart"), Qt::LeftButton);
    });
    d->window().importFiles({QString::fromStdString(folder / "new.csv")});
    d->settle();
    const auto tag = d->study().catalog().tagAt("Kiln 7/Air-on temp");
    ASSERT_TRUE(tag) << d->statusText().toStdString();
    EXPECT_EQ(d->study().samples().whole(tag->id).count, 2u);
    EXPECT_TRUE(d->statusText().contains("kept aside: 0 rows, 1 cells"));
    EXPECT_NE(d->window().plant()->itemOf(tag->id), nullptr);
}

TEST_F(Window, AFileThatIsNoTableSaysSoAndStoresNothing) {
    std::ofstream(folder / "bad.csv") << "a,b\n1,2\n";
    QTimer::singleShot(300, [&] {
        auto* dialog = d->window().findChild<QDialog*>("importDialog");
        ASSERT_NE(dialog, nullptr);
        EXPECT_TRUE(dialog->findChild<QLabel*>("importTrouble")->text().contains("no time column"));
        EXPECT_FALSE(dialog->findChild<QPushButton*>("importStart")->isEnabled());
        QTest::mouseClick(dialog->findChild<QPushButton*>("importCancel"), Qt::LeftButton);
    });
    const auto imports = d->study().imports().all().size();
    d->window().importFiles({QString::fromStdString(folder / "bad.csv")});
    d->settle();
    EXPECT_EQ(d->study().imports().all().size(), imports);
}

TEST_F(Window, ASpikeOfOneSampleIsDrawnAtEveryZoom) {
    const auto spikes = demoTruth()["spikes"];
    for (const auto& s : spikes) {
        if (!s["tag"].get<std::string>().ends_with("/Fan current") || s["size"].get<double>() < 60) continue;
        const Tag tag = *d->study().catalog().tagAt(s["tag"].get<std::string>());
        d->clickTag(tag.path());
        d->view().setShown({tag.id});
        d->settle();
        for (const Duration width : {61 * kDay, 10 * kDay, kDay, 2 * kHour}) {
            d->view().setView({instantOf(s["time"]) - width / 2, instantOf(s["time"]) + width / 2});
            d->settle();
            double greatest = 0;
            for (const Summary& c : plot()->columnsOf(0, 0))
                greatest = std::max(greatest, c.usable ? c.greatest : 0);
            const int y = static_cast<int>(plot()->yOf(0, greatest));
            EXPECT_GT(greatest, 60);
            // The picture itself: some pixel near the top of the spike has the trace's colour.
            const QImage image = plot()->grab().toImage();
            const QColor colour = d->session().tagColour(tag.id);
            int hits = 0;
            for (int x = plot()->paneRect(0).left(); x < plot()->paneRect(0).right(); ++x)
                for (int dy = 0; dy < 4; ++dy) {
                    const QColor c = image.pixelColor(x, std::min(image.height() - 1, y + dy));
                    hits += std::abs(c.red() - colour.red()) + std::abs(c.green() - colour.green()) +
                                std::abs(c.blue() - colour.blue()) <
                            90;
                }
            EXPECT_GT(hits, 0) << formatDuration(width);
        }
        return;
    }
    FAIL() << "the demo plant has no spike to look for";
}

TEST_F(Window, DarkAndLightBothApply) {
    d->session().setTheme(app::darkTheme());
    d->settle();
    EXPECT_LT(d->window().grab().toImage().pixelColor(20, 700).lightness(), 60);
    d->session().setTheme(app::lightTheme());
    d->settle();
    EXPECT_GT(d->window().grab().toImage().pixelColor(20, 700).lightness(), 220);
}

/// A bench that is new is shown only after the next events: who asks for another by then gets that one.
TEST_F(Window, TheBenchAskedForLastIsShown) {
    d->key(&d->window(), Qt::Key_3, Qt::ControlModifier);
    d->key(&d->window(), Qt::Key_5, Qt::ControlModifier);
    d->key(&d->window(), Qt::Key_1, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(d->view().bench(), app::BenchId::Survey);
    d->key(&d->window(), Qt::Key_4, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(d->view().bench(), app::BenchId::Label);
}

TEST_F(Window, EveryBenchFitsTheWorkingSize) {
    for (int b = 0; b < app::kBenches; ++b) {
        d->bench(static_cast<app::BenchId>(b));
        EXPECT_LE(d->window().minimumSizeHint().height(), 800) << b;
        EXPECT_LE(d->window().minimumSizeHint().width(), 1280) << b;
    }
}

TEST_F(Window, AsLoggedCanBeShownInPlaceOfMended) {
    d->clickTag("Kiln 1/Air-off RH");
    Fix f;
    f.tag = d->tagId("Kiln 1/Air-off RH");
    f.from = d->view().view().from, f.to = d->view().view().to, f.body = ShiftFix{20};
    d->session().tryChange(
        [&] { d->study().change("shift", "", {}, [&] { d->study().judgement().addFix(f); }); });
    d->view().setShown({f.tag});
    d->settle();
    const double mended = plot()->columnsOf(0, 0).at(plot()->columnsOf(0, 0).size() / 2).greatest;
    d->view().setWhich(Which::AsLogged);
    d->settle();
    EXPECT_NEAR(mended - plot()->columnsOf(0, 0).at(plot()->columnsOf(0, 0).size() / 2).greatest, 20, 1e-9);
    EXPECT_TRUE(d->find<QLabel>("statusFacts")->text().trimmed().startsWith("as logged"));
}

}  // namespace
}  // namespace jacinth::test
