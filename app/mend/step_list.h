// Suspected false steps: looked for beside the work, listed with a sketch and the reason, and what is done
// about the chosen one.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QPushButton>

#include "app/base/tables.h"
#include "app/mend/list_under_plot.h"
#include "core/series/summary.h"
#include "work/mend/take_out_step.h"

namespace jacinth::app {

class StepList : public ListUnderPlot {
    Q_OBJECT
  public:
    explicit StepList(Session& session);
    QTableView* table() const { return table_; }
    void fill() override;
    /// The chosen step, and those that share its mount; empty where none is chosen.
    std::vector<SuspectedStep> chosen() const;
    std::vector<SuspectedStep> all() const;  ///< that were found
    bool chosenIsOpen() const;               ///< not taken out, and nothing judged about it

  signals:
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
    void buildHead();
    void buildFoot(QVBoxLayout* column);
    void find();  ///< in the scope that is set
    void take(Found found);
    static Found lookedFor(JobContext& job, AssetId asset, TagId only, std::string& trouble);
    RowsModel::Row rowOf(std::size_t place, const std::optional<JudgedStep>& judged) const;
    const Listed* current() const;
    std::vector<Span> spansOf(const std::vector<SuspectedStep>& steps) const;
    void say();  ///< the sentence and the buttons follow the chosen row
    void forget();

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
