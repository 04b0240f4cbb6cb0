// Survey: looking at the record in seven ways, one picture each.
#pragma once

#include <QButtonGroup>
#include <QStackedWidget>
#include <array>

#include "app/shell/bench.h"
#include "app/survey/cycles_page.h"
#include "app/survey/fleet_page.h"
#include "app/survey/parts_page.h"
#include "app/survey/peaks_page.h"
#include "app/survey/resample_page.h"
#include "app/survey/state_page.h"
#include "app/survey/traces_page.h"

namespace jacinth::app {

enum class SurveyWay { Traces, Fleet, ByState, Parts, Peaks, Resample, Cycles };

class SurveyBench : public Bench {
    Q_OBJECT
  public:
    explicit SurveyBench(Session& session);
    void entered() override;
    QString pointerText() const override { return page()->pointerText(); }
    void turnTo(SurveyWay way);
    SurveyWay way() const { return way_; }

    TimePlot* plot() const { return traces()->plot(); }
    QTableView* written() const { return traces()->written()->table(); }
    TracesPage* traces() const {
        return static_cast<TracesPage*>(of_[static_cast<std::size_t>(SurveyWay::Traces)]);
    }
    // The other pages are made when first asked for: a window opens in a fraction of the time.
    FleetPage* fleet() { return static_cast<FleetPage*>(pageOf(SurveyWay::Fleet)); }
    StatePage* byState() { return static_cast<StatePage*>(pageOf(SurveyWay::ByState)); }
    PartsPage* parts() { return static_cast<PartsPage*>(pageOf(SurveyWay::Parts)); }
    PeaksPage* peaks() { return static_cast<PeaksPage*>(pageOf(SurveyWay::Peaks)); }
    ResamplePage* resample() { return static_cast<ResamplePage*>(pageOf(SurveyWay::Resample)); }
    CyclesPage* cycles() { return static_cast<CyclesPage*>(pageOf(SurveyWay::Cycles)); }

  signals:
    void labelAsked(jacinth::TimeRange range);
    void mendAsked(jacinth::TimeRange range);
    void ruleAsked(const QString& text);

  private:
    SurveyPage* page() const { return of_[static_cast<std::size_t>(way_)]; }
    SurveyPage* pageOf(SurveyWay way);
    SurveyPage* newPage(SurveyWay way);
    void connectPage(SurveyPage* page);
    void addWay(SurveyWay way, const char* name, const QString& says, QHBoxLayout* row);
    void followPage();

    QLabel* title_;
    QButtonGroup* ways_;
    QStackedWidget *pages_, *inspectors_;
    SurveyWay way_ = SurveyWay::Traces;
    std::array<SurveyPage*, 7> of_{};
};

}  // namespace jacinth::app
