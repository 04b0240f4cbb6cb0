// The failures that rules are proved on: all on record, which of them count, and why the others do not.
#pragma once

#include <QCheckBox>

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/base/time_field.h"
#include "app/prove/prove_state.h"

namespace jacinth::app {

class FailuresPage : public BenchPage {
    Q_OBJECT
  public:
    FailuresPage(Session& session, ProveState& state);
    QString title() const override { return "Failures that rules are proved on"; }
    QString state() const override { return words_; }
    QTableView* table() const { return table_; }

  protected:
    void refresh() override;

  private:
    void buildMiddle();
    void buildInspector();
    void fillTable();
    void fillChoices();
    void showFailure();
    void keep(bool asNew);
    void remove();
    void count(std::int64_t key, bool on);
    void takeFrom(bool labels);
    std::vector<SpanId> chosen() const;

    ProveState& prove_;
    RowsModel* model_;
    QTableView* table_;
    QLabel* empty_;
    QComboBox *asset_, *kind_, *labels_;
    MomentField* moment_;
    QLineEdit *note_, *why_, *orders_;
    QPushButton *add_, *change_, *remove_, *see_, *fromLabels_, *fromOrders_;
    QString words_;
};

}  // namespace jacinth::app
