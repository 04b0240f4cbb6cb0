// A table's header with a small histogram under each name of a figure; dragging over the bars cuts the rows.
#pragma once

#include <QHeaderView>

#include "app/base/tables.h"
#include "app/screen/run_table_model.h"

namespace jacinth::app {

class HistogramHeader : public QHeaderView {
    Q_OBJECT
  public:
    HistogramHeader(Session& session, RunTableModel* model, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    QRect barsRect(int section) const;  ///< in the viewport

  signals:
    void removeAsked(int column);

  protected:
    void paintSection(QPainter* p, const QRect& rect, int section) const override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void contextMenuEvent(QContextMenuEvent* e) override;

  private:
    struct Bars {
        double low = 0, high = 1;
        std::vector<int> all, shown;
    };
    Bars barsOf(int section) const;
    double valueAt(int section, int x) const;
    Session& session_;
    RunTableModel* model_;
    int brushing_ = -1;
    double from_ = 0;
};

}  // namespace jacinth::app
