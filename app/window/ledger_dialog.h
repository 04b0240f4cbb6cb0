// The whole ledger: everything that changed data or judgement, newest first. It can only be read.
#pragma once

#include <QDialog>

#include "app/base/session.h"

namespace jacinth::app {

class LedgerDialog : public QDialog {
    Q_OBJECT
  public:
    LedgerDialog(Session& session, QWidget* parent);
};

}  // namespace jacinth::app
