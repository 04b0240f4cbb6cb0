// Derived tags: given by an expression, and kept ones. What there are, making and changing them.
#pragma once

#include <QDialog>

#include "app/base/tables.h"
#include "app/base/ui.h"
#include "app/language/expression_editor.h"
#include "app/language/expression_preview.h"
#include "work/survey/kept_tags.h"

namespace jacinth::app {

class DerivedDialog : public QDialog {
    Q_OBJECT
  public:
    /// Opens with that tag in the form, where it is a derived one; else with an empty form.
    DerivedDialog(Session& session, TagId tag, QWidget* parent);

  private:
    void build();
    void wire();
    void fill();
    void load();   ///< the row that is current, into the form
    void clear();  ///< for a new tag
    void keep();
    void removeChosen();
    void makeAgain();
    void showKept(const KeptTag* kept);  ///< null where the current tag is another one
    void check();

    Session& session_;
    bool kept_ = false;  ///< the current tag was calculated once
    RowsModel* model_;
    QTableView* table_;
    QLineEdit *name_, *unit_;
    QComboBox* where_;
    ExpressionEditor* text_;
    ExpressionPreview* preview_;
    QLabel *title_, *help_, *trouble_;
    QPushButton *new_, *again_, *remove_, *keep_;
};

}  // namespace jacinth::app
