// The run table: figures of every run, histograms that cut, golden runs chosen, runs corrected by hand.
#pragma once

#include "app/base/bench_page.h"
#include "app/base/tables.h"
#include "app/base/time_field.h"
#include "app/screen/histogram_header.h"
#include "app/screen/run_search_form.h"

class QStackedWidget;

namespace jacinth::app {

class RunsPage : public BenchPage {
    Q_OBJECT
  public:
    RunsPage(Session& session, ScreenState& state);
    QString title() const override;
    QString state() const override { return words_; }
    void entered() override;
    QTableView* table() const { return table_; }
    RunTableModel* model() const { return model_; }
    HistogramHeader* histograms() const { return header_; }
    ExpressionEditor* filter() const { return filter_; }

  signals:
    void runAsked(SpanId run);  ///< to be seen on the sheet

  protected:
    void refresh() override;

  private:
    void buildMiddle();
    void buildInspector();
    void buildEditing();
    void connectAll();
    void showTable(RunTable table);
    void showState();
    void addColumn();
    void removeColumn(int column);
    void setGolden(bool golden, bool allShown);
    void exportTable();
    void showRunInHand();
    std::vector<SpanId> selectedRuns() const;
    void edit(const std::function<Status(const std::string& why)>& work);

    ScreenState& screen_;
    QStackedWidget* stack_;
    RunTableModel* model_;
    HistogramHeader* header_;
    QTableView* table_;
    ExpressionEditor *filter_, *column_;
    QLabel *filterSays_, *goldenSays_;
    QComboBox* fleet_;
    RunSearchForm* form_;
    QLineEdit *columnName_, *why_, *editWhy_;
    MomentField *start_, *end_;
    QPushButton *split_, *merge_, *move_, *leaveOut_;
    QString words_;
    std::string applied_;  ///< the filter, once Enter was pressed
};

}  // namespace jacinth::app
