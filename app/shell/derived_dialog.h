// Derived tags: given by an expression, worked out anew by themselves. What there are, and making and
// changing them.
#pragma once

#include <QDialog>

#include "app/shell/expression_editor.h"
#include "app/shell/expression_preview.h"
#include "app/shell/ui.h"

namespace jacinth::app {

class DerivedDialog : public QDialog {
    Q_OBJECT
  public:
    /// Opens with that tag in the form, where it is a derived one; else with an empty form.
    DerivedDialog(Session& session, std::int64_t tag, QWidget* parent);

  private:
    void build();
    void wire();
    void fill();
    void load();   ///< the row that is current, into the form
    void clear();  ///< for a new tag
    void keep();
    void takeAway();
    void check();

    Session& session_;
    RowsModel* model_;
    QTableView* table_;
    QLineEdit *name_, *unit_;
    QComboBox* where_;
    ExpressionEditor* text_;
    ExpressionPreview* preview_;
    QLabel *title_, *help_, *trouble_;
    QPushButton *new_, *remove_, *keep_;
};

}  // namespace jacinth::app
