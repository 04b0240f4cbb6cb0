// A tag by the plant's calendar: a column a day, a row an hour of the day, heat for the value.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "app/plot/chart.h"

namespace jacinth::app {

class CalendarView : public QWidget {
    Q_OBJECT
  public:
    /// Hours in time order with their means; NaN where an hour has none.
    struct Hours {
        std::vector<Instant> start;
        std::vector<double> value;
        QString unit;
    };
    explicit CalendarView(Session& session);
    void show(Hours hours);
    QString pointerText() const { return pointerText_; }

  signals:
    void pointed();
    void picked(jacinth::Instant day);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void leaveEvent(QEvent*) override;

  private:
    struct Cell {
        int day = 0, hour = 0;
        double value = 0;
        Instant start{};
    };
    QRectF area() const;
    const Cell* cellAt(const QPoint& at) const;

    Session& session_;
    std::vector<Cell> cells_;
    std::vector<Instant> days_;
    QString unit_, pointerText_;
    double low_ = 0, high_ = 1;
};

}  // namespace jacinth::app
