// The current rule kept under a name: what the reader of its alarm is told, and why this version.
#pragma once

#include <QDialog>
#include <QPlainTextEdit>

#include "app/base/ui.h"
#include "app/prove/prove_state.h"

namespace jacinth::app {

class KeepDialog : public QDialog {
    Q_OBJECT
  public:
    KeepDialog(Session& session, ProveState& state, QWidget* parent);

  private:
    void build();
    void follow();
    void take();
    Session& session_;
    ProveState& state_;
    QLineEdit *name_, *meaning_, *advice_, *note_;
    QComboBox* severity_;
    QLabel *says_, *trouble_;
    QPushButton* keep_;
};

}  // namespace jacinth::app
