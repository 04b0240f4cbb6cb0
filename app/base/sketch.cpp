#include "app/base/sketch.h"

#include <algorithm>

namespace jacinth::app {

void paintSketch(QPainter* p, const QRectF& box, const std::vector<Summary>& columns, TimeRange range,
                 const QColor& ink) {
    double low = 1e300, high = -1e300;
    for (const Summary& c : columns)
        if (c.usable) low = std::min(low, c.least), high = std::max(high, c.greatest);
    if (low > high) return;
    const double size = std::max(high - low, 1e-9);
    QPolygonF line;
    for (const Summary& c : columns) {
        if (!c.usable) continue;
        const double x = box.left() + toNanoseconds(c.firstTime - range.from) /
                                          toNanoseconds(range.length()) * box.width();
        if (x < box.left() - 1 || x > box.right() + 1) continue;
        line << QPointF(x,
                        box.bottom() - (c.sum / static_cast<double>(c.usable) - low) / size * box.height());
    }
    p->setPen(QPen(ink, 1));
    p->setBrush(Qt::NoBrush);
    p->drawPolyline(line);
}

}  // namespace jacinth::app
