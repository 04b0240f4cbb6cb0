// Suspected false steps: looked for beside the work, listed with a sketch and the reason, and what is done
// about the chosen one.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QPushButton>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "core/series/summary.h"
#include "work/mend/take_out_step.h"

namespace jacinth::app {

class StepList : public QWidget {
    Q_OBJECT
  public:
    explicit StepList(Session& session);
    QTableView* table() const { return table_; }
    void fill();  ///< after a change of the study
    /// The chosen step, and those that share its mount; empty where none is chosen.
    std::vector<SuspectedStep> chosen() const;
    bool chosenIsOpen() const;  ///< not taken out, and nothing judged about it

  signals:
    void ledgerAsked();  ///< the list makes room for the ledger
    void chosenChanged();
    void takeOutAsked();
    /// It is judged to be none; the reason comes from the field of the fix in hand.
    void judged(jacinth::StepVerdict verdict);

  private:
    struct Listed {
        SuspectedStep step;
        std::vector<Summary> sketch;
        TimeRange sketched;
    };
    struct Found {
        std::vector<Listed> steps;
        std::int64_t samples = 0;
    };
    void buildHead(QVBoxLayout* column);
    void buildFoot(QVBoxLayout* column);
    void find();  ///< in the scope that is set
    void take(Found found);
    static Found lookedFor(JobContext& job, AssetId asset, std::string& trouble);
    RowsModel::Row rowOf(std::size_t place, const std::optional<JudgedStep>& judged) const;
    const Listed* current() const;
    void say();  ///< the sentence and the buttons follow the chosen row
    void forget();

    Session& session_;
    Found found_;
    bool looked_ = false;
    RowsModel* model_;
    QTableView* table_;
    QComboBox* scope_;
    QCheckBox* all_;
    QLabel *status_, *sentence_;
    QPushButton *find_, *takeOut_, *process_, *leave_, *forget_;
};

}  // namespace jacinth::app
