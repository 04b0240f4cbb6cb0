// Drawn over the panes of a TimePlot: titles, marks, handles, cursors, the pointer.
#pragma once

#include "app/plot/time_plot.h"

namespace jacinth::app {

class PlotOverlay : public QCPLayerable {
  public:
    explicit PlotOverlay(TimePlot& plot) : QCPLayerable(&plot, "over"), plot_(plot) {}

  protected:
    void applyDefaultAntialiasingHint(QCPPainter* painter) const override { painter->setAntialiasing(true); }
    QRect clipRect() const override { return plot_.rect(); }
    void draw(QCPPainter* painter) override;

  private:
    QRect whole() const;
    int textBottom() const;  ///< of the lowest pane that is not a band
    void drawEmpty(QCPPainter* p) const;
    void drawMarks(QCPPainter* p) const;
    void fillMarks(QCPPainter* p) const;
    void nameMarks(QCPPainter* p) const;
    void drawPoints(QCPPainter* p) const;
    void drawTitles(QCPPainter* p) const;
    void drawHandles(QCPPainter* p) const;
    void drawCursors(QCPPainter* p) const;
    void drawCursorDistance(QCPPainter* p) const;
    void drawMended(QCPPainter* p) const;
    void drawTrust(QCPPainter* p) const;
    void drawLanes(QCPPainter* p) const;
    void drawDrag(QCPPainter* p) const;
    TimePlot& plot_;
};

}  // namespace jacinth::app
