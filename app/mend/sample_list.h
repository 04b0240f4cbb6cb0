// The samples of the tag in view one by one, as logged and as mended, in step with the plot.
#pragma once

#include <QAbstractTableModel>
#include <QLabel>
#include <QTableView>
#include <QTimer>

#include "app/mend/list_under_plot.h"
#include "work/mend/sample_rows.h"

namespace jacinth::app {

/// Texts are made when they are looked at: there may be thousands of rows. Numbers and times are written as a
/// spreadsheet reads them.
class SampleModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column { kTime, kLogged, kMended, kChange, kQuality, kFixes, kColumns };
    SampleModel(const Session& session, QObject* parent) : QAbstractTableModel(parent), session_(session) {}
    void setRows(SampleRows rows, QString unit);
    const SampleRows& samples() const { return rows_; }
    int rowCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() ? 0 : static_cast<int>(rows_.rows.size());
    }
    int columnCount(const QModelIndex& = {}) const override { return kColumns; }
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

  private:
    QString text(const SampleRow& row, int column) const;
    const Session& session_;
    SampleRows rows_;
    QString unit_;
};

class SampleList : public ListUnderPlot {
    Q_OBJECT
  public:
    explicit SampleList(Session& session);
    QTableView* table() const { return table_; }
    void fill() override;

  private:
    void follow();            ///< the row of the cursor
    void rowChosen(int row);  ///< the cursor goes there, and the view where it has to
    void copyView();

    SampleModel* model_;
    QTableView* table_;
    QLabel* status_;
    QTimer* later_;
    bool following_ = false;
};

}  // namespace jacinth::app
