// The golden limits of a study: every version, what it was made from, and what can be done with it.
#pragma once

#include <QDialog>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "app/base/ui.h"
#include "store/judgement.h"

namespace jacinth::app {

class LimitsDialog : public QDialog {
    Q_OBJECT
  public:
    LimitsDialog(Session& session, QWidget* parent);

  private:
    void fill();
    void showChosen();
    std::optional<LimitSet> chosen() const;
    void rename();
    void remove();
    void screenAgain();
    QString madeFrom(const LimitSet& set) const;

    Session& session_;
    RowsModel* model_;
    QTableView* table_;
    QLabel* detail_;
    QLineEdit* name_;
    QPushButton *rename_, *remove_, *screen_;
};

}  // namespace jacinth::app
