// A contact sheet: small pictures of stretches over the example that they are to resemble, looked through and
// judged by key.
#pragma once

#include <QWidget>
#include <vector>

#include "app/base/session.h"
#include "core/shape/feedback.h"

namespace jacinth::app {

class ContactSheet : public QWidget {
    Q_OBJECT
  public:
    explicit ContactSheet(Session& session);

    struct Cell {
        AssetId asset;
        TimeRange range;
        double distance = 0, score = 0;
        std::vector<std::vector<double>> values;  ///< by tag, at equal steps
        HitVerdict verdict = HitVerdict::Open;
        bool known = false;  ///< it was labelled before it was found
    };
    /// `values` of the example, by tag. The current cell stays the same stretch where it is still there.
    void show(std::vector<std::vector<double>> example, std::vector<Cell> cells);
    void say(const QString& instead);
    const std::vector<Cell>& cells() const { return cells_; }
    int current() const { return current_; }
    void setCurrent(int cell);
    QRect cellRect(int cell) const;

  signals:
    void judged(int cell, jacinth::HitVerdict verdict);
    void opened(int cell);
    void currentChanged(int cell);
    void stopped();

  protected:
    void paintEvent(QPaintEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void resizeEvent(QResizeEvent*) override { layOut(); }
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    void layOut();
    int columns() const;
    int cellAt(const QPoint& at) const;
    void judge(HitVerdict verdict);
    void drawCell(QPainter& p, int cell) const;
    void drawValues(QPainter& p, const QRectF& box, const Cell& cell) const;

    Session& session_;
    std::vector<std::vector<double>> example_;
    std::vector<Cell> cells_;
    QString instead_;
    int current_ = -1;
};

}  // namespace jacinth::app
