// Lined-up runs with the golden corridor, one run strong, what is outside in the accent.
#pragma once

#include <qcustomplot.h>

#include <memory>

#include "app/shell/session.h"
#include "work/screening.h"

namespace jacinth::app {

class OverlayPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit OverlayPlot(Session& session, QWidget* parent = nullptr);
    /// What to draw: values on the common scale of the limits.
    struct Picture {
        GoldenLimits limits;
        std::optional<GoldenLimits> other;  ///< drawn over it, dashed
        std::shared_ptr<const std::vector<AlignedRun>> golden;
        std::shared_ptr<const std::vector<AlignedRun>> all;  ///< of every run, drawn as a density
        std::shared_ptr<const GoldenStack> stack;            ///< for the quantile at the pointer
        Series run;                                          ///< of the chosen run; may be empty
        Span runSpan;
        RunScale scale;
        std::vector<Excursion> excursions;
        Bridging bridging;
        QString unit, indicatorUnit;
    };
    void show(Picture picture);
    const Picture& picture() const { return picture_; }
    std::optional<Instant> pointer() const { return pointer_; }
    std::optional<Place> pointerPlace() const { return place_; }
    /// `+10 h 27 min · Cure · limits 49.1 – 52.5 °C · above 97 % of 12 golden runs`.
    QString pointerWords(double value) const;
    /// `n = 12 golden runs in every slice`.
    QString countWords() const;
    QString axisWords() const;

  signals:
    void pointed();
    void momentChosen(jacinth::Instant t);  ///< double-click: this moment of the chosen run

  protected:
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void leaveEvent(QEvent*) override;

  private:
    void draw();
    void prepareAxes(bool nothing);
    void drawDensity();
    void drawCorridor(const GoldenLimits& limits, bool other);
    void drawGolden();
    void drawRun();
    void drawPhases();
    void drawExcursions();
    void setRanges();
    QCPGraph* line(const QPen& pen);
    double onAxis(Place place) const;
    QCPRange valuesInSight() const;

    Session& session_;
    Picture picture_;
    std::optional<Instant> pointer_;
    std::optional<Place> place_;
};

}  // namespace jacinth::app
