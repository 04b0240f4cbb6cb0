// Survey: looking at the record in seven ways, one picture each.
#pragma once

#include <QButtonGroup>
#include <QStackedWidget>

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
    SurveyWay way() const { return static_cast<SurveyWay>(pages_->currentIndex()); }

    TimePlot* plot() const { return traces_->plot(); }
    QTableView* written() const { return traces_->written()->table(); }
    TracesPage* traces() const { return traces_; }
    FleetPage* fleet() const { return fleet_; }
    StatePage* byState() const { return byState_; }
    PartsPage* parts() const { return parts_; }
    PeaksPage* peaks() const { return peaks_; }
    ResamplePage* resample() const { return resample_; }
    CyclesPage* cycles() const { return cycles_; }

  signals:
    void labelAsked(jacinth::TimeRange range);
    void mendAsked(jacinth::TimeRange range);
    void ruleAsked(const QString& text);

  private:
    SurveyPage* page() const { return static_cast<SurveyPage*>(pages_->currentWidget()); }
    void addPage(SurveyPage* page, const QString& name, QHBoxLayout* row);
    void followPage();

    QLabel* title_;
    QButtonGroup* ways_;
    QStackedWidget *pages_, *inspectors_;
    TracesPage* traces_;
    FleetPage* fleet_;
    StatePage* byState_;
    PartsPage* parts_;
    PeaksPage* peaks_;
    ResamplePage* resample_;
    CyclesPage* cycles_;
};

}  // namespace jacinth::app
