// Tables: their rows, sorting, and what every table offers.
#pragma once

#include <QAbstractButton>
#include <QAbstractTableModel>
#include <QColor>
#include <QHeaderView>
#include <QTableView>
#include <functional>
#include <map>
#include <optional>
#include <unordered_map>

#include "core/base/id.h"
#include "core/time/instant.h"

namespace jacinth::app {

/// What a row is recognised by: an id of any kind, or a number.
struct RowKey {
    std::int64_t number = 0;
    RowKey(std::int64_t n = 0) : number(n) {}
    template <typename Kind>
    RowKey(Id<Kind> id) : number(id.number) {}
    operator std::int64_t() const { return number; }
};

/// A table of texts with one key per row, refilled at once. Cells may carry a colour and a gem. Sorts by
/// value.
class RowsModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    struct Row {
        RowKey key;
        QStringList cells;
        int gem = -1;                ///< facets in the first cell; −1 for no gem
        QColor swatch;               ///< a square of colour in the first cell
        std::optional<bool> ticked;  ///< a tick box in the first cell
        QColor ink;                  ///< of the row; the theme's where not valid
        /// What cells are sorted by where their text does not say it (times, for one), by column.
        std::map<int, double> values;
        /// What stands behind a text that is shortened for the eye: saved as CSV in its place.
        struct Exact {
            QString text, unit;
            bool operator==(const Exact&) const = default;
        };
        std::map<int, Exact> exact;
        void sortBy(int column, std::int64_t value) { values[column] = static_cast<double>(value); }
        void sortBy(int column, Instant t);   ///< saved as ISO 8601 in UTC
        void sortBy(int column, Duration d);  ///< saved in hours
        /// A measured or calculated number: saved with all its digits, its unit in the head.
        void number(int column, double value, const QString& unit = {});
        bool operator==(const Row& other) const = default;
    };
    /// Of a cell and of a head: what is saved, where that is not what is shown.
    static constexpr int kExactRole = Qt::UserRole + 1;
    RowsModel(QStringList header, QObject* parent)
        : QAbstractTableModel(parent), header_(std::move(header)) {}
    /// Rows of the same keys in the same order change in place: what is chosen stays so.
    void setRows(std::vector<Row> rows);
    const std::vector<Row>& rows() const { return rows_; }
    int rowOf(RowKey key) const;
    int rowCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() ? 0 : static_cast<int>(rows_.size());
    }
    int columnCount(const QModelIndex& = {}) const override { return static_cast<int>(header_.size()); }
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    /// By a column, up or down; by −1 in the order in which the rows were given. Stays for rows that come
    /// later.
    void sort(int column, Qt::SortOrder order = Qt::AscendingOrder) override;
    int sortedBy() const { return sortColumn_; }
    Qt::SortOrder sortOrder() const { return sortOrder_; }
    void setGemColours(const QColor& edge, const QColor& inside) { gemEdge_ = edge, gemInside_ = inside; }

  signals:
    void tickToggled(std::int64_t key, bool on);

  private:
    bool less(const Row& a, const Row& b) const;
    std::vector<std::size_t> sorted() const;
    QString exactHead(int column) const;
    void arrange(const std::vector<std::size_t>& order);
    bool changeInPlace(std::vector<Row>& rows);
    QStringList header_;
    std::vector<Row> rows_;                                 ///< as shown
    std::vector<std::size_t> given_;                        ///< for each of them its place in the order given
    mutable std::unordered_map<std::int64_t, int> places_;  ///< of keys in rows_; empty: to be made
    int sortColumn_ = -1;
    Qt::SortOrder sortOrder_ = Qt::AscendingOrder;
    QColor gemEdge_{"#B93A14"}, gemInside_{"#FFFFFF"};
};

/// A quiet table over a RowsModel. `widths` in pixels; the widest (0) takes what is left. A click on a head
/// sorts: up, down, as given. With giveTableCommands.
QTableView* makeTable(RowsModel* model, const QString& name, const std::vector<int>& widths);
/// The same over any model, in its own order.
QTableView* makePlainTable(QAbstractItemModel* model, const QString& name, const std::vector<int>& widths);
/// The key of the current row; 0 for none.
std::int64_t currentKey(const QTableView* table);
/// The same where the keys are ids of one kind.
template <typename AnyId>
AnyId currentId(const QTableView* table) {
    return AnyId(currentKey(table));
}

/// A menu on the right button, and Ctrl+C: copy the chosen rows or all with their heads, save all as CSV,
/// choose which columns are shown.
void giveTableCommands(QTableView* table);
/// A command on the current row, at the top of the table's menu: what a button beside the table does, enabled
/// when the button is; or `run`, which is enabled as long as there is a current row. A row that is clicked
/// with the right button becomes the current one first.
void addRowCommand(QTableView* table, QAbstractButton* button);
void addRowCommand(QTableView* table, const QString& text, std::function<void()> run);
/// Heads and the shown columns of these rows: with tabs between, to be put into a spreadsheet, or as CSV, in
/// which numbers have all their digits and times are ISO 8601, and texts that a spreadsheet would run are
/// guarded.
enum class TableForm { Tabs, Csv };
QString tableText(const QTableView* table, const std::vector<int>& rows, TableForm form);

}  // namespace jacinth::app
