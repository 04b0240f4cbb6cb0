// Cycles: the same measure over every stretch between two stops.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/language/expression_editor.h"
#include "app/language/expression_preview.h"
#include "app/survey/cycles_view.h"

namespace jacinth::app {

class CyclesPage : public BenchPage {
    Q_OBJECT
  public:
    explicit CyclesPage(Session& session);
    QString title() const override;
    QString pointerText() const override { return view_->pointerText(); }
    QString figures() const override;
    const CyclePicture* picture() const { return picture_.get(); }

  private:
    void refresh() override;
    void show(std::shared_ptr<const CyclePicture> picture);
    void say(const QString& instead);

    CyclesView* view_;
    QComboBox *kind_, *every_;
    QLineEdit* words_;
    ExpressionEditor* only_;
    QLabel* says_;
    RowsModel* model_;
    QTableView* table_;
    std::shared_ptr<const CyclePicture> picture_;
};

}  // namespace jacinth::app
