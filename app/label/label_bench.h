// Label: marks dragged over the traces, named by a key of the label book, listed.
#pragma once

#include "app/base/bench.h"
#include "app/base/tables.h"
#include "app/base/time_field.h"
#include "app/plot/time_plot.h"

namespace jacinth::app {

class LabelBench : public Bench {
    Q_OBJECT
  public:
    explicit LabelBench(Session& session);
    void entered() override;
    QString pointerText() const override;
    void openSpan(SpanId label) override;
    void fitValues() override { plot_->fitValues(); }
    /// A new mark over a stretch, with no kind yet; it becomes the current one.
    void mark(TimeRange range, AssetId asset, TagId tag, const QString& note = {});
    /// A mark over an excursion on record.
    void markExcursion(SpanId excursion);
    TimePlot* plot() const { return plot_; }
    QTableView* list() const { return list_; }
    SpanId chosen() const { return chosen_; }

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override;

  private:
    void buildInspector();
    void addMark(TimeRange range, AssetId asset, TagId tag, const QString& note);
    void rebuildPanes();
    void refresh();
    void choose(SpanId id);
    void showChosen();
    void name(const std::string& kind);
    void moveEdge(int id, Instant t);
    void commitEdges();
    void removeChosen();
    void readFields();
    std::optional<Span> chosenSpan() const;

    QLabel* title_;
    TimePlot* plot_;
    RowsModel* model_;
    QTableView* list_;
    QLabel *state_, *chosenTitle_;
    RowsModel* bookModel_;
    QTableView* book_;
    MomentField *from_, *to_;
    QLineEdit* note_;
    QPushButton* remove_;
    SpanId chosen_;
    std::optional<Span> moving_;  ///< the chosen mark while an edge is dragged
};

}  // namespace jacinth::app
