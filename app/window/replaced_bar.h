// Above everything while the file of the open study is another one on the disk, or gone: nothing is written
// to it any more. What is open can be saved elsewhere, and the file that is there now opened.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "app/base/session.h"

namespace jacinth::app {

class ReplacedBar : public QWidget {
    Q_OBJECT
  public:
    explicit ReplacedBar(Session& session);

    /// Asks, where something would be lost with the window, whether to save it first; false where the user
    /// would rather stay.
    bool mayLeave();

  signals:
    void openAsked(const QString& path);  ///< the file that is at the study's path now

  private:
    void appear();
    bool saveCopy();
    Session& session_;
    QLabel* message_;
    QPushButton* open_;
    bool settled_ = false;  ///< a copy was saved, or the user gave it up
};

}  // namespace jacinth::app
