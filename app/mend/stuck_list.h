// Stuck stretches: looked for beside the work, listed, and the one that is chosen taken in hand to be hidden.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTableView>

#include "app/base/tables.h"
#include "app/mend/list_under_plot.h"
#include "work/mend/stuck_search.h"

namespace jacinth::app {

class StuckList : public ListUnderPlot {
    Q_OBJECT
  public:
    explicit StuckList(Session& session);
    QTableView* table() const { return table_; }
    void fill() override;
    const FoundStuck* chosen() const;

  signals:
    void chosenChanged();

  private:
    void find();
    void say();

    RowsModel* model_;
    QTableView* table_;
    QComboBox* scope_;
    QLineEdit* least_;
    QPushButton* find_;
    QLabel *status_, *sentence_;
    std::vector<FoundStuck> found_;
    bool looked_ = false;
};

}  // namespace jacinth::app
