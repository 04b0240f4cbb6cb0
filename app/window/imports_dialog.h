// What came into the study: every import, what it replaced, and taking one out again.
#pragma once

#include <QDialog>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "app/base/ui.h"
#include "store/imports.h"

namespace jacinth::app {

class ImportsDialog : public QDialog {
    Q_OBJECT
  public:
    ImportsDialog(Session& session, QWidget* parent);

  private:
    void fill();
    void showChosen();
    void askRemoval();
    void remove();
    std::optional<ImportRecord> chosen() const;

    Session& session_;
    RowsModel *model_, *detailModel_;
    QTableView *table_, *detail_;
    QLabel *detailTitle_, *question_;
    QLineEdit* why_;
    QPushButton *remove_, *yes_, *no_;
    QWidget* ask_;
};

}  // namespace jacinth::app
