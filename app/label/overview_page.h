// Overview: how far the record is labelled, by whom and as what, and where to look next.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/base/ui.h"
#include "app/label/overview_view.h"

namespace jacinth::app {

class OverviewPage : public BenchPage {
    Q_OBJECT
  public:
    explicit OverviewPage(Session& session);
    QString title() const override { return "How far the record is labelled"; }
    QString state() const override { return state_; }
    OverviewView* view() const { return view_; }
    QTableView* next() const { return next_; }

  signals:
    void markAsked(SpanId label);

  private:
    void build();
    void refresh() override;
    void fillShares();
    using Counts = std::vector<std::pair<std::string, MarkCount>>;
    static Counts listed(const MarkCounts& counts) { return {counts.begin(), counts.end()}; }
    void fillCounts(RowsModel* model, QTableView* table, const Counts& counts, const QString& unnamed);
    void fillFact();
    void searchNext();
    void fillNext(const std::vector<DayWorthLabelling>& days);
    void openNext(int row);

    /// A row of the list: a mark that waits, or a day.
    struct Place {
        SpanId label;
        AssetId asset;
        TimeRange range;
    };
    OverviewView* view_;
    RowsModel *nextModel_, *kindModel_, *whoModel_, *factModel_, *groupModel_;
    QTableView *next_, *kinds_, *people_, *facts_, *groups_;
    QLabel* byGroup_;
    QComboBox *by_, *fact_;
    LabelOverview counts_;  ///< without its rows
    std::vector<Place> places_;
    QString state_;
};

}  // namespace jacinth::app
