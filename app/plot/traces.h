// What is drawn in a pane: a trace of pixel columns, or states as bands.
#pragma once

#include <qcustomplot.h>

#include "core/series/summary.h"

namespace jacinth::app {

/// Pixel columns drawn so that the true least and greatest value of each show. No line across a gap.
class TracePlottable : public QCPAbstractPlottable {
  public:
    TracePlottable(QCPAxis* key, QCPAxis* value, Instant origin)
        : QCPAbstractPlottable(key, value), origin_(origin) {}
    void setColumns(std::vector<Summary> columns) { columns_ = std::move(columns); }
    const std::vector<Summary>& columns() const { return columns_; }
    void setBridging(const Bridging& bridging) { bridging_ = bridging; }
    /// Samples without a value say where the line ends (of a derived tag); else they are bad ones, and
    /// marked.
    void setEnds(bool ends) { ends_ = ends; }
    /// Greatest and least of what lies in the range; none where there is nothing.
    std::optional<QCPRange> values(TimeRange range) const;

    double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }
    QCPRange getKeyRange(bool& found, QCP::SignDomain) const override { return found = false, QCPRange(); }
    QCPRange getValueRange(bool& found, QCP::SignDomain, const QCPRange&) const override {
        return found = false, QCPRange();
    }

  protected:
    void draw(QCPPainter* painter) override;
    void drawLegendIcon(QCPPainter*, const QRectF&) const override {}

  private:
    double x(Instant t) const { return mKeyAxis->coordToPixel(toSeconds(t - origin_)); }
    double y(double v) const { return mValueAxis->coordToPixel(v); }
    QPolygonF pointsOf(const Summary& column) const;  ///< first, least, greatest, last
    std::vector<QPolygonF> lines() const;             ///< broken at gaps
    std::pair<std::size_t, std::size_t> inView() const;
    void drawBadMarks(QCPPainter* painter) const;
    Instant origin_;
    Bridging bridging_;
    bool ends_ = false;
    std::vector<Summary> columns_;
};

/// States of a tag, each stretch as a band with its name where there is room.
class BandPlottable : public QCPAbstractPlottable {
  public:
    BandPlottable(QCPAxis* key, QCPAxis* value, Instant origin)
        : QCPAbstractPlottable(key, value), origin_(origin) {}
    struct Band {
        TimeRange range;
        int code;
    };
    void setBands(std::vector<Band> bands, std::vector<QString> names, std::vector<QColor> colours,
                  QColor ink) {
        bands_ = std::move(bands);
        names_ = std::move(names);
        colours_ = std::move(colours);
        ink_ = ink;
    }
    const std::vector<Band>& bands() const { return bands_; }
    double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }
    QCPRange getKeyRange(bool& found, QCP::SignDomain) const override { return found = false, QCPRange(); }
    QCPRange getValueRange(bool& found, QCP::SignDomain, const QCPRange&) const override {
        return found = false, QCPRange();
    }

  protected:
    void draw(QCPPainter* painter) override;
    void drawLegendIcon(QCPPainter*, const QRectF&) const override {}

  private:
    Instant origin_;
    std::vector<Band> bands_;
    std::vector<QString> names_;
    std::vector<QColor> colours_;
    QColor ink_;
};

}  // namespace jacinth::app
