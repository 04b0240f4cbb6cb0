// Pictures of the window's views, for the documentation.
#pragma once

#include <QString>

namespace jacinth::app {

class MainWindow;

/// Shows each bench at 1280x800 with what the study holds and saves a PNG of each; 0 when all were written.
int takePictures(MainWindow& window, const QString& folder);

}  // namespace jacinth::app
