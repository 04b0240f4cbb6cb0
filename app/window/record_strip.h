// The whole record in five thin rows, with the bracket of the time in view.
#pragma once

#include <QWidget>
#include <variant>

#include "app/base/session.h"

namespace jacinth::app {

class RecordStrip : public QWidget {
    Q_OBJECT
  public:
    explicit RecordStrip(Session& session, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {800, 84}; }
    double xOf(Instant t) const;
    Instant timeAt(double x) const;
    int rowY(int row) const { return 7 + row * 12; }

    /// What lies at a place of the strip, for hover and double-click.
    struct Item {
        int row = 0;  ///< 0 runs, 1 excursions, 2 labels, 3 failures, 4 fixes
        TimeRange range;
        std::variant<SpanId, FixId> id;
        AssetId asset;
        TagId tag;
        int grade = 0;
        QColor colour;
        QString text;
    };
    const std::vector<Item>& items() const { return items_; }

  signals:
    void itemOpened(int row, std::variant<jacinth::SpanId, jacinth::FixId> id);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent*) override { grip_ = Grip::None; }
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    bool event(QEvent* e) override;

  private:
    enum class Grip { None, Move, Left, Right };
    void collect();
    void paintItems(QPainter& p);
    void paintAxis(QPainter& p);
    void paintBracket(QPainter& p);
    Grip gripAt(const QPoint& p) const;
    const Item* itemAt(const QPoint& p) const;
    QRectF shapeOf(const Item& item) const;

    Session& session_;
    std::vector<Item> items_;
    Grip grip_ = Grip::None;
    QPoint pressed_;
    TimeRange pressedView_;
};

}  // namespace jacinth::app
