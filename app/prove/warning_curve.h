// How many failures would be caught if the shortest useful warning were another.
#pragma once

#include <QWidget>

#include "app/base/session.h"
#include "core/prove/prove.h"

namespace jacinth::app {

class WarningCurve : public QWidget {
    Q_OBJECT
  public:
    explicit WarningCurve(Session& session);
    void show(const std::optional<Proof>& proof, const ProveSpec& spec);
    const std::vector<std::pair<Duration, int>>& steps() const { return steps_; }

  protected:
    void paintEvent(QPaintEvent*) override;
    bool event(QEvent* e) override;

  private:
    Session& session_;
    std::vector<std::pair<Duration, int>> steps_;
    ProveSpec spec_;
    int testable_ = 0;
};

}  // namespace jacinth::app
