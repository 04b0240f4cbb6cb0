#include "app/base/swatch.h"

#include <QPainter>

namespace jacinth::app {

QIcon swatchIcon(const QColor& colour) {
    QPixmap map(12, 12);
    map.fill(Qt::transparent);
    QPainter p(&map);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(colour);
    p.drawRoundedRect(QRectF(1, 1, 10, 10), 2, 2);
    return map;
}

QColor onGround(const Theme& theme, const QColor& colour) {
    if (!theme.dark || colour.lightness() >= 110) return colour;
    QColor lifted;
    lifted.setHsl(colour.hslHue(), std::min(colour.hslSaturation(), 150), 150);
    return lifted;
}

}  // namespace jacinth::app
