// Screen: runs found, golden ones chosen, limits made, every run screened; from the sheet down to the single
// trace.
#pragma once

#include "app/screen/overlay_plot.h"
#include "app/screen/run_sheet.h"
#include "app/shell/bench.h"

namespace jacinth::app {

/// Hours outside the limits, a bar a week.
class WeekBars : public QWidget {
    Q_OBJECT
  public:
    explicit WeekBars(Session& session) : session_(session) { setFixedHeight(80); }
    void setHours(std::vector<std::pair<QString, double>> weeks) { weeks_ = std::move(weeks), update(); }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    std::vector<std::pair<QString, double>> weeks_;
};

class ScreenBench : public Bench {
    Q_OBJECT
  public:
    explicit ScreenBench(Session& session);
    void entered() override;
    QString pointerText() const override;
    void open(std::int64_t excursionOrRun) override;
    RunSheet* sheet() const { return sheet_; }
    OverlayPlot* overlay() const { return overlay_; }
    QTableView* excursions() const { return excursions_; }

  signals:
    void momentAsked(jacinth::TimeRange range, std::int64_t tag);
    void labelAsked(std::int64_t excursion);

  private:
    void buildInspector();
    void refresh();
    void refreshOverlay();
    void refreshExcursions();
    void refreshWeeks();
    void findThem();
    void buildAndScreen();
    void toggleGolden(std::int64_t run);
    std::optional<LimitSpec> specFromFields();
    std::optional<ScreenSpec> screenSpecFromFields();
    std::string role() const;

    QLabel *title_, *state_, *overlayTitle_, *overlayState_;
    RunSheet* sheet_;
    OverlayPlot* overlay_;
    QLineEdit *where_, *least_, *tags_, *every_, *k_, *ignore_, *join_;
    QComboBox *method_, *lineUp_;
    QLabel* goldenCount_;
    QPushButton *find_, *build_, *openMoment_, *label_;
    RowsModel* excursionModel_;
    QTableView* excursions_;
    QLabel* excursionTitle_;
    WeekBars* weeks_;
    std::vector<KeptExcursion> kept_;
    std::optional<LimitSet> set_;
    std::int64_t track_ = 0;
    std::string role_;
    bool tagsTouched_ = false;
};

}  // namespace jacinth::app
