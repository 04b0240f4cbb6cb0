// What was written down in the time in view: work orders, failures, stops, readings, shift log, alarms.
#pragma once

#include <QTimer>
#include <QWidget>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "app/base/ui.h"

namespace jacinth::app {

class WrittenList : public QWidget {
    Q_OBJECT
  public:
    explicit WrittenList(Session& session);
    QTableView* table() const { return table_; }

  private:
    void update_();
    std::vector<Span> spansOf(const std::vector<SpanId>& ids) const;
    void fillAssets();
    void goTo(const QModelIndex& index);
    void add();
    void edit();
    void remove();

    Session& session_;
    QComboBox *kind_, *asset_;
    QLineEdit* words_;
    RowsModel* model_;
    QTableView* table_;
    QLabel* state_;
    QPushButton *edit_, *remove_;
    QTimer* later_;
};

}  // namespace jacinth::app
