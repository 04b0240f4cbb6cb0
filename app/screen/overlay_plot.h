// Lined-up runs with the golden corridor, one run strong, what is outside in the accent.
#pragma once

#include <qcustomplot.h>

#include <memory>

#include "app/base/session.h"
#include "work/limits/line_up_picture.h"

namespace jacinth::app {

class OverlayPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit OverlayPlot(Session& session, QWidget* parent = nullptr);
    using Picture = LineUpPicture;
    void show(Picture picture);
    const Picture& picture() const { return picture_; }
    std::optional<Instant> pointer() const { return pointer_; }
    std::optional<Place> pointerPlace() const { return place_; }
    /// `+10 h 27 min · Cure · limits 49.1 – 52.5 °C · above 97 % of 12 golden runs`.
    QString pointerWords(double value) const;
    /// `n = 12 golden runs in every slice`.
    QString countWords() const;
    QString axisWords() const;
    /// Runs that are drawn and pass through a box of the plot, in pixels.
    std::vector<SpanId> runsIn(const QRect& box) const;
    /// `18.2 to 20.1 °C at +3.0 to +5.1 h`: what a box of the plot spans.
    QString boxWords(const QRect& box) const;
    void setMarked(std::vector<SpanId> runs);  ///< drawn strongly; none to end it

  signals:
    void boxed(const QRect& box);  ///< a box was dragged over the lines
    void pointed();
    void momentChosen(jacinth::Instant t);  ///< double-click: this moment of the chosen run

  protected:
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void paintEvent(QPaintEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void leaveEvent(QEvent*) override;

  private:
    void rebuild();
    void prepareAxes(bool nothing);
    void drawDensity();
    void drawCorridor(const GoldenLimits& limits, bool other);
    void drawGolden();
    void drawMarked();
    const std::vector<AlignedRun>* linesDrawn() const;
    QRect box() const;  ///< that is being dragged; null where none is
    void drawRun();
    void drawOtherData();  ///< the run as logged where it is mended, where the view lays it over
    void drawPhases();
    void drawExcursions();
    void setRanges();
    QCPGraph* line(const QPen& pen);
    double onAxis(Duration distance) const;  ///< hours, or the indicator's units
    double onAxis(Place place) const { return onAxis(place.time_since_epoch()); }
    QCPRange valuesInSight() const;

    Session& session_;
    Picture picture_;
    std::optional<Instant> pointer_;
    std::optional<Place> place_;
    std::optional<QPoint> pressed_;
    QPoint at_;
    std::set<SpanId> marked_;
};

}  // namespace jacinth::app
