// Two people's labels side by side: a row each for every asset, and under them where they differ.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "core/label/agreement.h"
#include "store/tracks.h"

namespace jacinth::app {

class AgreementView : public QWidget {
    Q_OBJECT
  public:
    explicit AgreementView(Session& session);
    /// The labels of both, and what differs; drawn over the time in view.
    void show(const QString& one, const QString& two, std::vector<Span> ofOne, std::vector<Span> ofTwo,
              std::vector<Difference> differences);
    void say(const QString& instead);
    void choose(int difference);
    QRectF differenceRect(int difference) const;  ///< as drawn; empty out of sight

  signals:
    void chosen(int difference);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;

  private:
    double xOf(Instant t) const;
    QRectF rowRect(std::size_t asset, int row) const;
    void drawAsset(QPainter& p, std::size_t asset) const;
    void drawLabels(QPainter& p, const QRectF& row, const std::vector<Span>& labels, AssetId asset) const;
    void drawTimes(QPainter& p) const;

    Session& session_;
    QString one_, two_, instead_;
    std::vector<Span> ofOne_, ofTwo_;
    std::vector<Difference> differences_;
    std::vector<AssetId> assets_;
    int chosen_ = -1;
};

}  // namespace jacinth::app
