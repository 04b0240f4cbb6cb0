// A square of colour, for menus and choices.
#pragma once

#include <QIcon>

#include "app/base/theme.h"

namespace jacinth::app {

QIcon swatchIcon(const QColor& colour);
/// A colour of the label book as it is drawn: on dark ground a dark one is lifted, its hue still tells it.
QColor onGround(const Theme& theme, const QColor& colour);

}  // namespace jacinth::app
