// The application: what an event's handler throws is said in the window in place of ending the program.
#pragma once

#include <QApplication>

namespace jacinth::app {

/// A damaged file or a full disk can make any reading fail: the event is given up, the rest goes on.
class Application : public QApplication {
  public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override;
};

}  // namespace jacinth::app
