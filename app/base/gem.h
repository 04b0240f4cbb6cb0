// The lozenge that stands for severity wherever it is shown.
#pragma once

#include <QColor>
#include <QPointF>

class QPainter;

namespace jacinth::app {

/// A lozenge with `facets` of four filled: the severity mark. Also used for check readings (none filled).
void drawGem(QPainter* p, const QPointF& centre, double radius, int facets, const QColor& edge,
             const QColor& fill, const QColor& inside);

}  // namespace jacinth::app
