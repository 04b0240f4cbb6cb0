// Under an expression about runs that is being written: for how many runs it is true, or its value for the
// current run.
#pragma once

#include <QLabel>
#include <QTimer>

#include "app/base/session.h"
#include "app/language/expression_editor.h"

namespace jacinth::app {

class RunPreview : public QLabel {
    Q_OBJECT
  public:
    /// Follows what is written in `editor`; `track` says whose runs. Hidden where nothing is written.
    RunPreview(Session& session, ExpressionEditor* editor, std::function<TrackId()> track);

  private:
    void look();
    void calculate();

    Session& session_;
    ExpressionEditor* editor_;
    std::function<TrackId()> track_;
    QTimer* soon_;
};

}  // namespace jacinth::app
