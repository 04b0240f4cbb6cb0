// Finding runs: when one lasts, how long it may be, and what its phases are.
#pragma once

#include "app/base/ui.h"
#include "app/language/expression_editor.h"
#include "app/language/expression_preview.h"
#include "app/screen/screen_state.h"
#include "work/runs/find_runs.h"

namespace jacinth::app {

class RunSearchForm : public QWidget {
    Q_OBJECT
  public:
    RunSearchForm(Session& session, ScreenState& state);
    /// Shows how the runs of the current track were found.
    void follow();

  private:
    std::optional<RunSearch> search();
    void findThem();
    void wire();
    void suggestPhases();
    void suggestCondition();
    Names namesForRuns() const;
    Session& session_;
    ScreenState& state_;
    QComboBox *track_, *from_;
    ExpressionEditor *where_, *phases_;
    ExpressionPreview* preview_;
    QLineEdit *least_, *most_, *join_, *trimStart_, *trimEnd_;
    QLabel *says_, *whereWords_;
    QWidget* more_;
    QPushButton *find_, *moreButton_, *suggested_;
    bool phasesTouched_ = false;
    TrackId shown_;
};

}  // namespace jacinth::app
