// Where a text is cut off, a tip shows it whole: in cells of tables and lists, in fields and in choices.
#pragma once

#include <QObject>

namespace jacinth::app {

/// Install on the application. A widget that has a tip of its own keeps it.
class WholeTextTips : public QObject {
  public:
    using QObject::QObject;
    /// The text that is cut off at a place of a widget; empty where none is.
    static QString cutTextAt(QWidget* widget, const QPoint& at);

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override;
};

}  // namespace jacinth::app
