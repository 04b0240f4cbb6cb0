// Assets by week or by run: how much of each is labelled, and by how many marks.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "work/label/overview.h"

namespace jacinth::app {

class OverviewView : public QWidget {
    Q_OBJECT
  public:
    explicit OverviewView(Session& session);
    void show(LabelOverview overview);
    void say(const QString& instead);
    QRectF cellRect(std::size_t row, std::size_t stretch) const;

  signals:
    void opened(AssetId asset, jacinth::TimeRange range);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    bool event(QEvent* e) override;  ///< says in a tip what stands behind a cell

  private:
    const LabelledStretch* stretchAt(const QPoint& at, AssetId* asset = nullptr) const;
    void drawCell(QPainter& p, const QRectF& box, const LabelledStretch& stretch) const;
    std::size_t columns() const;

    Session& session_;
    LabelOverview overview_;
    QString instead_;
};

}  // namespace jacinth::app
