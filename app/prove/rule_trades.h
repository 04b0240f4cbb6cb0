// Compared rules in one picture: failures caught against false alarms, each with the curve that other limits
// give.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "app/plot/chart.h"
#include "work/prove/trade_curve.h"

namespace jacinth::app {

struct RuleTrade {
    QString name;
    Proof proof;
    std::optional<TradeCurve> curve;
    bool curveIsKnown = false;  ///< it may still be searched for
};

class RuleTrades : public QWidget {
    Q_OBJECT
  public:
    explicit RuleTrades(Session& session);
    void show(std::vector<RuleTrade> rules);
    void say(const QString& instead);
    const std::vector<RuleTrade>& rules() const { return rules_; }
    /// Where a rule stands with this many false alarms and catches.
    QPointF placeOf(double falsePerAssetMonth, double catchRate) const;

  signals:
    /// A point of a curve was double-clicked.
    void opened(std::size_t rule, double limit);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    bool event(QEvent* e) override;

  private:
    struct Found {
        std::size_t rule;
        std::optional<std::size_t> point;  ///< of its curve; none: the rule as it stands
    };
    std::optional<Found> at(const QPointF& pos) const;
    QPointF placeOf(const Tally& t) const { return placeOf(t.falsePerAssetMonth, t.catchRate()); }
    QPointF placeOf(const Proof& p) const { return placeOf(p.falsePerAssetMonth, p.catchRate.value); }
    ChartArea area() const;
    double shareOf(double falsePerAssetMonth) const;
    void paintTicks(QPainter& p) const;
    void paintCurve(QPainter& p, std::size_t rule) const;
    void paintRule(QPainter& p, std::size_t rule) const;
    Session& session_;
    std::vector<RuleTrade> rules_;
    double most_ = 1;  ///< false alarms an asset-month at the right edge
    QString instead_;
};

}  // namespace jacinth::app
