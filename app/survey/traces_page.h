// Traces: chosen tags over the time in view, what was written down, figures between two cursors.
#pragma once

#include "app/base/bench_page.h"
#include "app/plot/time_plot.h"
#include "app/survey/cursor_figures.h"
#include "app/survey/written_list.h"

class QMenu;

namespace jacinth::app {

class TracesPage : public BenchPage {
    Q_OBJECT
  public:
    explicit TracesPage(Session& session);
    void entered() override;
    QString title() const override;
    QString pointerText() const override;
    TimePlot* plot() const { return plot_; }
    WrittenList* written() const { return written_; }

  private:
    void refresh() override {}  // the plot and the list follow the view themselves
    QString mendingWords(Instant t) const;
    void rebuildPanes();
    void laneMenu(const PaneSpec& lane, const QPoint& at);
    void updateMarks();
    void paneMenu(int pane, const QPoint& at);
    void addRunActions(QMenu& menu, Instant t);

    TimePlot* plot_;
    WrittenList* written_;
    CursorFigures* figures_;
    AssetId lanesOf_;  ///< the asset whose lanes are shown
};

}  // namespace jacinth::app
