// Mend: one tag as logged and mended, the current fix on its handles, the ledger of fixes.
#pragma once

#include "app/base/bench.h"
#include "app/base/tables.h"
#include "app/base/time_field.h"
#include "app/plot/time_plot.h"

namespace jacinth::app {

class MendBench : public Bench {
    Q_OBJECT
  public:
    explicit MendBench(Session& session);
    void entered() override;
    QString pointerText() const override;
    void openFix(FixId fix) override;
    void fitValues() override { plot_->fitValues(); }
    /// Makes a fix over this stretch the current one.
    void takeInHand(TimeRange stretch);
    TimePlot* plot() const { return plot_; }
    QTableView* ledger() const { return ledger_; }
    const Fix& draft() const { return draft_; }

  private:
    void buildMiddle();
    void buildInspector();
    Reading draftReading(TagId id) const;
    Reading changeReading() const;
    std::vector<PointMark> pointsOf(TagId id) const;
    void rebuild();  ///< another tag, or the study changed
    void newDraft(FixKind kind);
    void showDraft();  ///< fields, handles and preview follow the draft
    void readFields();
    void takeHandle(int id);
    void moveHandle(int id, Instant t, double lifted);
    void fitToReadings();
    void switchChosen();
    void enter();
    void fillLedger();
    std::vector<Fix> withDraft() const;
    const Tag* tag() const;
    double grippedValue(Instant t) const;

    QLabel* title_;
    TimePlot* plot_;
    RowsModel* ledgerModel_;
    QTableView* ledger_;
    QPushButton *ramp_, *shift_, *enter_, *fit_, *remove_;
    MomentField *from_, *to_;
    QLineEdit *startBy_, *endBy_, *endReads_, *why_;
    QWidget* endRows_;
    QLabel* misfit_;
    Fix draft_;
    double takenAmount_ = 0;  ///< of the handle that is dragged, when it was taken
    bool showing_ = false;
    TagId builtFor_;
};

}  // namespace jacinth::app
