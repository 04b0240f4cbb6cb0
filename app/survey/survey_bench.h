// Survey: traces of chosen tags over the time in view, what was written down, figures between two cursors.
#pragma once

#include "app/plot/time_plot.h"
#include "app/shell/bench.h"
#include "app/survey/cursor_figures.h"

namespace jacinth::app {

class SurveyBench : public Bench {
    Q_OBJECT
  public:
    explicit SurveyBench(Session& session);
    void entered() override;
    QString pointerText() const override;
    TimePlot* plot() const { return plot_; }
    QTableView* written() const { return written_; }

  signals:
    void labelAsked(jacinth::TimeRange range);
    void mendAsked(jacinth::TimeRange range);

  private:
    void rebuildPanes();
    void updateTitle();
    void updateWritten();
    void updateMarks();
    void goToWritten(const QModelIndex& index);

    QLabel* title_;
    TimePlot* plot_;
    RowsModel* writtenModel_;
    QTableView* written_;
    QLabel* writtenState_;
    CursorFigures* figures_;
    QTimer* slow_;  ///< what may lag a little behind a drag
};

}  // namespace jacinth::app
