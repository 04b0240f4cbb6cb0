// Every alarm of the current rule: over the record, one after the other with its traces, and what it was.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/plot/time_plot.h"
#include "app/prove/alarm_timeline.h"
#include "app/prove/prove_state.h"

namespace jacinth::app {

class WarningCurve;

class AlarmsPage : public BenchPage {
    Q_OBJECT
  public:
    AlarmsPage(Session& session, ProveState& state);
    QString title() const override { return "Alarms, one after the other"; }
    QString state() const override;
    QString pointerText() const override;
    void entered() override;
    AlarmTimeline* timeline() const { return timeline_; }
    QTableView* table() const { return table_; }
    TimePlot* plot() const { return plot_; }
    int current() const { return current_; }
    /// The next one that is false and that nobody has looked at yet, by time; or the one before.
    void step(int by);

  protected:
    void refresh() override;
    void keyPressEvent(QKeyEvent* e) override;
    bool eventFilter(QObject* on, QEvent* e) override;  ///< the same keys over the plot and the table

  private:
    void chooseFirst(int by);
    void buildMiddle();
    void buildInspector();
    bool takeKey(QKeyEvent* e);
    void showProof();
    void fillTable();
    void showCurrentRow();
    void fillShares();
    void choose(int alarm);
    void showAlarm();
    void label(const QString& kind);
    void open();
    const AlarmVerdict* alarm() const;

    ProveState& prove_;
    AlarmTimeline* timeline_;
    RowsModel *model_, *sharesModel_;
    QTableView *table_, *shares_;
    TimePlot* plot_;
    WarningCurve* curve_;
    QComboBox* by_;
    QLabel *words_, *plotWords_;
    QPushButton *next_, *before_, *takeBack_, *open_;
    std::vector<QPushButton*> kinds_;
    std::vector<std::string> labels_;  ///< of the alarms, by place
    int current_ = -1;
    AlarmVerdict chosen_;  ///< the current one, as it was when it was chosen
};

}  // namespace jacinth::app
