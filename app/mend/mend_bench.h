// Mend: one tag as logged and mended, the fix in hand on its handles, the ledger of fixes.
#pragma once

#include <QCheckBox>

#include "app/base/bench.h"
#include "app/base/tables.h"
#include "app/base/time_field.h"
#include "app/mend/fix_fields.h"
#include "app/plot/time_plot.h"
#include "work/mend/mending.h"
#include "work/mend/take_out_step.h"

class QButtonGroup;
class QStackedWidget;

namespace jacinth::app {

class FixLedger;
class StepList;
class TrustFields;

class MendBench : public Bench {
    Q_OBJECT
  public:
    explicit MendBench(Session& session);
    void entered() override;
    QString pointerText() const override;
    /// Goes to a fix of the ledger and takes it in hand to be edited.
    void openFix(FixId fix) override;
    void fitValues() override { plot_->fitValues(); }
    /// Begins a fix of the kind in hand over this stretch.
    void takeInHand(TimeRange stretch);
    void takeKind(FixKind kind);  ///< begins a fix of this kind over the stretch in hand
    TimePlot* plot() const { return plot_; }
    QTableView* ledger() const;
    const Fix& draft() const { return draft_; }

  private:
    void buildMiddle();
    void buildInspector();
    void buildKinds(QVBoxLayout* side);
    void buildWays(QVBoxLayout* side);
    void buildHidden(QVBoxLayout* side);
    Reading draftReading() const;
    Reading changeReading() const;
    std::vector<PointMark> pointsOf(TagId id) const;
    void rebuild();  ///< another tag, or the study changed
    void setPanes(const Tag& tag);
    void showDraft();  ///< fields, handles and preview follow the fix in hand
    void showHandles(const FixContext& context);
    void askForFigures();
    QString figuresText(const FixFigures& figures, std::size_t others) const;
    double changedAt(Instant t) const;
    void proposeTwin();
    void readFields();
    void takeHandle(int id);
    void moveHandle(int id, Instant t, double lifted);
    void stepHandle(int id, int samples, int steps);
    void lookAt(Instant t);  ///< brings an end of the fix to the middle of the view
    void fitToReadings(bool withOutlying);
    QString misfitText(int readings, double before, double after,
                       const std::vector<ReadingOff>& outlying) const;
    void enter();
    void light();                    ///< the stretch of the row that was clicked
    void showLower(QWidget* lower);  ///< the ledger, or the suspected steps
    void takeStep();                 ///< the chosen suspected step: its shift in hand
    void takeOutStep();              ///< with those of the tags on its mount
    void judgeChosen(StepVerdict verdict);
    bool whyIsSaid();
    void findSpikes(const SpikeSearch& search, bool everywhere);  ///< the fix that hides them comes in hand
    void addHidden(std::vector<PointMark>& points) const;         ///< where they are asked for
    void bringBackAt(Instant t);                                  ///< the hidden sample that was clicked
    FixContext context() const;
    const Tag* tag() const;
    FixFields* fields() const;
    double valuePerPixel() const;

    QLabel* title_;
    TimePlot* plot_;
    QStackedWidget* lower_;
    FixLedger* ledger_;
    StepList* steps_;
    TrustFields* trust_;
    QCheckBox* showHidden_;
    QButtonGroup* kinds_;
    QLabel *handTitle_, *says_, *misfit_, *figures_;
    std::vector<FixFields*> fields_;  ///< by kind
    QPushButton *enter_, *fit_, *leave_, *leaveOut_;
    MomentField *from_, *to_;
    QLineEdit* why_;
    Fix draft_;
    std::optional<Fix> wanted_;  ///< whose figures are asked for
    double takenAmount_ = 0;     ///< of the handle that is dragged, when it was taken
    TagId builtFor_;
};

}  // namespace jacinth::app
