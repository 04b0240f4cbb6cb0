// Runs as rows of a table: who and when, then a column an expression; sorted, and cut by brushes.
#pragma once

#include <QAbstractTableModel>
#include <set>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "work/runs/run_figures.h"

namespace jacinth::app {

class RunTableModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    /// Before the columns of figures: the run with its golden mark, its start, its worst excursion.
    static constexpr int kFixed = 3;
    RunTableModel(Session& session, QObject* parent) : QAbstractTableModel(parent), session_(session) {}

    /// `golden`: with the reason of each.
    void setTable(RunTable table, std::map<SpanId, std::string> golden, std::map<SpanId, int> worst);
    const RunTable& table() const { return table_; }
    /// Keeps only rows whose figure lies between; none removes the brush of this column.
    void setBrush(int column, std::optional<std::pair<double, double>> between);
    std::optional<std::pair<double, double>> brush(int column) const;
    void clearBrushes();
    /// Figures of a column of all rows (before brushing), or of those shown.
    std::vector<double> figures(int column, bool shownOnly) const;
    const Span& runAt(int row) const { return table_.rows[order_[static_cast<std::size_t>(row)]].run; }
    int rowOf(SpanId run) const;
    /// `golden: chosen by hand`; empty for a run that is not.
    QString goldenWords(SpanId run) const;
    bool isGolden(SpanId run) const { return golden_.contains(run); }
    QString columnName(int column) const;  ///< with unit
    /// `duration 20 h – 23 h · max(@air_on_temp) 83 – 86`, for why runs are golden.
    QString brushWords() const;

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    void sort(int column, Qt::SortOrder order) override;

  signals:
    void rowsChanged();

  private:
    void arrange();
    double number(std::size_t row, int column) const;
    QString text(std::size_t row, int column) const;
    Session& session_;
    RunTable table_;
    std::map<SpanId, std::string> golden_;  ///< why
    std::map<SpanId, int> worst_;
    std::map<int, std::pair<double, double>> brushes_;
    std::vector<std::size_t> order_;
    int sortColumn_ = 1;
    Qt::SortOrder sortOrder_ = Qt::AscendingOrder;
};

}  // namespace jacinth::app
