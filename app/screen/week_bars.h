// A bar a week, with its figure.
#pragma once

#include <QWidget>

#include "app/base/save_picture.h"
#include "app/base/session.h"

namespace jacinth::app {

class WeekBars : public QWidget {
    Q_OBJECT
  public:
    explicit WeekBars(Session& session) : session_(session) {
        setFixedHeight(80);
        givePictureMenu(this);
    }
    void setHours(std::vector<std::pair<QString, double>> weeks) { weeks_ = std::move(weeks), update(); }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    std::vector<std::pair<QString, double>> weeks_;
};

}  // namespace jacinth::app
