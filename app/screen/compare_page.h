// Two methods or versions of golden limits over each other, and what each would have flagged.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/screen/overlay_plot.h"
#include "app/screen/screen_state.h"
#include "work/limits/compare_limits.h"

namespace jacinth::app {

class ComparePage : public BenchPage {
    Q_OBJECT
  public:
    ComparePage(Session& session, ScreenState& state);
    QString title() const override { return "Limits compared"; }
    QString state() const override { return words_; }
    QString pointerText() const override;
    OverlayPlot* overlay() const { return overlay_; }
    const std::optional<LimitComparison>& comparison() const { return made_; }

  protected:
    void refresh() override;

  private:
    /// One side: a version on record, or a method over today's golden runs.
    struct Choice {
        LimitSetId set;
        LimitMethod method = LimitMethod::Tolerance;
        LineUp lineUp = LineUp::Phases;
    };
    void buildMiddle();
    void buildInspector();
    void fillChoices();
    Choice choiceOf(const QComboBox* box) const;
    void show_(LimitComparison made);
    void showRun();

    ScreenState& screen_;
    OverlayPlot* overlay_;
    QComboBox *a_, *b_, *role_;
    QLabel *says_, *legend_, *axis_;
    RowsModel* model_;
    QTableView* table_;
    QString words_;
    std::optional<LimitComparison> made_;
};

}  // namespace jacinth::app
