// The fixes of the study in the order in which they act, with what can be done to each.
#pragma once

#include <QCheckBox>
#include <QPushButton>

#include "app/base/session.h"
#include "app/base/tables.h"

namespace jacinth::app {

class FixLedger : public QWidget {
    Q_OBJECT
  public:
    explicit FixLedger(Session& session);
    QTableView* table() const { return table_; }
    void fill();
    void choose(FixId fix);
    FixId chosen() const { return currentId<FixId>(table_); }
    /// Up, down and remove, for the inspector.
    QWidget* makeButtons();

  signals:
    void opened(jacinth::FixId fix);  ///< to be edited
    void chosenChanged();
    void stepsAsked();  ///< the ledger makes room for the suspected steps

  private:
    void act(const std::function<Status(Study&, FixId)>& change);
    void updateButtons();
    RowsModel::Row rowOf(const Fix& fix) const;
    Session& session_;
    RowsModel* model_;
    QTableView* table_;
    QCheckBox* all_;
    QPushButton *up_, *down_, *remove_;
};

}  // namespace jacinth::app
