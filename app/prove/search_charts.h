// What a search found, as pictures: one setting as a curve, two as a map, and catches against false alarms.
#pragma once

#include <QWidget>
#include <optional>

#include "app/base/session.h"
#include "app/plot/chart.h"
#include "work/prove/searching.h"

namespace jacinth::app {

/// What all of them show: the search, the setting of the current rule, and the one that is looked at.
struct ShownSearch {
    std::vector<Vary> vary;
    Searched found;
    Aim aim;
    Settings yours;
};

class SearchChart : public QWidget {
    Q_OBJECT
  public:
    SearchChart(Session& session, const QString& name);
    virtual void show(std::shared_ptr<const ShownSearch> search);
    void setPicked(std::optional<std::size_t> setting);
    /// The setting that is drawn there; none beside all of them.
    virtual std::optional<std::size_t> settingAt(const QPointF& at) const = 0;

  signals:
    void picked(std::size_t setting);

  protected:
    virtual void paint(QPainter& p) = 0;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    bool event(QEvent* e) override;  ///< what a setting did, in a tip
    const Tally& tally(std::size_t setting) const { return search_->found.result.tallies[setting]; }
    double score(std::size_t setting) const { return search_->found.result.scores[setting]; }
    QString wordsFor(std::size_t setting) const;

    Session& session_;
    std::shared_ptr<const ShownSearch> search_;
    std::optional<std::size_t> picked_;
};

/// Catch rate and share of alarms that came true over the one setting, with their ranges; where the aim
/// allows no choice it is shaded.
class SearchCurve : public SearchChart {
  public:
    explicit SearchCurve(Session& session) : SearchChart(session, "searchCurve") {}
    std::optional<std::size_t> settingAt(const QPointF& at) const override;

  protected:
    void paint(QPainter& p) override;

  private:
    ChartArea area() const;
    void paintShare(QPainter& p, const ChartArea& area, bool caught);
};

/// The score over two settings as heat, hatched where the aim does not allow it.
class SearchMap : public SearchChart {
  public:
    explicit SearchMap(Session& session) : SearchChart(session, "searchMap") {}
    std::optional<std::size_t> settingAt(const QPointF& at) const override;
    QRectF cellOf(std::size_t setting) const;

  protected:
    void paint(QPainter& p) override;

  private:
    ChartArea area() const;
    double shade(std::size_t setting) const;
    std::pair<double, double> scoreRange() const;  ///< of what the aim allows
};

/// Every setting by its false alarms and its catches, the front among them as a line.
class TradeOff : public SearchChart {
  public:
    explicit TradeOff(Session& session) : SearchChart(session, "tradeOff") {}
    void show(std::shared_ptr<const ShownSearch> search) override;
    std::optional<std::size_t> settingAt(const QPointF& at) const override;

  protected:
    void paint(QPainter& p) override;

  private:
    ChartArea area() const;
    QPointF placeOf(std::size_t setting) const;
    void paintRange(QPainter& p, std::size_t setting);
    double most_ = 1;  ///< false alarms an asset-month at the right edge
};

}  // namespace jacinth::app
