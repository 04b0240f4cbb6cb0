// Excursions counted, as bars: weeks in order with the moment of a change, or anything else sorted with the
// share that the first ones make up.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "work/limits/excursion_tables.h"

namespace jacinth::app {

class ExcursionBars : public QWidget {
    Q_OBJECT
  public:
    explicit ExcursionBars(Session& session, QWidget* parent = nullptr);
    struct Picture {
        std::vector<ExcursionCount> counts;
        bool weeks = true;
        bool hours = true;  ///< else their number
        std::optional<ExcursionChange> change;
    };
    void show(Picture picture);
    const Picture& picture() const { return picture_; }
    QRectF barRect(int bar) const;

  signals:
    void barChosen(int bar);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    bool event(QEvent* e) override;

  private:
    QRectF area() const;
    double figure(const ExcursionCount& c) const {
        return picture_.hours ? c.hours : static_cast<double>(c.count);
    }
    double most() const;
    void paintChange(QPainter& p) const;
    void paintShares(QPainter& p) const;
    Session& session_;
    Picture picture_;
};

}  // namespace jacinth::app
