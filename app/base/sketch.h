// A trace small enough for a row of a list.
#pragma once

#include <QColor>
#include <QPainter>
#include <vector>

#include "core/series/summary.h"
#include "core/time/instant.h"

namespace jacinth::app {

/// Draws the means of the columns over `range` into the box, from the least to the greatest of them all.
void paintSketch(QPainter* p, const QRectF& box, const std::vector<Summary>& columns, TimeRange range,
                 const QColor& ink);

}  // namespace jacinth::app
