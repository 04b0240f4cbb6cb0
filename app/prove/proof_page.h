// The proof of the current rule: failures lined up, which were caught, every alarm, and the score.
#pragma once

#include <QCheckBox>
#include <QStackedWidget>

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/prove/lead_up_plot.h"
#include "app/prove/prove_state.h"
#include "app/prove/score_fields.h"

namespace jacinth::app {

class ProofPage : public BenchPage {
    Q_OBJECT
  public:
    ProofPage(Session& session, ProveState& state);
    QString title() const override;
    QString state() const override;
    void entered() override;
    void openSpan(SpanId failure);
    QTableView* failures() const { return failures_; }
    QTableView* alarms() const { return alarms_; }
    LeadUpPlot* leadUp() const { return leadUp_; }
    const std::vector<LeadUpRule>& rulesFound() const { return rules_; }
    QString pointerText() const override { return leadUp_->pointerText(); }

  protected:
    void refresh() override;

  private:
    void buildMiddle();
    void buildInspector();
    std::vector<RowsModel::Row> failureRows() const;
    std::vector<RowsModel::Row> alarmRows() const;
    void showProof();
    void showFailure();
    void showAlarm();
    QLayout* buildLeadUpHead();
    QWidget* buildTables();
    QWidget* buildPartRules();
    void showLeadUp(bool again = false);
    void findRules();
    void showRules();
    void takeRule(bool best);
    const AlarmVerdict* currentAlarm() const;

    ProveState& prove_;
    LeadUpPlot* leadUp_;
    RowsModel *failureModel_, *alarmModel_, *partModel_;
    QTableView *failures_, *alarms_, *partRules_;
    QStackedWidget* below_;  ///< the tables, or the rules from a part of the lead-up
    QLabel *alarmState_, *partWords_;
    QComboBox* look_;
    QLineEdit* length_;
    QCheckBox* quiet_;
    std::vector<LeadUpRule> rules_;  ///< from the marked part
    ScoreFields* score_;
    QLineEdit* also_;
};

}  // namespace jacinth::app
