// As logged, mended and their difference laid over the benches, by their keys.
#include "app/plot/time_plot.h"
#include "app/screen/screen_bench.h"
#include "store/judgement.h"
#include "store/tracks.h"
#include "test/screened_demo.h"
#include "test/window_driver.h"
#include "work/mend/mending.h"

namespace jacinth::test {
namespace {

constexpr Qt::KeyboardModifiers kCtrlShift = Qt::ControlModifier | Qt::ShiftModifier;

class LaidOver : public ::testing::Test {
  protected:
    LaidOver() : folder("window-laid-over") {
        fs::copy_file(screenedDemo(), folder / "s.jacinth");
        start();
    }
    void start() {
        d = std::make_unique<WindowDriver>(folder / "s.jacinth");
        d->clickTag("Kiln 4/Bed ΔP");
        d->type("timeField", "18 Mar to 22 Mar", true);
        d->settle();
    }
    void fix() {
        d->session().tryChange([&] { ASSERT_TRUE(enterFix(d->study(), shiftOfKnockedBed(d->study()))); });
        d->settle();
    }
    app::TimePlot* plot(const char* name) { return d->find<app::TimePlot>(name); }
    /// The trace of that name: pane and place; −1 for none.
    std::pair<int, int> traceOf(app::TimePlot* of, const QString& name) {
        for (int pane = 0; pane < of->paneCount(); ++pane) {
            const auto& traces = of->paneSpec(pane).traces;
            for (std::size_t i = 0; i < traces.size(); ++i)
                if (traces[i].name == name) return {pane, static_cast<int>(i)};
        }
        return {-1, -1};
    }
    double at(app::TimePlot* of, std::pair<int, int> trace, Instant t) {
        return of->paneSpec(trace.first).traces[static_cast<std::size_t>(trace.second)].at(t);
    }
    Folder folder;
    std::unique_ptr<WindowDriver> d;
};

TEST_F(LaidOver, NothingIsLaidOverTagsWithoutFixes) {
    d->key(&d->window(), Qt::Key_M, kCtrlShift);
    d->key(&d->window(), Qt::Key_D, kCtrlShift);
    d->settle();
    EXPECT_EQ(traceOf(plot("surveyPlot"), "Bed ΔP as logged").first, -1);
    const int panes = plot("surveyPlot")->paneCount();
    fix();
    EXPECT_EQ(plot("surveyPlot")->paneCount(), panes + 1);
    EXPECT_GE(traceOf(plot("surveyPlot"), "Bed ΔP as logged").first, 0);
    d->key(&d->window(), Qt::Key_Z, Qt::ControlModifier);
    d->settle();
    EXPECT_EQ(plot("surveyPlot")->paneCount(), panes);
}

TEST_F(LaidOver, TheOtherDataAndWhatMendingChangedAreRead) {
    fix();
    d->key(&d->window(), Qt::Key_M, kCtrlShift);
    d->key(&d->window(), Qt::Key_D, kCtrlShift);
    d->settle();
    auto* survey = plot("surveyPlot");
    const auto own = traceOf(survey, "Bed ΔP"), logged = traceOf(survey, "Bed ΔP as logged"),
               change = traceOf(survey, "Bed ΔP: what mending changed");
    ASSERT_GE(own.first, 0);
    ASSERT_EQ(logged.first, own.first);
    ASSERT_EQ(change.first, survey->paneCount() - 1);
    const Instant t = d->study().record().from + 20 * kDay;
    EXPECT_NEAR(at(survey, own, t) - at(survey, logged, t), -38, 1e-9);
    EXPECT_NEAR(at(survey, change, t), -38, 1e-9);
    EXPECT_EQ(at(survey, change, t - 10 * kDay), 0);
    for (const auto& trace : {own, logged, change})
        EXPECT_FALSE(survey->columnsOf(trace.first, trace.second).empty());
    // Turned round, the mended data lies over what was logged.
    d->key(&d->window(), Qt::Key_L, kCtrlShift);
    d->settle();
    EXPECT_GE(traceOf(survey, "Bed ΔP mended").first, 0);
    EXPECT_EQ(traceOf(survey, "Bed ΔP as logged").first, -1);
}

TEST_F(LaidOver, EveryBenchFollowsAndItStaysForTheStudy) {
    fix();
    d->key(&d->window(), Qt::Key_M, kCtrlShift);
    d->bench(app::BenchId::Label);
    d->settle();
    EXPECT_GE(traceOf(plot("labelPlot"), "Bed ΔP as logged").first, 0);
    // Mend shows all three by itself.
    d->bench(app::BenchId::Mend);
    d->settle();
    EXPECT_EQ(plot("mendPlot")->paneCount(), 2);
    d->bench(app::BenchId::Screen);
    const auto excursions = excursionsOf(d->study());
    const auto found = std::find_if(excursions.begin(), excursions.end(), [&](const KeptExcursion& e) {
        return e.span.tag == d->tagId("Kiln 4/Bed ΔP") && e.span.start > d->study().record().from + 25 * kDay;
    });
    ASSERT_NE(found, excursions.end());
    d->window().screen()->openSpan(found->span.id);
    d->settle();
    app::OverlayPlot* overlay = d->window().screen()->overlay();
    ASSERT_FALSE(overlay->picture().otherData.empty());
    EXPECT_NEAR(overlay->picture().run.values[100] - overlay->picture().otherData.values[100], -38, 1e-9);
    const int graphs = overlay->graphCount();
    d->key(&d->window(), Qt::Key_M, kCtrlShift);
    EXPECT_EQ(overlay->graphCount(), graphs - 1);
    d->key(&d->window(), Qt::Key_M, kCtrlShift);
    EXPECT_EQ(overlay->graphCount(), graphs);
    d->bench(app::BenchId::Survey);
    d->close();
    start();
    EXPECT_TRUE(d->view().laidOver().other);
    EXPECT_FALSE(d->view().laidOver().change);
    d->key(&d->window(), Qt::Key_M, kCtrlShift);
    EXPECT_FALSE(d->view().laidOver().other);
}

}  // namespace
}  // namespace jacinth::test
