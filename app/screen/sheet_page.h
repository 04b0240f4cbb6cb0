// The sheet: every run against every limited tag, and under it the chosen run lined up with the golden ones.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/screen/limits_form.h"
#include "app/screen/multiples_view.h"
#include "app/screen/overlay_plot.h"
#include "app/screen/run_sheet.h"
#include "app/screen/screen_state.h"
#include "app/screen/week_bars.h"
#include "store/judgement.h"

namespace jacinth::app {

class SheetPage : public BenchPage {
    Q_OBJECT
  public:
    SheetPage(Session& session, ScreenState& state);
    QString title() const override;
    QString state() const override { return state_; }
    QString pointerText() const override;
    void entered() override;
    void open(SpanId excursionOrRun);
    RunSheet* sheet() const { return sheet_; }
    OverlayPlot* overlay() const { return overlay_; }
    MultiplesView* multiples() const { return multiples_; }
    QTableView* excursions() const { return excursions_; }
    LimitsForm* form() const { return form_; }

  protected:
    void refresh() override;

  private:
    void buildMiddle();
    void buildInspector();
    void connectAll();
    void goWhereRunsAre();
    const std::vector<Span>& runsOf(TrackId track);
    void refreshSheet();
    void refreshOverlay();
    void showOverlay(OverlayPlot::Picture picture);
    void refreshMultiples();
    void refreshExcursions();
    void refreshWeeks();
    void buildAndScreen();
    void toggleGolden(SpanId run);
    /// What can be done with the runs in a box that was dragged over the lines.
    void offerRunsIn(const QRect& box);
    void fillLimits();
    void chooseCell(SpanId run, const std::string& role);
    std::optional<Span> currentRun() const;
    std::string role() const;
    bool showsAll() const { return show_->currentIndex() == 1; }

    ScreenState& screen_;
    RunSheet* sheet_;
    OverlayPlot* overlay_;
    MultiplesView* multiples_;
    QStackedWidget* below_;
    QLabel *overlayTitle_, *overlayState_, *countWords_, *axisWords_, *goldenCount_, *excursionTitle_;
    QComboBox *fleet_, *show_, *limits_;
    LimitsForm* form_;
    QPushButton *build_, *openMoment_, *label_;
    RowsModel* excursionModel_;
    QTableView* excursions_;
    WeekBars* weeks_;
    QString state_;
    std::vector<KeptExcursion> kept_;
    std::vector<LimitSet> sets_;  ///< of the track, oldest first
    TrackId track_;
    std::string role_;
    std::optional<AlignedRole> aligned_;                         ///< kept until something changes
    std::optional<std::pair<TrackId, std::vector<Span>>> runs_;  ///< of a track, until the study changes
};

}  // namespace jacinth::app
