// The list of all marks: filtered by words, kind, author and certainty; several are chosen at once.
#pragma once

#include <QComboBox>
#include <QLineEdit>

#include "app/base/session.h"
#include "app/base/tables.h"
#include "core/label/label_book.h"
#include "store/tracks.h"

namespace jacinth::app {

/// A mark's colour, as the label book has it.
QColor labelColour(const Session& session, const LabelBook& book, const std::string& kind);
/// Its name as it is shown: `flame loss`, `flame loss?` where not sure, `not named yet`.
QString labelName(const Span& label);

class LabelList : public QWidget {
    Q_OBJECT
  public:
    explicit LabelList(Session& session);
    QTableView* table() const { return table_; }
    void fill(const std::vector<Span>& labels);
    void showChosen(const std::vector<SpanId>& ids);
    std::vector<SpanId> shown() const;  ///< in the order of the rows, as filtered
    /// The one after or before it in the list (by 1 or −1), the first or last without one; none at the end.
    SpanId next(SpanId from, int by, bool unnamedOnly) const;

  signals:
    void chosen(const std::vector<SpanId>& ids);
    void opened(SpanId id);  ///< clicked or entered: to be looked at

  private:
    void refilter();
    bool passes(const Span& label) const;
    RowsModel::Row rowOf(const LabelBook& book, const Span& label) const;

    Session& session_;
    RowsModel* model_;
    QTableView* table_;
    QLineEdit* words_;
    QComboBox *kind_, *who_, *certainty_;
    QLabel* state_;
    std::vector<Span> labels_;
    bool filling_ = false;
};

}  // namespace jacinth::app
