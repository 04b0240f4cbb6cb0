// Labels from a file: what its columns and its kinds are here, and afterwards what was kept aside and why.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <map>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "work/label/label_files.h"

namespace jacinth::app {

class LabelImportDialog : public QDialog {
    Q_OBJECT
  public:
    LabelImportDialog(Session& session, const QString& name, std::string text, QWidget* parent);

  private:
    void build(const QString& name);
    void fillColumns();
    void fillKinds();
    void take();
    void showTaken(const Result<LabelImport>& done);
    std::map<std::string, std::string> columns() const;  ///< theirs → ours

    Session& session_;
    std::string text_;
    QFormLayout *columnsForm_, *kindsForm_;
    std::map<std::string, QComboBox*> columnOf_;  ///< by ours
    std::map<std::string, QComboBox*> kindOf_;    ///< by theirs
    QLabel* said_;
    RowsModel* asideModel_;
    QTableView* aside_;
    QLineEdit *by_, *times_;
    QPushButton* take_;
};

}  // namespace jacinth::app
