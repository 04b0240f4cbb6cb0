// Small multiples: the runs of each asset, or of each value of a fact, lined up in a small plot of their own,
// all with the same axes.
#pragma once

#include <QWidget>
#include <memory>

#include "app/base/session.h"
#include "work/limits/screening.h"

namespace jacinth::app {

class MultiplesView : public QWidget {
    Q_OBJECT
  public:
    explicit MultiplesView(Session& session, QWidget* parent = nullptr);
    struct Panel {
        QString name;
        std::vector<const AlignedRun*> runs;  ///< of `all`
        std::size_t flagged = 0;              ///< runs that left the limits
    };
    struct Picture {
        GoldenLimits limits;
        std::shared_ptr<const std::vector<AlignedRun>> all;
        std::vector<Panel> panels;
        std::set<SpanId> outside;  ///< runs that left the limits
        SpanId run;                ///< drawn strong
        QString unit;
    };
    void show(Picture picture);
    const Picture& picture() const { return picture_; }
    QRectF panelRect(int panel) const;

  signals:
    void panelChosen(int panel);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;

  private:
    void paintPanel(QPainter& p, const Panel& panel, const QRectF& at) const;
    int columns() const;
    Session& session_;
    Picture picture_;
    double low_ = 0, high_ = 1;
};

}  // namespace jacinth::app
