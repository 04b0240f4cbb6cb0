// Lined-up runs with the golden corridor, one run strong, what is outside in the accent.
#pragma once

#include <qcustomplot.h>

#include "app/shell/session.h"
#include "work/screening.h"

namespace jacinth::app {

class OverlayPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit OverlayPlot(Session& session, QWidget* parent = nullptr);
    /// What to draw: values on the grid of the limits' slices.
    struct Picture {
        GoldenLimits limits;
        std::vector<AlignedRun> golden;
        Series run;  ///< of the chosen run; may be empty
        Span runSpan;
        std::vector<Excursion> excursions;
        Bridging bridging;
        QString unit;
    };
    void show(Picture picture);
    const Picture& picture() const { return picture_; }
    std::optional<Instant> pointer() const { return pointer_; }

  signals:
    void pointed();
    void momentChosen(jacinth::Instant t);  ///< double-click: this moment of the chosen run

  protected:
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void leaveEvent(QEvent*) override;

  private:
    void draw();
    double hoursOf(Instant t) const;
    Session& session_;
    Picture picture_;
    std::optional<Instant> pointer_;
};

}  // namespace jacinth::app
