// The fleet in one picture: a row an asset with its heat over time and its box plot, and all profiles below.
#pragma once

#include <QWidget>
#include <optional>

#include "app/base/session.h"
#include "app/plot/chart.h"
#include "work/survey/fleet.h"

namespace jacinth::app {

class FleetView : public QWidget {
    Q_OBJECT
  public:
    explicit FleetView(Session& session);
    void show(std::shared_ptr<const FleetPicture> picture);
    void say(const QString& instead);  ///< where there is nothing to draw
    void choose(AssetId asset);
    QString pointerText() const { return pointerText_; }
    QRect rowRect(int row) const;                ///< of the heat map, for keys and tests
    QColor heatAt(int row, double share) const;  ///< as drawn, at a share of the time

  signals:
    void chosen(AssetId asset);
    void opened(AssetId asset, jacinth::Instant at);
    void pointed();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void leaveEvent(QEvent*) override;
    QSize minimumSizeHint() const override { return {420, 300}; }

  private:
    int rowAt(const QPoint& at) const;
    QRectF heatRect() const;
    QRectF boxRect() const;
    double rowHeight() const;
    void drawHeat(QPainter& p) const;
    void drawTimes(QPainter& p) const;
    void drawBoxes(QPainter& p) const;
    void drawProfiles(QPainter& p) const;
    QString nameOf(const FleetRow& row) const;

    Session& session_;
    std::shared_ptr<const FleetPicture> picture_;
    QString instead_;
    double low_ = 0, high_ = 1;
    AssetId chosen_;
    std::optional<QPoint> pointer_;
    QString pointerText_;
};

}  // namespace jacinth::app
