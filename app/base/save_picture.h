// Every plot can be copied and saved as a picture.
#pragma once

#include <QString>

#include "core/base/result.h"

class QMenu;
class QWidget;

namespace jacinth::app {

/// As it stands on screen. By the ending of the path: .svg gives lines and texts, anything else PNG at twice
/// the size on screen. Fails, leaving what was there, where the file cannot be written.
Status savePicture(QWidget* plot, const QString& path);
void copyPicture(QWidget* plot);

/// “Copy picture” and “Save picture…”.
void addPictureCommands(QMenu* menu, QWidget* plot);
/// A menu with these on the right button, for a plot that has no other.
void givePictureMenu(QWidget* plot);

}  // namespace jacinth::app
