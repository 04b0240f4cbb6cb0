// The label book: kinds added, changed, merged and removed, each at once and as one step that can be undone;
// the book out and in as a file.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "core/label/label_book.h"

namespace jacinth::app {

class BookDialog : public QDialog {
    Q_OBJECT
  public:
    BookDialog(Session& session, QWidget* parent);

  private:
    void build();
    QWidget* buildFields();
    void fill();
    void showKind();
    void add();
    void change();
    void merge();
    void remove();
    void importBook();
    void exportBook();
    void keepForSite();
    const LabelKind* current() const;
    bool tell(const Status& status);

    Session& session_;
    LabelBook book_;
    std::string chosen_;
    bool showing_ = false;
    RowsModel* model_;
    QTableView* table_;
    QLineEdit *name_, *meaning_, *key_;
    QComboBox *colour_, *parent_;
    QCheckBox* normal_;
    QLabel* trouble_;
    QPushButton *merge_, *remove_;
};

}  // namespace jacinth::app
