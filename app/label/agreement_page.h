// Agreement: two people's labels side by side, how far they agree, and their differences settled one by one.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/base/ui.h"
#include "app/label/agreement_view.h"

namespace jacinth::app {

class AgreementPage : public BenchPage {
    Q_OBJECT
  public:
    explicit AgreementPage(Session& session);
    QString title() const override { return "Agreement"; }
    QString state() const override { return state_; }
    QTableView* list() const { return list_; }
    const Agreement* made() const { return made_ ? &*made_ : nullptr; }
    void choose(int difference);

  private:
    void build();
    void refresh() override;
    void fillPeople();
    void fillList();
    void fillKinds();
    void settle();
    std::optional<Difference> chosenDifference() const;

    AgreementView* view_;
    RowsModel* model_;
    QTableView* list_;
    QComboBox *one_, *two_, *scope_, *kind_;
    QLabel *figures_, *chosenText_;
    QLineEdit* reason_;
    QPushButton *asOne_, *asTwo_, *asKind_;
    std::optional<Agreement> made_;
    QString state_;
    int chosen_ = -1;
};

}  // namespace jacinth::app
