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

/// With a style sheet each layout that takes over a widget tells all below it of a new style, while it stays
/// the same: half the time that a page took to make. What has not been shown is told at its first showing.
bool isBeforeItsFirstShowing(const QObject* receiver, const QEvent* event) {
    return event->type() == QEvent::StyleChange && receiver->isWidgetType() &&
           !static_cast<const QWidget*>(receiver)->testAttribute(Qt::WA_WState_Created);
}

}  // namespace

bool Application::notify(QObject* receiver, QEvent* event) {
    if (isBeforeItsFirstShowing(receiver, event)) return true;
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
