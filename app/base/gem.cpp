#include "app/base/gem.h"

#include <QPainter>
#include <array>

namespace jacinth::app {

void drawGem(QPainter* p, const QPointF& c, double r, int facets, const QColor& edge, const QColor& fill,
             const QColor& inside) {
    const std::array<QPointF, 4> corner{QPointF(c.x(), c.y() - r), QPointF(c.x() + r, c.y()),
                                        QPointF(c.x(), c.y() + r), QPointF(c.x() - r, c.y())};
    p->setPen(QPen(edge, 1.1));
    p->setBrush(inside);
    p->drawPolygon(corner.data(), 4);
    p->setBrush(fill);
    for (std::size_t i = 0; i < 4 && static_cast<int>(i) < facets; ++i) {
        const std::array<QPointF, 3> facet{c, corner[i], corner[(i + 1) % 4]};
        p->drawPolygon(facet.data(), 3);
    }
    p->setBrush(Qt::NoBrush);
}

}  // namespace jacinth::app
