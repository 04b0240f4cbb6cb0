// Pictures of the window's views, for the documentation.
#pragma once

#include <QSize>
#include <QString>

namespace jacinth::app {

class MainWindow;

/// Shows each bench with what the study holds and saves a PNG of each; 0 when all were written.
int takePictures(MainWindow& window, const QString& folder, const QSize& size);

}  // namespace jacinth::app
