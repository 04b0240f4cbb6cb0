// Preferences of the study: its scales of trust and sign-off, who may set what, and what fixes say.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QPlainTextEdit>

#include "app/base/session.h"
#include "app/base/ui.h"
#include "core/mend/trust.h"

namespace jacinth::app {

class TrustDialog : public QDialog {
    Q_OBJECT
  public:
    TrustDialog(Session& session, QWidget* parent);

  private:
    TrustSettings said() const;
    void fillRules();  ///< the choices follow the grades
    void keep();

    Session& session_;
    TrustSettings before_;
    QLineEdit *trust_, *signOff_;
    QPlainTextEdit* who_;
    QComboBox *soundDownTo_, *filled_, *hidden_, *corrected_;
    QCheckBox* ownFixes_;
    QLabel* trouble_;
};

}  // namespace jacinth::app
