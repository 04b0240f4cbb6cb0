// Above the pages of Screen while limits or excursions are older than the fixes, limits and runs they depend
// on: what changed, and one button that makes them again.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "app/screen/screen_state.h"

namespace jacinth::app {

class OutOfDateBar : public QWidget {
    Q_OBJECT
  public:
    OutOfDateBar(Session& session, ScreenState& state);
    void refresh();

  private:
    void makeAgainNow();
    Session& session_;
    ScreenState& state_;
    QLabel* says_;
    QPushButton* again_;
};

}  // namespace jacinth::app
