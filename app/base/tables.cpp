#include "app/base/tables.h"

#include <QCollator>
#include <QLocale>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>

#include "app/base/gem.h"

namespace jacinth::app {

void RowsModel::Row::sortBy(int column, Instant t) {
    sortBy(column, epochNanoseconds(t));
    exact[column] = {QString::fromStdString(toIso(t)), {}};
}

void RowsModel::Row::sortBy(int column, Duration d) {
    sortBy(column, static_cast<std::int64_t>(d.count()));
    exact[column] = {QString::number(toHours(d), 'g', QLocale::FloatingPointShortest), "h"};
}

void RowsModel::Row::number(int column, double value, const QString& unit) {
    if (std::isnan(value)) return;
    values[column] = value;
    exact[column] = {QString::number(value, 'g', QLocale::FloatingPointShortest), unit};
}

/// False, without effect, where the rows are others than before.
bool RowsModel::changeInPlace(std::vector<Row>& rows) {
    if (rows.empty() || rows.size() != rows_.size()) return false;
    for (std::size_t i = 0; i < rows_.size(); ++i)
        if (!(rows_[i].key == rows[given_[i]].key)) return false;
    int first = -1, last = -1;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
        Row& now = rows[given_[i]];
        if (now == rows_[i]) continue;
        rows_[i] = std::move(now);
        last = static_cast<int>(i);
        if (first < 0) first = last;
    }
    if (first < 0) return true;
    emit dataChanged(index(first, 0), index(last, columnCount() - 1));
    if (sortColumn_ >= 0) sort(sortColumn_, sortOrder_);
    return true;
}

void RowsModel::setRows(std::vector<Row> rows) {
    if (changeInPlace(rows)) return;
    beginResetModel();
    places_.clear();
    rows_ = std::move(rows);
    given_.resize(rows_.size());
    std::iota(given_.begin(), given_.end(), std::size_t{0});
    if (sortColumn_ >= 0) arrange(sorted());
    endResetModel();
}

namespace {

/// The number that a text begins with, if it does: `−3.4 °C`, `1 250`.
std::optional<double> numberIn(const QString& text) {
    QString digits;
    for (const QChar c : text.trimmed()) {
        if (c == QChar(0x2212))
            digits += '-';
        else if (c.isSpace() && !digits.isEmpty())
            continue;
        else if (c.isDigit() || c == '.' || c == '-' || c == '+' || c == 'e')
            digits += c;
        else
            break;
    }
    bool is = false;
    const double v = digits.toDouble(&is);
    return is ? std::optional(v) : std::nullopt;
}

}  // namespace

bool RowsModel::less(const Row& a, const Row& b) const {
    const auto value = [&](const Row& row) -> std::optional<double> {
        const auto known = row.values.find(sortColumn_);
        if (known != row.values.end()) return known->second;
        if (sortColumn_ == 0 && row.gem >= 0) return row.gem;
        return numberIn(row.cells.value(sortColumn_));
    };
    const auto va = value(a), vb = value(b);
    if (va && vb) return *va < *vb;
    if (va || vb) return va.has_value();           // what has no number stands behind
    static const QCollator byNumbersToo = [] {     // run 2 before run 12
        QCollator out{QLocale(QLocale::English)};  // that of C knows no numbers
        out.setNumericMode(true);
        return out;
    }();
    return byNumbersToo.compare(a.cells.value(sortColumn_), b.cells.value(sortColumn_)) < 0;
}

/// Which of the rows, as they stand, comes first, second, …
std::vector<std::size_t> RowsModel::sorted() const {
    std::vector<std::size_t> order(rows_.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        if (sortColumn_ < 0) return given_[a] < given_[b];
        return sortOrder_ == Qt::AscendingOrder ? less(rows_[a], rows_[b]) : less(rows_[b], rows_[a]);
    });
    return order;
}

void RowsModel::arrange(const std::vector<std::size_t>& order) {
    std::vector<Row> rows;
    std::vector<std::size_t> given;
    for (const std::size_t i : order) {
        rows.push_back(std::move(rows_[i]));
        given.push_back(given_[i]);
    }
    rows_ = std::move(rows);
    given_ = std::move(given);
    places_.clear();
}

void RowsModel::sort(int column, Qt::SortOrder order) {
    sortColumn_ = column;
    sortOrder_ = order;
    emit layoutAboutToBeChanged({}, VerticalSortHint);
    const std::vector<std::size_t> now = sorted();
    std::vector<int> place(now.size());
    for (std::size_t i = 0; i < now.size(); ++i) place[now[i]] = static_cast<int>(i);
    arrange(now);
    const QModelIndexList before = persistentIndexList();
    QModelIndexList after;
    for (const QModelIndex& index : before)
        after.push_back(this->index(place[static_cast<std::size_t>(index.row())], index.column()));
    changePersistentIndexList(before, after);
    emit layoutChanged({}, VerticalSortHint);
}

int RowsModel::rowOf(RowKey key) const {
    if (places_.empty())
        for (std::size_t i = 0; i < rows_.size(); ++i) places_.emplace(rows_[i].key, static_cast<int>(i));
    const auto found = places_.find(key);
    return found == places_.end() ? -1 : found->second;
}

QVariant RowsModel::data(const QModelIndex& index, int role) const {
    const Row& row = rows_[static_cast<std::size_t>(index.row())];
    if (role == Qt::DisplayRole) return row.cells.value(index.column());
    if (role == kExactRole) {
        const auto exact = row.exact.find(index.column());
        if (exact != row.exact.end()) return exact->second.text;
        if (index.column() == 0 && row.ticked && row.cells.value(0).isEmpty())
            return *row.ticked ? "yes" : "no";
        return {};
    }
    if (role == Qt::UserRole) return QVariant::fromValue<qlonglong>(row.key);
    if (role == Qt::ForegroundRole && row.ink.isValid()) return row.ink;
    if (index.column() != 0) return {};
    if (role == Qt::CheckStateRole && row.ticked) return *row.ticked ? Qt::Checked : Qt::Unchecked;
    if (role == Qt::DecorationRole && (row.gem >= 0 || row.swatch.isValid())) {
        QPixmap pixmap(32, 32);
        pixmap.setDevicePixelRatio(2);
        pixmap.fill(Qt::transparent);
        QPainter p(&pixmap);
        p.setRenderHint(QPainter::Antialiasing);
        if (row.gem >= 0)
            drawGem(&p, {8, 8}, 6, row.gem, gemEdge_, gemEdge_, gemInside_);
        else
            p.fillRect(QRectF(3, 3, 10, 10), row.swatch);
        return pixmap;
    }
    return {};
}

/// With the unit of its numbers.
QString RowsModel::exactHead(int column) const {
    std::set<QString> units;
    for (const Row& row : rows_)
        if (const auto exact = row.exact.find(column); exact != row.exact.end())
            units.insert(exact->second.unit);
    units.erase(QString());
    if (units.empty()) return header_[column];
    return header_[column] +
           (units.size() == 1 ? " [" + *units.begin() + "]" : QString(" [each in its unit]"));
}

QVariant RowsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation == Qt::Horizontal && role == Qt::DisplayRole) return header_[section];
    if (orientation == Qt::Horizontal && role == kExactRole) return exactHead(section);
    if (role == Qt::TextAlignmentRole) return int(Qt::AlignLeft | Qt::AlignVCenter);
    return {};
}

bool RowsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (role != Qt::CheckStateRole) return false;
    emit tickToggled(rows_[static_cast<std::size_t>(index.row())].key, value.toInt() == Qt::Checked);
    return true;
}

Qt::ItemFlags RowsModel::flags(const QModelIndex& index) const {
    Qt::ItemFlags f = QAbstractTableModel::flags(index);
    if (index.column() == 0 && rows_[static_cast<std::size_t>(index.row())].ticked)
        f |= Qt::ItemIsUserCheckable;
    return f;
}

QTableView* makePlainTable(QAbstractItemModel* model, const QString& name, const std::vector<int>& widths) {
    auto* table = new QTableView;
    table->setObjectName(name);
    table->setAccessibleName(name);
    table->setModel(model);
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setSelectionMode(QAbstractItemView::SingleSelection);
    table->setShowGrid(false);
    table->setFrameShape(QFrame::NoFrame);
    table->setWordWrap(false);
    table->verticalHeader()->hide();
    table->verticalHeader()->setDefaultSectionSize(21);
    table->horizontalHeader()->setHighlightSections(false);
    table->horizontalHeader()->setFixedHeight(22);
    table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table->setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
    table->setTabKeyNavigation(false);
    for (std::size_t i = 0; i < widths.size(); ++i) {
        if (widths[i] == 0)
            table->horizontalHeader()->setSectionResizeMode(static_cast<int>(i), QHeaderView::Stretch);
        else
            table->setColumnWidth(static_cast<int>(i), widths[i]);
    }
    giveTableCommands(table);
    return table;
}

QTableView* makeTable(RowsModel* model, const QString& name, const std::vector<int>& widths) {
    QTableView* table = makePlainTable(model, name, widths);
    table->horizontalHeader()->setSectionsClickable(true);
    QObject::connect(table->horizontalHeader(), &QHeaderView::sectionClicked, table,
                     [table, model](int column) {
                         const bool same = model->sortedBy() == column;
                         if (same && model->sortOrder() == Qt::DescendingOrder)
                             model->sort(-1);
                         else
                             model->sort(column, same ? Qt::DescendingOrder : Qt::AscendingOrder);
                         table->horizontalHeader()->setSortIndicatorShown(model->sortedBy() >= 0);
                         if (model->sortedBy() >= 0)
                             table->horizontalHeader()->setSortIndicator(column, model->sortOrder());
                     });
    return table;
}

std::int64_t currentKey(const QTableView* table) {
    const QModelIndex i = table->currentIndex();
    return i.isValid() ? i.data(Qt::UserRole).toLongLong() : 0;
}

}  // namespace jacinth::app
