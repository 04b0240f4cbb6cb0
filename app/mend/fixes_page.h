// Fixes: one tag as logged and mended, the fix in hand on its handles, and under the plot the ledger of fixes
// or one of the lists of what is found to mend.
#pragma once

#include <QCheckBox>

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/base/time_field.h"
#include "app/mend/fix_fields.h"
#include "app/plot/time_plot.h"
#include "work/mend/level_change.h"
#include "work/mend/mending.h"
#include "work/mend/take_out_step.h"

class QButtonGroup;
class QStackedWidget;

namespace jacinth::app {

class FixLedger;
class ListUnderPlot;
class ReadingPopup;
class SampleList;
class StepList;
class StuckList;
class TrustFields;

/// What stands under the plot.
enum class UnderPlot { Ledger, Steps, Stuck, Samples };

class FixesPage : public BenchPage {
    Q_OBJECT
  public:
    explicit FixesPage(Session& session);
    QString title() const override;
    void entered() override;
    QString pointerText() const override;
    /// Goes to a fix of the ledger and takes it in hand to be edited.
    void openFix(FixId fix);
    /// Goes to a fix that is not entered yet and takes it in hand, with its reason.
    void takeUp(const Fix& fix, const QString& why);
    void showUnderPlot(UnderPlot list);
    /// Begins a fix of the kind in hand over this stretch.
    void takeInHand(TimeRange stretch);
    void takeKind(FixKind kind);  ///< begins a fix of this kind over the stretch in hand
    TimePlot* plot() const { return plot_; }
    QTableView* ledger() const;
    const Fix& draft() const { return draft_; }

  protected:
    void refresh() override {}  ///< it follows at once: what changes is in sight
    void keyPressEvent(QKeyEvent* e) override;

  private:
    void buildMiddle();
    void buildLower(QVBoxLayout* column);
    ListUnderPlot* list(UnderPlot which);  ///< made when it is first asked for
    StepList* steps();
    StuckList* stuck();
    void buildInspector();
    void buildKinds(QVBoxLayout* side);
    void buildWays(QVBoxLayout* side);
    void buildHidden(QVBoxLayout* side);
    void buildReadings();
    void readingAt(Instant t, const QPoint& at);  ///< a new one, in a panel over the plot
    void showMenu(const QPoint& at);
    void pointTaken(Instant t);  ///< a check reading or a hidden sample was clicked
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
    QString misfitText(int readings, double before, double after, const std::vector<ReadingOff>& outlying,
                       const std::string& sure) const;
    void enter();
    void light();      ///< the stretch of the row that was clicked
    void takeStep();   ///< the chosen suspected step: its fix in hand
    void takeStuck();  ///< the chosen stuck stretch: its hiding in hand
    void takeLevels(Duration margin);
    void takeLevelChange(const Result<LevelChange>& change);
    void markTwoStretches(bool on);
    void takeTwoStretches();
    /// They wait, unseen, while another kind of fix is in hand.
    bool marksTwoStretches() const { return twoStretches_ && draft_.kind() == FixKind::Shift; }
    Instant& edgeOfStretches(int edge);
    void takeOutStep();  ///< with those of the tags on its mount
    void judgeChosen(StepVerdict verdict);
    bool whyIsSaid();
    void labelParts();                                            ///< of the fix that hides, if one is
    void findSpikes(const SpikeSearch& search, bool everywhere);  ///< the fix that hides them comes in hand
    void addHidden(std::vector<PointMark>& points) const;         ///< where they are asked for
    void bringBackAt(Instant t);                                  ///< the hidden sample that was clicked
    FixContext context() const;
    const Tag* tag() const;
    FixFields* fields() const { return fieldsOf(draft_.kind()); }
    FixFields* fieldsOf(FixKind kind) const;  ///< made when they are first asked for
    double valuePerPixel() const;

    TimePlot* plot_;
    QStackedWidget *lower_, *lowerHeads_;
    QButtonGroup* lowerButtons_;
    FixLedger* ledger_;
    std::array<ListUnderPlot*, 4> lists_{};  ///< in the order of UnderPlot; null before they are asked for
    TrustFields* trust_;
    ReadingPopup* reading_;
    QCheckBox* showHidden_;
    QButtonGroup* kinds_;
    QLabel *handTitle_, *says_, *misfit_, *figures_;
    QVBoxLayout* fieldsRoom_;
    mutable std::vector<FixFields*> fields_;  ///< by kind; null before they are asked for
    QPushButton *enter_, *fit_, *leave_, *leaveOut_;
    MomentField *from_, *to_;
    QLineEdit* why_;
    Fix draft_;
    std::optional<Fix> wanted_;  ///< whose figures are asked for
    double takenAmount_ = 0;     ///< of the handle that is dragged, when it was taken
    std::optional<std::pair<TimeRange, TimeRange>> twoStretches_;  ///< marked by hand for a shift
    TagId builtFor_;
};

}  // namespace jacinth::app
