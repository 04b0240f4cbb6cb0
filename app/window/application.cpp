#include "app/window/application.h"

#include <cstdio>

#include "app/window/main_window.h"
#include "work/base/log.h"

namespace jacinth::app {
namespace {

void sayInWindows(const QString& why) {
    log(LogLevel::Error, why.toStdString());
    bool said = false;
    for (QWidget* widget : QApplication::topLevelWidgets())
        if (auto* window = qobject_cast<MainWindow*>(widget)) {
            emit window->session().failed(why);
            said = true;
        }
    if (!said) std::fprintf(stderr, "jacinth: %s\n", qPrintable(why));
}

}  // namespace

bool Application::notify(QObject* receiver, QEvent* event) {
    try {
        return QApplication::notify(receiver, event);
    } catch (const std::exception& e) {
        sayInWindows(QString::fromUtf8(e.what()));
    } catch (...) {
        sayInWindows("Something failed for an unknown reason.");
    }
    return true;
}

}  // namespace jacinth::app
