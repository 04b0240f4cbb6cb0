// Causes: what stands behind the excursions, and the sheet as it would be without the chosen ones.
#pragma once

#include <QCheckBox>
#include <optional>
#include <set>

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/screen/run_sheet.h"
#include "app/screen/screen_state.h"
#include "work/causes/find_causes.h"

namespace jacinth::app {

class CausesPage : public BenchPage {
    Q_OBJECT
  public:
    CausesPage(Session& session, ScreenState& state);
    QString title() const override { return "Causes"; }
    QString state() const override { return words_; }
    void entered() override;
    RunSheet* sheet() const { return sheet_; }
    QTableView* table() const { return table_; }
    /// All that was found; nothing before.
    const std::optional<FoundCauses>& found() const { return found_; }

  signals:
    void runAsked(SpanId run);  ///< to be seen on the sheet

  protected:
    void refresh() override;

  private:
    void buildMiddle();
    void buildInspector();
    void find();
    void take(FoundCauses found);
    void leaveOut();  ///< screens without the ticked causes
    void showSheet();
    void showTable();
    void showChosen();
    void mark();
    void setBusy(bool busy, const QString& words = {});
    RowsModel::Row rowOf(const Cause& cause) const;
    const Cause* chosen() const;
    const FoundCauses* shownNow() const { return left_ ? &*left_ : found_ ? &*found_ : nullptr; }

    void see();
    void takeOut();
    void makeLimits();
    void setChosenApart();
    void screenAgain(StepId with, const QString& done);

    ScreenState& screen_;
    RunSheet* sheet_;
    RowsModel* model_;
    QTableView* table_;
    QLabel *sheetTitle_, *sheetWords_, *status_, *chosenTitle_, *chosenSays_;
    QCheckBox* all_;
    QPushButton *find_, *see_, *takeOut_, *mend_, *limits_, *label_, *apart_;
    QLineEdit* why_;
    QString words_;
    std::optional<FoundCauses> found_, left_;
    std::set<int> out_;  ///< ids left out
    TrackId track_;      ///< the runs they were found for
    StepId foundAt_;     ///< the newest step then
};

}  // namespace jacinth::app
