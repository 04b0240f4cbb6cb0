// Ticks of a time axis at round moments of the plant's wall clock.
#pragma once

#include <qcustomplot.h>

#include "core/time/zone.h"

namespace jacinth::app {

/// Axis coordinates are seconds after `origin`: small numbers keep their nanoseconds.
class TimeTicker : public QCPAxisTicker {
  public:
    TimeTicker(Zone zone, Instant origin) : zone_(std::move(zone)), origin_(origin) {}
    /// Round wall-clock moments in the range, about one in `pixelsATick` pixels of `width`.
    std::vector<Instant> moments(TimeRange range, int width, int pixelsATick = 96) const;
    QString label(Instant t, Duration step) const;

  protected:
    double getTickStep(const QCPRange& range) override;
    QVector<double> createTickVector(double step, const QCPRange& range) override;
    QString getTickLabel(double tick, const QLocale& locale, QChar formatChar, int precision) override;
    int getSubTickCount(double) override { return 0; }

  private:
    std::vector<Instant> momentsEvery(Duration step, TimeRange range) const;
    Zone zone_;
    Instant origin_;
    Duration step_ = kHour;
};

/// The smallest round step that gives at most `most` ticks.
Duration roundStep(Duration length, int most);

}  // namespace jacinth::app
