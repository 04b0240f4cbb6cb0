// The fleet in one picture: a row an asset with its heat over time and its box plot, and all profiles below.
#pragma once

#include <QWidget>
#include <optional>

#include "app/base/row_window.h"
#include "app/base/session.h"
#include "app/plot/chart.h"
#include "work/survey/fleet.h"

namespace jacinth::app {

class FleetView : public QWidget {
    Q_OBJECT
  public:
    explicit FleetView(Session& session);
    /// A line of words above the first row of a group.
    struct Heading {
        std::size_t before = 0;  ///< which row of the picture
        QString words;
    };
    void show(std::shared_ptr<const FleetPicture> picture, const std::vector<Heading>& headings = {});
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
    void resizeEvent(QResizeEvent*) override { lay(); }
    void wheelEvent(QWheelEvent* e) override;
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
    void showChosen();
    void lay();  ///< as many rows as fit at a height at which they can be read
    double yOf(int line) const;
    int lineOf(int row) const;
    const FleetRow* rowOn(int line) const;  ///< none on a heading
    QString rowWords() const;
    void drawHeading(QPainter& p, int line) const;
    void drawRowName(QPainter& p, const FleetRow& row, double y) const;
    void drawHeat(QPainter& p) const;
    void drawTimes(QPainter& p) const;
    void drawBoxes(QPainter& p) const;
    void drawProfiles(QPainter& p) const;
    void takeLines();
    bool isBand() const;  ///< of the profiles of so many assets most are drawn as one
    void drawBand(QPainter& p, const ChartArea& area) const;
    QString nameOf(const FleetRow& row) const;

    Session& session_;
    std::shared_ptr<const FleetPicture> picture_;
    RowWindow rows_;          ///< of lines
    std::vector<int> lines_;  ///< each a row of the picture, or −1 − the place of a heading
    std::vector<Heading> headings_;
    QString instead_;
    std::vector<std::size_t> drawn_;  ///< rows whose profile is a line
    double low_ = 0, high_ = 1;
    AssetId chosen_;
    std::optional<QPoint> pointer_;
    QString pointerText_;
};

}  // namespace jacinth::app
