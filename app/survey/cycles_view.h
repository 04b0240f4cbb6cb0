// Cycles lined up: figures over days since the stop before, a line through each, and the slope they share.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "app/plot/chart.h"
#include "work/survey/cycles.h"

namespace jacinth::app {

class CyclesView : public QWidget {
    Q_OBJECT
  public:
    explicit CyclesView(Session& session);
    void show(std::shared_ptr<const CyclePicture> picture);
    void say(const QString& instead);
    void choose(int cycle);
    QString pointerText() const { return pointerText_; }
    QPointF pointAt(int cycle, int figure) const;  ///< where a figure is drawn
    QColor colourOf(std::size_t cycle) const;

  signals:
    void pointed();
    void chosen(int cycle);
    void opened(jacinth::Instant at);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override { layOut(); }
    void mouseMoveEvent(QMouseEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;

  private:
    void layOut();
    std::optional<std::pair<int, int>> nearest(const QPoint& at) const;

    Session& session_;
    std::shared_ptr<const CyclePicture> picture_;
    QString instead_, pointerText_;
    ChartArea area_;
    int chosen_ = -1;
};

}  // namespace jacinth::app
