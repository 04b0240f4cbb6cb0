// Prove: a rule, the failures lined up, and what the rule would have done.
#pragma once

#include "app/base/bench.h"
#include "app/base/tables.h"
#include "app/language/expression_editor.h"
#include "app/language/expression_preview.h"
#include "app/prove/lead_up_plot.h"
#include "work/prove/proving.h"

namespace jacinth::app {

class ProveBench : public Bench {
    Q_OBJECT
  public:
    explicit ProveBench(Session& session);
    void entered() override;
    void openSpan(SpanId failure) override;
    ExpressionEditor* editor() const { return editor_; }
    void startFrom(const QString& rule) { editor_->setPlainText(rule); }
    const std::optional<Proof>& proof() const { return proof_; }
    QTableView* failures() const { return failures_; }
    QTableView* alarms() const { return alarms_; }

  private:
    void buildMiddle();
    void buildInspector();
    void checkText();
    void proveIt();
    QString nameOf(AssetId id) const;
    QString shortTime(Instant t) const;
    std::vector<RowsModel::Row> failureRows() const;
    std::vector<RowsModel::Row> alarmRows() const;
    void showProof();
    void showFigures();
    TagId tagOf(AssetId asset) const;
    void showFailure();
    void showAlarm();
    void showLeadUp();
    std::optional<ProveSpec> specFromFields();

    ExpressionEditor* editor_;
    ExpressionPreview* preview_;
    QLabel* help_;
    QLabel* state_;
    QLabel* leadUpState_;
    LeadUpPlot* leadUp_;
    RowsModel *failureModel_, *alarmModel_;
    QTableView *failures_, *alarms_;
    QLabel* alarmState_;
    struct Figure {
        QLabel *value, *what;
    };
    std::array<Figure, 4> figures_;
    QLineEdit *most_, *least_, *join_, *also_;
    QPushButton* prove_;
    QLabel* proved_;
    QTimer* typing_;
    std::optional<Proof> proof_;
    std::vector<std::string> roles_;
};

}  // namespace jacinth::app
