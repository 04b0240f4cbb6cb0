// Looks for numbers to begin with for the settings of the current rule, in the background.
#pragma once

#include <QObject>
#include <QTimer>

#include "app/base/session.h"
#include "work/prove/starting_ranges.h"

namespace jacinth::app {

class StartingNumbers : public QObject {
    Q_OBJECT
  public:
    StartingNumbers(Session& session, QObject* parent);
    /// Soon, once nobody types; at once nothing where they are known already. Settings that the request has
    /// no number for begin anew.
    void ask(const ProveRequest& request);
    /// None before it is found, and once the rule compares the setting with something else.
    const StartingRange* of(const std::string& name) const;
    bool looking() const { return underWay_ > 0 || soon_->isActive(); }

  signals:
    void found();  ///< or stopped: looking() is over

  private:
    void look();
    Session& session_;
    QTimer* soon_;
    ProveRequest asked_;
    std::vector<std::string> wanted_, known_;  ///< what the ranges were, or will be, taken from
    std::vector<StartingRange> ranges_;
    int underWay_ = 0;
};

}  // namespace jacinth::app
