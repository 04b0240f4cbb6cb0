// Fleet: one role over all assets, the odd one first.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/survey/fleet_view.h"

namespace jacinth::app {

class FleetPage : public BenchPage {
    Q_OBJECT
  public:
    explicit FleetPage(Session& session);
    QString title() const override;
    QString pointerText() const override { return view_->pointerText(); }
    QString figures() const override;
    const FleetPicture* picture() const { return picture_.get(); }

  private:
    void refresh() override;
    void fillRoles();
    void show(std::shared_ptr<const FleetPicture> picture);
    void showInOrder();
    void fillTable();
    QString groupWords(const AssetGroups& groups) const;
    void recordFact();

    FleetView* view_;
    QComboBox *role_, *profile_, *order_;
    QLabel* state_;
    RowsModel* model_;
    QTableView* table_;
    QLabel *factOf_, *known_;
    QLineEdit *factName_, *factValue_;
    QPushButton* record_;
    std::shared_ptr<const FleetPicture> picture_;
    bool filling_ = false;
};

}  // namespace jacinth::app
