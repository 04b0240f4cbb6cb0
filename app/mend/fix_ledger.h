// The fixes of the study in the order in which they act, with what can be done to each.
#pragma once

#include <QCheckBox>
#include <QPushButton>

#include "app/base/tables.h"
#include "app/mend/list_under_plot.h"

namespace jacinth::app {

class FixLedger : public ListUnderPlot {
    Q_OBJECT
  public:
    explicit FixLedger(Session& session);
    QTableView* table() const { return table_; }
    void fill() override;
    int wantedHeight() const override { return 170; }
    void choose(FixId fix);
    FixId chosen() const { return currentId<FixId>(table_); }
    /// Up, down and remove, for the inspector.
    QWidget* makeButtons();

  signals:
    void opened(jacinth::FixId fix);  ///< to be edited
    void chosenChanged();

  private:
    void act(const std::function<Status(Study&, FixId)>& change);
    void updateButtons();
    RowsModel::Row rowOf(const Fix& fix) const;
    RowsModel* model_;
    QTableView* table_;
    QCheckBox* all_;
    QLabel* empty_;
    QPushButton *up_, *down_, *remove_;
};

}  // namespace jacinth::app
