// Facts: the table of them, filtered, sorted and edited, one or many at once; and the kinds that the site has
// defined.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSortFilterProxyModel>
#include <QTableView>

#include "app/window/facts_model.h"

namespace jacinth::app {

class FactsDialog : public QDialog {
    Q_OBJECT
  public:
    FactsDialog(Session& session, QWidget* parent);

  private:
    void build();
    QWidget* buildKinds();
    void fill();
    void fillKinds();
    void showKind();
    void keepKind();
    void removeKind();
    void fillDown();
    void clearCells();
    QModelIndexList chosenCells() const;  ///< of the model, in the order of the rows as shown

    Session& session_;
    FactsModel* model_;
    QSortFilterProxyModel* proxy_;
    QTableView* table_;
    QComboBox *of_, *kind_, *type_;
    QLineEdit *filter_, *name_, *unit_, *choices_, *meaning_;
    QLabel* trouble_;
    QPushButton *fillDown_, *removeKind_;
};

}  // namespace jacinth::app
