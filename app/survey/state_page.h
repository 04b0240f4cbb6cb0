// By state: the values of a tag split by the states of another, and when a cluster of them was.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/survey/state_view.h"

namespace jacinth::app {

class StatePage : public BenchPage {
    Q_OBJECT
  public:
    explicit StatePage(Session& session);
    QString title() const override;
    QString pointerText() const override { return view_->pointerText(); }
    QString figures() const override;
    const std::vector<TimeRange>& when() const { return when_; }

  private:
    void refresh() override;
    void fillChoices();
    const Tag* stateTag() const;
    void keep();
    void pick(const StateView::Cluster& cluster);
    void showWhen(const StateView::Cluster& cluster, std::vector<TimeRange> when);

    StateView* view_;
    QComboBox* by_;
    QLabel *clusterTitle_, *clusterSays_;
    RowsModel* model_;
    QTableView* table_;
    QPushButton *label_, *keep_;
    StateView::Cluster cluster_;  ///< whose stretches the table lists
    std::shared_ptr<const StateView::Picture> picture_;
    std::vector<TimeRange> when_;
    bool filling_ = false;

  signals:
};

}  // namespace jacinth::app
