// What the user keeps and chooses by eye: peaks and clusters as lanes that become labels, kept tags
// calculated again, golden runs chosen by a box, limits of a version looked at.
#include <QMenu>
#include <set>

#include "app/base/tables.h"
#include "app/screen/limits_dialog.h"
#include "app/window/derived_dialog.h"
#include "store/history.h"
#include "store/judgement.h"
#include "store/sample_store.h"
#include "store/tracks.h"
#include "test/window_driver.h"
#include "work/label/labels.h"
#include "work/limits/screening.h"
#include "work/mend/mending.h"
#include "work/runs/edit_runs.h"
#include "work/settings/study_settings.h"
#include "work/survey/kept_spans.h"
#include "work/survey/kept_tags.h"

namespace jacinth::test {
namespace {

using app::SurveyWay;

class Kept : public ::testing::Test {
  protected:
    Kept() : folder("kept-window") {
        copyDemo(folder / "s.jacinth");
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
    }
    app::SurveyBench* survey() { return d->window().survey(); }
    app::TimePlot* plot() { return survey()->plot(); }
    /// Triggers an action of a menu that exec() or popup() puts up, by the words it begins with.
    void chooseFromMenu(const QString& menu, const QStringList& way) {
        auto* timer = new QTimer(&d->window());
        QObject::connect(timer, &QTimer::timeout, timer, [this, menu, way, timer] {
            auto* open = d->window().findChild<QMenu*>(menu);
            if (!open || !open->isVisible()) return;
            timer->deleteLater();
            timer->stop();
            QList<QAction*> actions = open->actions();
            QAction* found = nullptr;
            for (const QString& words : way) {
                found = nullptr;
                for (QAction* a : actions)
                    if (!found && !a->isSeparator() && a->text().startsWith(words)) found = a;
                ASSERT_NE(found, nullptr) << words.toStdString();
                if (found->menu()) actions = found->menu()->actions();
            }
            chosen = true;
            found->trigger();
            open->close();
        });
        chosen = false;
        timer->start(20);
    }
    void shiftOutsideTemp() {
        const TimeRange all = d->view().record();
        d->session().tryChange([&] {
            ASSERT_TRUE(
                enterFix(d->study(),
                         {{}, d->tagId("Site/Outside temp"), ShiftFix{5}, all.from, all.to, true, "probe"}));
        });
    }
    void contextMenuAt(QWidget* widget, const QPoint& at) {
        QContextMenuEvent e(QContextMenuEvent::Mouse, at, widget->mapToGlobal(at));
        QApplication::sendEvent(widget, &e);
        d->settle();
    }
    int lane() {
        for (int i = 0; i < plot()->paneCount(); ++i)
            if (plot()->paneSpec(i).lane) return i;
        return -1;
    }
    std::vector<Span> labels() { return d->study().tracks().spansOf(track_kind::kLabels); }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
    bool chosen = false;
};

TEST_F(Kept, PeaksStandInALaneAndBecomeLabels) {
    d->clickTag("Kiln 3/Fan current");
    d->click("wayPeaks");
    d->click("keepPeaks");
    d->click("wayTraces");
    const int at = lane();
    ASSERT_GE(at, 0);
    EXPECT_EQ(plot()->paneSpec(at).title, "Peaks of Kiln 3/Fan current");
    const TrackId track = d->study().tracks().named("Peaks of Kiln 3/Fan current")->id;
    const auto spans = d->study().tracks().spans(track);
    ASSERT_GT(spans.size(), 3u);
    ASSERT_FALSE(plot()->barsOf(at).empty());
    // One of them, by the menu where it lies.
    const Span& one = spans[1];
    d->view().goTo(one.start - kHour, one.end + kHour);
    d->settle();
    const QString kind = QString::fromStdString(d->study().judgement().labelBook().front().name);
    const auto middle = [&] {
        return QPoint(static_cast<int>((plot()->xOf(one.start) + plot()->xOf(one.end)) / 2),
                      plot()->paneRect(lane()).center().y());
    };
    const std::size_t before = labels().size();
    chooseFromMenu("laneMenu", {"Label it as", kind});
    contextMenuAt(plot(), middle());
    ASSERT_TRUE(chosen);
    ASSERT_EQ(labels().size(), before + 1);
    const auto all = labels();
    EXPECT_TRUE(std::any_of(all.begin(), all.end(), [&](const Span& s) {
        return s.start <= one.start && s.end >= one.end && factText(s.facts, "kind") == kind.toStdString();
    }));
    // All of them: the one that is labelled already stays as it is.
    chooseFromMenu("laneMenu", {"Label all", kind});
    contextMenuAt(plot(), middle());
    std::set<std::pair<Instant, Instant>> places;  // peaks may share their flanks
    for (const Span& s : spans) places.insert({s.start, s.end});
    EXPECT_EQ(labels().size(), before + places.size());
    EXPECT_TRUE(d->statusText().contains("stood there already")) << d->statusText().toStdString();
    // Another asset has no such lane; back on the first it is there again.
    d->clickAsset("Kiln 4");
    EXPECT_EQ(lane(), -1);
    d->clickAsset("Kiln 3");
    ASSERT_GE(lane(), 0);
    chooseFromMenu("laneMenu", {"Remove Peaks of"});
    contextMenuAt(plot(), middle());
    EXPECT_EQ(lane(), -1);
    EXPECT_FALSE(d->study().tracks().named("Peaks of Kiln 3/Fan current"));
    d->session().undo();
    d->settle();
    EXPECT_GE(lane(), 0);
    EXPECT_EQ(d->study().tracks().spans(track).size(), spans.size());
    EXPECT_TRUE(d->study().check().empty());
}

TEST_F(Kept, AClusterIsKeptAsSpans) {
    d->clickTag("Kiln 3/Fan current");
    d->click("wayByState");
    EXPECT_FALSE(d->find<QPushButton>("keepCluster")->isEnabled());
    auto* view = d->find<app::StateView>("stateView");
    d->drag(view, {static_cast<int>(view->xOf(2)), static_cast<int>(view->yOf(0)) + 8},
            {static_cast<int>(view->xOf(60)), static_cast<int>(view->yOf(0)) + 12});
    auto* page = survey()->byState();
    ASSERT_FALSE(page->when().empty());
    const auto when = page->when();
    d->click("keepCluster");
    const auto kept = keptTracks(d->study(), d->view().asset());
    ASSERT_EQ(kept.size(), 1u);
    const auto spans = d->study().tracks().spans(kept[0].id);
    ASSERT_EQ(spans.size(), when.size());
    EXPECT_EQ(spans.front().start, when.front().from);
    EXPECT_FALSE(factText(spans.front().facts, "state").empty());
    d->click("wayTraces");
    EXPECT_GE(lane(), 0);
}

TEST_F(Kept, TagsSayThatTheyAreBehindAndAreCalculatedAgain) {
    d->clickTag("Site/Outside temp");
    d->view().goTo(d->view().record().from, d->view().record().to);
    d->settle();
    d->click("wayParts");
    d->click("keepParts");
    const auto trend = d->tagId("Site/Outside temp trend");
    app::DerivedDialog dialog(d->session(), trend, &d->window());
    dialog.show();
    d->settle();
    auto* table = dialog.findChild<QTableView*>("derivedTable");
    ASSERT_EQ(table->model()->rowCount(), 3);
    const auto cell = [&](int column) {
        return table->model()->index(table->currentIndex().row(), column).data().toString();
    };
    EXPECT_TRUE(cell(2).startsWith("kept: trend by LOESS")) << cell(2).toStdString();
    EXPECT_TRUE(cell(3).startsWith("as of ")) << cell(3).toStdString();
    auto* again = dialog.findChild<QPushButton*>("derivedAgain");
    ASSERT_TRUE(again->isVisible() && again->isEnabled());
    EXPECT_FALSE(dialog.findChild<QPushButton*>("derivedKeep")->isEnabled());
    const double before = d->study().samples().whole(trend).greatest;
    shiftOutsideTemp();
    d->settle();
    EXPECT_EQ(cell(3), "Site/Outside temp has changed since");
    QTest::mouseClick(again, Qt::LeftButton);
    d->settle();
    EXPECT_TRUE(cell(3).startsWith("as of ")) << cell(3).toStdString();
    EXPECT_NEAR(d->study().samples().whole(trend).greatest, before + 5, 0.5);
    EXPECT_EQ(d->study().history().undoName(), "keep parts of Site/Outside temp");
    // A new one by expression: the form is there again.
    QTest::mouseClick(dialog.findChild<QPushButton*>("derivedNew"), Qt::LeftButton);
    EXPECT_FALSE(again->isVisible());
    EXPECT_TRUE(dialog.findChild<QLineEdit*>("derivedName")->isEnabled());
    d->clickRow(table, 0);
    QTest::mouseClick(dialog.findChild<QPushButton*>("derivedRemove"), Qt::LeftButton);
    d->settle();
    EXPECT_EQ(table->model()->rowCount(), 2);
    EXPECT_TRUE(d->study().check().empty());
}

TEST_F(Kept, PartsFollowAFixBeforeTheyAreKept) {
    d->clickTag("Site/Outside temp");
    d->view().goTo(d->view().record().from, d->view().record().to);
    d->settle();
    d->click("wayParts");
    ASSERT_NE(survey()->parts()->parts(), nullptr);
    const auto before = survey()->parts()->parts()->parts.trend;
    shiftOutsideTemp();
    QTest::qWait(200);
    d->settle();
    const auto after = survey()->parts()->parts()->parts.trend;
    ASSERT_EQ(after.size(), before.size());
    EXPECT_NEAR(after[after.size() / 2], before[before.size() / 2] + 5, 0.5);
    d->click("keepParts");
    for (const KeptTag& k : keptTags(d->study())) EXPECT_FALSE(k.behind) << k.tag.name;
}

TEST_F(Kept, WhatAHandlerThrowsIsSaidAndTheWindowGoesOn) {
    QTimer::singleShot(0, &d->window(), [] { throw StoreError("the disk is full"); });
    QTest::qWait(50);
    EXPECT_TRUE(d->statusText().contains("the disk is full")) << d->statusText().toStdString();
    d->clickAsset("Kiln 4");  // goes on
    EXPECT_EQ(d->study().catalog().asset(d->view().asset())->name, "Kiln 4");
}

class ChosenByEye : public Kept {
  protected:
    ChosenByEye() {
        RunSearch search{"@kiln_step is not \"Idle\"", kHour};
        d->session().tryChange([&] {
            const auto found = findRuns(d->study(), search);
            ASSERT_TRUE(found);
            track = keepRuns(d->study(), "Runs", search, *found);
            std::vector<SpanId> some;
            for (const Span& s : d->study().tracks().spans(track))
                if (s.asset == d->view().asset() && some.size() < 6) some.push_back(s.id);
            ASSERT_TRUE(markGolden(d->study(), track, some, Golden::Only, "quiet weeks"));
            LimitSpec spec = proposedLimits(d->study(), track);
            keepLimits(d->study(), *makeLimits(d->study(), "Cure", track, {"air_on_temp"}, spec));
            spec.method = LimitMethod::Envelope;
            keepLimits(d->study(), *makeLimits(d->study(), "Cure", track, {"air_on_temp"}, spec));
        });
        d->bench(app::BenchId::Screen);
        d->click("screenSheet");
    }
    app::OverlayPlot* overlay() { return d->find<app::OverlayPlot>("overlayPlot"); }
    TrackId track;
};

TEST_F(ChosenByEye, ABoxOverTheLinesChoosesRuns) {
    d->find<QComboBox>("overlayShow")->setCurrentIndex(1);  // all runs
    d->settle();
    ASSERT_TRUE(overlay()->picture().all);
    const QRect rect = overlay()->axisRect()->rect();
    const QPoint from(rect.left() + rect.width() / 3, rect.top() + 3), to(from.x() + 60, rect.bottom() - 3);
    const auto through = overlay()->runsIn(QRect(from, to));
    ASSERT_GT(through.size(), 20u);  // top to bottom: all that are there
    EXPECT_TRUE(overlay()->runsIn(QRect(from, QPoint(to.x(), from.y() + 1))).size() < through.size());
    chooseFromMenu("boxMenu", {"They are golden"});
    d->drag(overlay(), from, to);
    QTest::qWait(100);
    d->settle();
    ASSERT_TRUE(chosen);
    const auto reasons = goldenReasons(d->study(), track);
    for (const SpanId run : through) EXPECT_TRUE(reasons.contains(run));
    EXPECT_TRUE(
        std::any_of(reasons.begin(), reasons.end(), [](const auto& r) { return r.second == "quiet weeks"; }));
    const auto byEye = std::find_if(reasons.begin(), reasons.end(), [](const auto& r) {
        return r.second.starts_with("by eye: Air-on temp ");
    });
    ASSERT_NE(byEye, reasons.end());
    // The reason stands where the mark is.
    d->click("screenRuns");
    const auto* model = d->window().screen()->runsPage()->model();
    const QString tip = model->index(model->rowOf(byEye->first), 0).data(Qt::ToolTipRole).toString();
    EXPECT_TRUE(tip.contains("golden: by eye: Air-on temp")) << tip.toStdString();
    d->session().undo();
    d->settle();
    EXPECT_EQ(d->study().judgement().goldenRuns(track).size(), 6u);
}

TEST_F(ChosenByEye, AVersionOfTheLimitsCanBeLookedAt) {
    auto* choice = d->find<QComboBox>("overlayLimits");
    ASSERT_TRUE(choice->isVisible());
    ASSERT_EQ(choice->count(), 3);
    EXPECT_EQ(choice->itemText(1), "Cure, version 2");
    const auto method = [&] { return overlay()->picture().limits.spec.method; };
    EXPECT_EQ(method(), LimitMethod::Envelope);  // the newest judges
    QTest::keyClick(choice, Qt::Key_End);
    emit choice->activated(choice->currentIndex());
    d->settle();
    EXPECT_NE(method(), LimitMethod::Envelope);
    EXPECT_EQ(d->study().judgement().limitSets().size(), 2u);
}

TEST_F(ChosenByEye, LimitsAreListedRenamedAppliedAndRemoved) {
    app::LimitsDialog dialog(d->session(), &d->window());
    dialog.show();
    d->settle();
    auto* table = dialog.findChild<QTableView*>("limitsTable");
    const auto press = [&](const char* name) {
        auto* button = dialog.findChild<QPushButton*>(name);
        ASSERT_TRUE(button->isEnabled()) << name;
        QTest::mouseClick(button, Qt::LeftButton);
        d->settle();
    };
    ASSERT_EQ(table->model()->rowCount(), 2);
    EXPECT_TRUE(dialog.findChild<QLabel*>("limitsMadeFrom")->text().startsWith("Made from 6 golden runs"));
    EXPECT_FALSE(dialog.findChild<QPushButton*>("limitsRename")->isEnabled());
    QTest::keyClicks(dialog.findChild<QLineEdit*>("limitsNewName"), "Curing");
    press("limitsRename");
    EXPECT_TRUE(d->study().judgement().limitSetNamed("Curing", 2) &&
                !d->study().judgement().limitSetNamed("Cure"));
    // The older version, to runs that it was not made for: it judges them all.
    d->clickRow(table, 1);
    press("limitsScreen");
    const auto found = excursionsOfRuns(d->study(), track);
    ASSERT_FALSE(found.empty());
    for (const KeptExcursion& e : found) EXPECT_EQ(e.limits, "Curing 1");
    EXPECT_TRUE(d->statusText().contains("excursions")) << d->statusText().toStdString();
    dialog.show();
    d->settle();
    d->clickRow(table, 0);
    press("limitsRemove");
    EXPECT_EQ(d->study().judgement().limitSets().size(), 1u);
    press("limitsRemove");
    EXPECT_TRUE(dialog.findChild<QLabel*>("limitsMadeFrom")->text().startsWith("No limits yet"));
    EXPECT_FALSE(dialog.findChild<QPushButton*>("limitsScreen")->isEnabled());
    for (int i = 0; i < 2; ++i) d->session().undo();
    d->settle();
    EXPECT_EQ(table->model()->rowCount(), 2);
}

TEST_F(ChosenByEye, ExpressionsAboutRunsSayForHowManyTheyAreTrue) {
    d->click("screenRuns");
    auto* filter = d->find<app::ExpressionEditor>("runsFilter");
    const auto words = [&](const char* name) { return d->find<QLabel>(name)->text(); };
    filter->setPlainText("duration > 1h");
    QTest::qWait(600);
    d->settle();
    const std::size_t all = d->study().tracks().spans(track).size();
    EXPECT_EQ(words("runsFilterPreview"), QString("true for %1 of %1 runs").arg(all));
    filter->setPlainText("duratoin > 1h");
    d->settle();
    EXPECT_TRUE(words("runsFilterPreview").contains("duration")) << words("runsFilterPreview").toStdString();
    auto* column = d->find<app::ExpressionEditor>("columnText");
    column->setPlainText("max(@air_on_temp)");
    QTest::qWait(600);
    d->settle();
    EXPECT_TRUE(words("columnTextPreview").contains(" run ")) << words("columnTextPreview").toStdString();
    EXPECT_TRUE(words("columnTextPreview").endsWith("°C")) << words("columnTextPreview").toStdString();
    column->setPlainText("");
    EXPECT_FALSE(d->find<QLabel>("columnTextPreview")->isVisible());
}

TEST_F(ChosenByEye, AConditionHasItsRibbonWhereRunsAreFound) {
    d->click("screenRuns");
    auto* where = d->find<app::ExpressionEditor>("runsWhere");
    where->setPlainText("@kiln_step is \"Cure\"");
    d->settle();
    auto* form = d->find<app::RunSearchForm>("runSearchForm");
    auto* ribbon = form->findChild<app::ExpressionPreview*>("expressionPreview");
    ASSERT_NE(ribbon, nullptr);
    EXPECT_TRUE(ribbon->isVisible());
    EXPECT_FALSE(ribbon->trueRanges().empty());
    EXPECT_TRUE(ribbon->words().contains("% of the time in view")) << ribbon->words().toStdString();
    where->setPlainText("");
    d->settle();
    EXPECT_FALSE(ribbon->isVisible());
}

}  // namespace
}  // namespace jacinth::test
