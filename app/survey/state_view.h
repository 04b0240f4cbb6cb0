// Values of a tag as strips, one a state of another tag: where they lie, how often, and for how long.
#pragma once

#include <QWidget>
#include <optional>

#include "app/base/session.h"
#include "app/plot/chart.h"
#include "core/series/by_state.h"

namespace jacinth::app {

class StateView : public QWidget {
    Q_OBJECT
  public:
    struct Picture {
        QString tag, unit;
        std::vector<QString> states;
        std::vector<StateValues> values;  ///< one a state
    };
    /// A cluster: values of one state between two bounds.
    struct Cluster {
        int state = 0;
        double low = 0, high = 0;
    };
    explicit StateView(Session& session);
    void show(std::shared_ptr<const Picture> picture);
    void say(const QString& instead);
    void setCluster(std::optional<Cluster> cluster);
    QString pointerText() const { return pointerText_; }
    double xOf(double value) const { return area_.x(value); }
    double yOf(int state) const;  ///< middle of a state's strip

  signals:
    void picked(jacinth::app::StateView::Cluster cluster);  ///< dragged over a strip
    void pointed();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void resizeEvent(QResizeEvent*) override { layOut(); }
    QSize minimumSizeHint() const override { return {420, 240}; }

  private:
    void layOut();
    int stateAt(double y) const;
    double stripHeight() const;
    void drawStrip(QPainter& p, int state) const;
    void drawHeads(QPainter& p) const;

    Session& session_;
    std::shared_ptr<const Picture> picture_;
    std::vector<std::vector<double>> bins_;  ///< log(1 + count) over the greatest, a state
    QString instead_, pointerText_;
    ChartArea area_;
    std::optional<Cluster> cluster_;
    std::optional<QPoint> pressed_;
    QPoint now_;
};

}  // namespace jacinth::app
