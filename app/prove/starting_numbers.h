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
    /// The rule as it is now: what is known of another one does not hold for it.
    void follow(const ProveRequest& request);
    /// Looked for soon, once nobody types, unless they are known; settings without a number in the request
    /// get one to begin with.
    void ask(const ProveRequest& request);
    /// None before it is found, and once the rule compares the setting with something else or the study
    /// changed.
    const StartingSetting* of(const std::string& name) const;
    bool looking() const { return underWay_ > 0 || soon_->isActive(); }

  signals:
    void found();  ///< or stopped: looking() is over

  private:
    void look();
    Session& session_;
    QTimer* soon_;
    ProveRequest asked_;
    std::vector<std::string> wanted_, known_;  ///< what the ranges were, or will be, taken from
    std::vector<StartingSetting> ranges_;
    int underWay_ = 0;
};

}  // namespace jacinth::app
