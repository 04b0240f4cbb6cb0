// The rules that are kept, with their last proofs; any of them, older versions and golden limits side by side
// on the same failures, and combined.
#pragma once

#include <set>

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/prove/failure_matrix.h"
#include "app/prove/prove_state.h"
#include "app/prove/rule_trades.h"

namespace jacinth::app {

class RulesPage : public BenchPage {
    Q_OBJECT
  public:
    RulesPage(Session& session, ProveState& state);
    QString title() const override { return "Rules, side by side"; }
    QString state() const override { return words_; }
    QTableView* table() const { return table_; }
    FailureMatrix* matrix() const { return matrix_; }
    RuleTrades* trades() const { return trades_; }
    const std::optional<ComparedRules>& compared() const { return compared_; }
    /// What stands in the list, by its place.
    struct Listed {
        Rule rule;
        QString name;
        bool unkept = false, limits = false, older = false;
    };
    const std::vector<Listed>& listed() const { return listed_; }

  protected:
    void refresh() override;

  private:
    void buildMiddle();
    void buildInspector();
    void list();
    void readProofs();
    QString stateOf(const Listed& l) const;
    void showList();
    void showDetail();
    void compare();
    void showCompared(const std::vector<NamedRule>& rules, const std::vector<Rule>& from,
                      const ComparedRules& found);
    void drawCurves(const std::vector<NamedRule>& rules);
    void takeFromCurve(std::size_t rule, double limit);
    void openRule();
    void proveAgain();
    void combine();
    const Listed* current() const;
    std::vector<const Listed*> ticked() const;
    QString keyOf(const Listed& l) const;

    ProveState& prove_;
    std::vector<Listed> listed_;
    std::set<QString> ticked_;
    /// The last proof of a version, and what has changed since.
    struct Proved {
        KeptProof kept;
        std::vector<std::string> outOfDate;
    };
    std::map<RuleId, Proved> proofs_;
    std::optional<std::pair<RuleId, QStringList>> differs_;  ///< what proving again said
    std::optional<ComparedRules> compared_;
    std::vector<Rule> comparedRules_;
    /// Curves that still stand: each takes a search. Gone when the study changes.
    std::vector<std::pair<ProveRequest, std::optional<TradeCurve>>> curves_;
    int changes_ = 0;  ///< of the study
    int asked_ = 0;    ///< comparisons; what was asked before the last one is of no use
    RowsModel* model_;
    QTableView* table_;
    FailureMatrix* matrix_;
    RuleTrades* trades_;
    QLabel *detail_, *together_;
    QPushButton *take_, *combine_, *rename_, *remove_, *again_;
    QComboBox* how_;
    QString words_;
};

}  // namespace jacinth::app
