// Survey by mouse and keys on the whole demo plant: each way of looking shows what is in the record, and what
// is kept of it is in the study.
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QMimeData>
#include <QSlider>
#include <fstream>

#include "app/base/tables.h"
#include "app/plot/pane_layout.h"
#include "core/stats/stats.h"
#include "demo/demo.h"
#include "store/derived_catalog.h"
#include "store/tracks.h"
#include "test/survey_fixture.h"
#include "work/derived/derived_tags.h"
#include "work/runs/find_runs.h"

namespace jacinth::test {
namespace {

TEST_F(Survey, TheOddKilnIsAtTheTopOfTheFleet) {
    d->clickTag("Kiln 1/Air-on temp");
    whole();
    d->click("wayFleet");
    ASSERT_NE(survey()->fleet()->picture(), nullptr);
    const FleetPicture p = *survey()->fleet()->picture();
    EXPECT_EQ(p.spec.role, "air_on_temp");
    ASSERT_EQ(p.rows.size(), 6u);
    const auto nameOf = [&](std::size_t i) { return d->study().catalog().asset(p.rows[i].asset)->name; };
    EXPECT_EQ(nameOf(0), "Kiln " + std::to_string(demo::drawTruth({}).oddKiln));
    EXPECT_GT(p.rows[0].odd.score, 2 * p.rows[1].odd.score);
    auto* view = d->find<app::FleetView>("fleetView");
    // The picture has the colour that the cell's mean has on the scale.
    const QImage image = view->grab().toImage();
    const QRect row = view->rowRect(0);
    for (const double share : {0.21, 0.5, 0.83}) {
        const QColor want = view->heatAt(0, share),
                     there = image.pixelColor(row.left() + static_cast<int>(share * row.width()),
                                              row.center().y());
        EXPECT_LT(std::abs(want.lightness() - there.lightness()), 12) << share;
    }
    // A click chooses the asset, a double click goes to its traces at that moment.
    d->clickAt(view, view->rowRect(0).center());
    EXPECT_EQ(d->view().asset(), p.rows[0].asset);
    const QString figures = copied();
    EXPECT_TRUE(figures.startsWith("asset\toddness")) << figures.toStdString();
    EXPECT_EQ(figures.count('\n'), 7);
    // The engineer decides what it is and records it, here.
    d->type("fleetFactName", "heat recovery");
    d->type("fleetFactValue", "coil");
    d->click("recordFact");
    EXPECT_EQ(factText(d->study().catalog().asset(p.rows[0].asset)->facts, "heat recovery"), "coil");
    EXPECT_TRUE(d->find<QLabel>("fleetFacts")->text().contains("heat recovery: coil"));
    undo();
    EXPECT_FALSE(d->study().catalog().asset(d->view().asset())->facts.contains("heat recovery"));
    d->doubleClickAt(view, view->rowRect(2).center());
    EXPECT_EQ(survey()->way(), SurveyWay::Traces);
    EXPECT_TRUE(d->view().cursor(0).has_value());
}

TEST_F(Survey, TheFleetFallsBackToTheDayAndGoesByKeys) {
    d->clickTag("Kiln 2/Gas flow");
    d->click("wayFleet");
    auto* profile = d->find<QComboBox>("fleetProfile");
    QTest::keyClick(profile, Qt::Key_Down);
    d->settle();
    EXPECT_EQ(survey()->fleet()->picture()->spec.profile, ProfileBy::Day);
    EXPECT_EQ(survey()->fleet()->picture()->hours.size(), 48u);
    auto* view = d->find<app::FleetView>("fleetView");
    view->setFocus();
    const auto before = d->view().asset();
    d->key(view, before == survey()->fleet()->picture()->rows.back().asset ? Qt::Key_Up : Qt::Key_Down);
    EXPECT_NE(d->view().asset(), before);
    d->key(view, Qt::Key_Return);
    EXPECT_EQ(survey()->way(), SurveyWay::Traces);
}

TEST_F(Survey, TheFanThatRunsWhileOffIsAClusterInByState) {
    const demo::Truth truth = demo::drawTruth({});
    const auto odd = std::find_if(truth.kilns.begin(), truth.kilns.end(),
                                  [](const auto& k) { return !k.fanRunsOn.empty(); });
    ASSERT_NE(odd, truth.kilns.end());
    const std::string kiln = demo::kilnName(odd->kiln);
    d->clickTag(kiln + "/Fan current");
    whole();
    d->click("wayByState");
    auto* by = d->find<QComboBox>("splitBy");
    by->setCurrentText("Kiln step");
    d->settle();
    auto* view = d->find<app::StateView>("stateView");
    d->drag(view, {static_cast<int>(view->xOf(2)), static_cast<int>(view->yOf(0)) + 8},
            {static_cast<int>(view->xOf(25)), static_cast<int>(view->yOf(0)) + 12});
    const auto when = survey()->byState()->when();
    ASSERT_GE(when.size(), 5u);
    // It is what really happened: every time the fan ran on is among them.
    for (const TimeRange& on : odd->fanRunsOn)
        EXPECT_TRUE(std::any_of(when.begin(), when.end(), [&](const TimeRange& w) {
            return w.from < on.to && w.to > on.from && w.length() > on.length() / 2;
        })) << toIso(on.from);
    // And nothing else but the fan turning down at the end of a run.
    const Tag step = *d->study().catalog().tagAt(kiln + "/Kiln step"),
              fan = *d->study().catalog().tagAt(kiln + "/Fan current");
    for (const TimeRange& w : when) {
        EXPECT_EQ(d->study().valueAt(step, w.from, Which::AsLogged), 0) << toIso(w.from);
        EXPECT_GT(d->study().valueAt(fan, w.from, Which::AsLogged), 1.5);
    }
    EXPECT_TRUE(d->find<QLabel>("clusterSays")->text().contains(QString("%1 stretches").arg(when.size())));
    const TimeRange first = when[0];
    auto* table = d->find<QTableView>("clusterTable");
    d->clickRow(table, 0);
    EXPECT_TRUE(d->find<QPushButton>("labelCluster")->isEnabled());
    d->doubleClickAt(table->viewport(), table->visualRect(table->model()->index(0, 1)).center());
    EXPECT_EQ(survey()->way(), SurveyWay::Traces);
    EXPECT_EQ(d->view().cursor(0), first.from);
    EXPECT_TRUE(d->view().view().from < first.from && d->view().view().to > first.to);
}

TEST_F(Survey, TheLossAfterEachBeltChangeIsSeenInCycles) {
    const demo::Truth truth = demo::drawTruth({});
    d->clickTag("Kiln " + std::to_string(truth.beltKiln) + "/Bed ΔP");
    d->click("wayCycles");
    d->type("cyclesWords", "belt");
    d->type("cyclesOnly", "@kiln_step is \"Free-dry\"");
    ASSERT_NE(survey()->cycles()->picture(), nullptr);
    const CyclePicture p = *survey()->cycles()->picture();
    EXPECT_EQ(p.parting.size(), truth.kilns[static_cast<std::size_t>(truth.beltKiln - 1)].beltChanges.size());
    ASSERT_TRUE(p.slopes);
    EXPECT_LT(p.slopes->slope, -1);
    EXPECT_LT(p.slopes->pNone, 1e-4);
    EXPECT_GT(p.slopes->p, 0.05);
    EXPECT_TRUE(d->find<QLabel>("cyclesSays")->text().startsWith("The same after each"));
    auto* view = d->find<app::CyclesView>("cyclesView");
    const QPoint at = view->pointAt(1, 3).toPoint();
    QTest::mouseMove(view, at);
    QTest::qWait(50);
    EXPECT_TRUE(view->pointerText().startsWith("cycle")) << view->pointerText().toStdString();
    EXPECT_TRUE(copied().startsWith("cycle\ttime"));
    const Instant when = p.cycles[1].at[3];
    d->doubleClickAt(view, at);
    EXPECT_EQ(survey()->way(), SurveyWay::Traces);
    EXPECT_TRUE(d->view().view().from <= when && when <= d->view().view().to);
    // Errors in the condition are said where it is typed.
    d->click("wayCycles");
    d->type("cyclesOnly", "@kiln_stepp is \"Cure\"");
    EXPECT_TRUE(d->find<QLabel>("cyclesSays")->text().contains("kiln_step"))
        << d->find<QLabel>("cyclesSays")->text().toStdString();
    d->type("cyclesOnly", "");
    d->type("cyclesWords", "moon");
    EXPECT_TRUE(d->find<QLabel>("cyclesSays")->text().contains("has no stops that say"));
}

TEST_F(Survey, PartsAreProposedKeptAndPutTogetherAgain) {
    d->clickTag("Site/Outside temp");
    whole();
    d->click("wayParts");
    ASSERT_NE(survey()->parts()->parts(), nullptr);
    const TagParts p = *survey()->parts()->parts();
    EXPECT_EQ(p.period, 24);  // steps of an hour: the day
    EXPECT_FALSE(p.parts.multiplied);
    EXPECT_TRUE(d->find<QLabel>("partsFound")->text().contains("24 h"));
    EXPECT_EQ(survey()->parts()->plot()->paneCount(), 3);
    d->click("keepParts");
    Study& s = d->study();
    const auto trend = s.catalog().tagAt("Site/Outside temp trend"),
               cycle = s.catalog().tagAt("Site/Outside temp cycle"),
               rest = s.catalog().tagAt("Site/Outside temp remainder");
    ASSERT_TRUE(trend && cycle && rest);
    EXPECT_EQ(s.derived().definition(trend->id).value("from", ""), "Site/Outside temp");
    const TimeRange all = d->view().record();
    const Series a = s.read(*trend, all, Which::AsLogged), b = s.read(*cycle, all, Which::AsLogged),
                 c = s.read(*rest, all, Which::AsLogged);
    ASSERT_EQ(a.times, c.times);
    ASSERT_GT(a.size(), 1400u);
    std::size_t k = 0;
    for (std::size_t i = 0; i < p.grid.values.size(); ++i) {
        if (!std::isfinite(p.grid.values[i])) continue;
        EXPECT_NEAR(a.values[k] + b.values[k] + c.values[k], p.grid.values[i], 1e-9);
        ++k;
    }
    undo();
    EXPECT_FALSE(s.catalog().tagAt("Site/Outside temp trend"));
    EXPECT_TRUE(s.check().empty());
    d->key(&d->window(), Qt::Key_Y, Qt::ControlModifier);
    const auto back = s.catalog().tagAt("Site/Outside temp trend");
    ASSERT_TRUE(back);
    EXPECT_EQ(s.read(*back, all, Which::AsLogged).values, a.values);
}

TEST_F(Survey, PartsSayWhatTheyCannotDo) {
    d->clickTag("Site/Outside temp");
    d->click("wayParts");
    d->type("partsPeriod", "1 fortnight");
    EXPECT_TRUE(d->find<QLineEdit>("partsPeriod")->property("wrong").toBool());
    d->type("partsPeriod", "40d");
    EXPECT_TRUE(d->find<QLabel>("partsFound")->text().contains("shorter than two periods"))
        << d->find<QLabel>("partsFound")->text().toStdString();
    EXPECT_FALSE(d->find<QPushButton>("keepParts")->isEnabled());
    d->type("partsPeriod", "24h");
    auto* way = d->find<QComboBox>("partsWay");
    QTest::keyClick(way, Qt::Key_Down);
    d->settle();
    ASSERT_NE(survey()->parts()->parts(), nullptr);
    EXPECT_FALSE(d->find<QCheckBox>("partsRobust")->isEnabled());
    EXPECT_TRUE(std::isnan(survey()->parts()->parts()->parts.trend.front()));  // classical: no ends
}

TEST_F(Survey, PeaksFollowTheControlsAndAreKeptOrSentToMend) {
    d->clickTag("Kiln 3/Bearing vib.");
    d->type("timeField", "21 Mar 2026 00:00 +7d", true);
    d->click("wayPeaks");
    const std::size_t some = survey()->peaks()->peaks().size();
    ASSERT_GT(some, 10u);
    EXPECT_EQ(d->find<QLabel>("peakCount")->text(), QString("%1 peaks").arg(some));
    // Against the calculation itself.
    const Tag tag = *d->study().catalog().tagAt("Kiln 3/Bearing vib.");
    const TimeRange view = d->view().view();
    const Series s = d->study().read(tag, view, Which::Mended);
    PeakSearch search;
    search.leastProminence = noiseProminence(s.view().within(view));
    EXPECT_EQ(findPeaks(s.view().within(view), search).size(), some);
    auto* slider = d->find<QSlider>("peakProminenceSlider");
    slider->setFocus();
    for (int i = 0; i < 25; ++i) QTest::keyClick(slider, Qt::Key_Right);
    d->settle();
    const std::size_t fewer = survey()->peaks()->peaks().size();
    EXPECT_LT(fewer, some);
    d->type("peakProminence", "0.3");
    d->type("peakWidth", "0 - 10m");
    for (const Peak& p : survey()->peaks()->peaks()) {
        EXPECT_GE(p.prominence, 0.3);
        EXPECT_LE(p.width(), 10 * kMinute);
    }
    d->type("peakWidth", "");
    const std::size_t kept = survey()->peaks()->peaks().size();
    ASSERT_GT(kept, 0u);
    d->click("keepPeaks");
    const auto track = d->study().tracks().named("Peaks of Kiln 3/Bearing vib.");
    ASSERT_TRUE(track);
    EXPECT_EQ(d->study().tracks().spans(track->id).size(), kept);
    undo();
    EXPECT_FALSE(d->study().tracks().named("Peaks of Kiln 3/Bearing vib."));
    // Widths of one kind, from a minute to an hour: nothing to part them by.
    d->type("peakProminence", "0.15");
    auto* send = d->find<QPushButton>("sendPeaks");
    EXPECT_FALSE(send->isEnabled());
    d->clickTag("Kiln 3/Fan current");
    d->type("peakProminence", "5");
    ASSERT_TRUE(send->isEnabled());
    d->click("sendPeaks");
    EXPECT_EQ(d->view().bench(), app::BenchId::Mend);
    const auto proposed = d->study().tracks().named("Spikes to mend");
    ASSERT_TRUE(proposed);
    EXPECT_FALSE(d->study().tracks().spans(proposed->id).empty());
    for (const Span& span : d->study().tracks().spans(proposed->id))
        EXPECT_EQ(factText(span.facts, "proposal"), "hide");
    d->bench(app::BenchId::Survey);
    d->type("peakHeight", "high");
    EXPECT_TRUE(d->find<QLineEdit>("peakHeight")->property("wrong").toBool());
}

TEST_F(Survey, AResampledTagIsKeptAndDaysFollowTheCalendar) {
    d->clickTag("Kiln 2/Gas flow");
    whole();
    d->click("wayResample");
    auto* period = d->find<QComboBox>("resamplePeriod");
    period->setCurrentText("day");
    d->settle();
    ASSERT_NE(survey()->resample()->grid(), nullptr);
    const auto& edges = survey()->resample()->grid()->edges;
    // The clocks went forward on 29 March 2026 in Oslo: one day of 23 hours.
    int shortDays = 0;
    for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
        const Duration length = edges[i + 1] - edges[i];
        EXPECT_TRUE(length == 24 * kHour || length == 23 * kHour);
        shortDays += length == 23 * kHour;
    }
    EXPECT_EQ(shortDays, 1);
    d->type("resampleName", "Gas a day");
    d->click("keepResampled");
    const auto tag = d->study().catalog().tagAt("Kiln 2/Gas a day");
    ASSERT_TRUE(tag);
    EXPECT_EQ(tag->kind, TagKind::Stepped);
    EXPECT_EQ(tag->unit, "m³/h");
    const Series kept = d->study().read(*tag, d->view().record(), Which::AsLogged);
    EXPECT_NEAR(static_cast<double>(kept.size()), 61, 1);
    // It is a tag like any other: it is in the plant panel and can be shown.
    d->clickTag("Kiln 2/Gas a day");
    d->key(d->window().plant()->tree(), Qt::Key_Space);
    EXPECT_TRUE(std::count(d->view().shown().begin(), d->view().shown().end(), tag->id));
    // A logged tag's name is taken.
    d->clickTag("Kiln 2/Gas flow");
    d->type("resampleName", "Damper");
    d->click("keepResampled");
    EXPECT_TRUE(d->statusText().contains("logged tag")) << d->statusText().toStdString();
    period->setCurrentText("sometimes");
    d->settle();
    EXPECT_TRUE(period->lineEdit()->property("wrong").toBool());
}

TEST_F(Survey, WaysAreTurnedByKeysAndARuleStartsFromASlope) {
    for (int way = 1; way < 7; ++way) {
        d->key(&d->window(), static_cast<Qt::Key>(Qt::Key_1 + way), Qt::AltModifier);
        EXPECT_EQ(static_cast<int>(survey()->way()), way);
        EXPECT_LE(d->window().minimumSizeHint().width(), 1280) << way;
        EXPECT_LE(d->window().minimumSizeHint().height(), 800) << way;
    }
    d->key(&d->window(), Qt::Key_1, Qt::AltModifier);
    d->clickTag("Kiln 6/Bearing vib.");
    d->type("timeField", "18 Mar 2026 12:00 +2d", true);
    const TimeRange view = d->view().view();
    d->view().setCursor(0, view.from + 14 * kHour);
    d->view().setCursor(1, view.from + 20 * kHour);
    d->settle();
    d->click("ruleStretch");
    EXPECT_EQ(d->view().bench(), app::BenchId::Prove);
    const QString rule = d->window().prove()->editor()->toPlainText();
    EXPECT_TRUE(rule.startsWith("slope(@bearing_vibration over 6h) ")) << rule.toStdString();
}

TEST_F(Survey, ARunIsATimeToo) {
    d->clickAsset("Kiln 1");
    d->type("timeField", "run 30 of Kiln 3", true);
    const auto runs = d->study().tracks().spansOf(track_kind::kRuns);
    const auto kiln3 = d->study().catalog().assetNamed("Kiln 3")->id;
    const auto run = std::find_if(runs.begin(), runs.end(), [&](const Span& s) {
        return s.asset == kiln3 && factNumber(s.facts, "number") == 30;
    });
    ASSERT_NE(run, runs.end());
    EXPECT_EQ(d->view().asset(), kiln3);
    EXPECT_LT(d->view().view().from, run->start);
    EXPECT_GT(d->view().view().to, run->end);
    EXPECT_LT(d->view().view().length(), (run->end - run->start) * 13 / 10);
    const TimeRange before = d->view().view();
    d->type("timeField", "run 400", true);
    EXPECT_TRUE(d->statusText().contains("has no run 400")) << d->statusText().toStdString();
    EXPECT_EQ(d->view().view(), before);
}

TEST_F(Survey, AnEmptyStudySaysWhatBelongsHere) {
    d->close();
    {
        // With a tag and no samples: without either, the window offers what one does first.
        const auto empty = std::move(*Study::create(folder / "empty.jacinth"));
        WriteBatch t(*empty);
        empty->catalog().addTag(empty->catalog().addAsset("Kiln 1"), "Temp", "°C", TagKind::Continuous);
        t.commit();
    }
    d = std::make_unique<WindowDriver>(folder / "empty.jacinth");
    for (int way = 0; way < 7; ++way) {
        survey()->turnTo(static_cast<SurveyWay>(way));
        d->settle();
        const QImage image = survey()->grab().toImage();
        int ink = 0;  // there is a word, not an empty sheet
        for (int x = image.width() / 6; x < image.width() * 5 / 6; x += 2)
            for (int y = 70; y < image.height() - 10; y += 2)
                ink += std::abs(image.pixelColor(x, y).lightness() -
                                image.pixelColor(4, image.height() - 4).lightness()) > 60;
        EXPECT_GT(ink, 20) << way;
    }
}

}  // namespace
}  // namespace jacinth::test
