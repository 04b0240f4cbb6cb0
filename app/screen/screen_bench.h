// Screen: runs found, golden ones chosen, limits made, every run screened; from the sheet down to the single
// trace.
#pragma once

#include "app/base/paged_bench.h"
#include "app/base/tables.h"
#include "app/screen/causes_page.h"
#include "app/screen/compare_page.h"
#include "app/screen/excursions_page.h"
#include "app/screen/runs_page.h"
#include "app/screen/sheet_page.h"

namespace jacinth::app {

enum class ScreenWay { Sheet, Runs, Excursions, Causes, Compare };

class ScreenBench : public PagedBench {
    Q_OBJECT
  public:
    explicit ScreenBench(Session& session);
    static QStringList pages();  ///< names, in the order of ScreenWay
    void entered() override;
    void openSpan(SpanId excursionOrRun) override;
    void turnTo(ScreenWay way) { turnToPage(static_cast<int>(way)); }
    SheetPage* sheetPage() { return of<SheetPage>(ScreenWay::Sheet); }
    RunsPage* runsPage() { return of<RunsPage>(ScreenWay::Runs); }
    ExcursionsPage* excursionsPage() { return of<ExcursionsPage>(ScreenWay::Excursions); }
    CausesPage* causesPage() { return of<CausesPage>(ScreenWay::Causes); }
    ComparePage* comparePage() { return of<ComparePage>(ScreenWay::Compare); }
    RunSheet* sheet() { return sheetPage()->sheet(); }
    OverlayPlot* overlay() { return sheetPage()->overlay(); }
    QTableView* excursions() { return sheetPage()->excursions(); }

  private:
    template <typename P>
    P* of(ScreenWay way) {
        return static_cast<P*>(page(static_cast<int>(way)));
    }
    template <typename P>
    void add(ScreenWay way, const char* buttonName);
    ScreenState state_;
};

}  // namespace jacinth::app
