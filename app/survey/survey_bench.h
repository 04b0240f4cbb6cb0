// Survey: looking at the record in seven ways, one picture each.
#pragma once

#include "app/base/paged_bench.h"
#include "app/base/tables.h"
#include "app/survey/cycles_page.h"
#include "app/survey/fleet_page.h"
#include "app/survey/parts_page.h"
#include "app/survey/peaks_page.h"
#include "app/survey/resample_page.h"
#include "app/survey/state_page.h"
#include "app/survey/traces_page.h"

namespace jacinth::app {

enum class SurveyWay { Traces, Fleet, ByState, Parts, Peaks, Resample, Cycles };

class SurveyBench : public PagedBench {
    Q_OBJECT
  public:
    explicit SurveyBench(Session& session);
    static QStringList pages();  ///< names, in the order of SurveyWay
    void fitValues() override;
    void turnTo(SurveyWay way) { turnToPage(static_cast<int>(way)); }
    SurveyWay way() const { return static_cast<SurveyWay>(pageShown()); }

    TimePlot* plot() { return traces()->plot(); }
    QTableView* written() { return traces()->written()->table(); }
    TracesPage* traces() { return of<TracesPage>(SurveyWay::Traces); }
    FleetPage* fleet() { return of<FleetPage>(SurveyWay::Fleet); }
    StatePage* byState() { return of<StatePage>(SurveyWay::ByState); }
    PartsPage* parts() { return of<PartsPage>(SurveyWay::Parts); }
    PeaksPage* peaks() { return of<PeaksPage>(SurveyWay::Peaks); }
    ResamplePage* resample() { return of<ResamplePage>(SurveyWay::Resample); }
    CyclesPage* cycles() { return of<CyclesPage>(SurveyWay::Cycles); }

  private:
    template <typename P>
    P* of(SurveyWay way) {
        return static_cast<P*>(page(static_cast<int>(way)));
    }
    template <typename P>
    void add(SurveyWay way, const char* buttonName);
};

}  // namespace jacinth::app
